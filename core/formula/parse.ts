import type { SyntaxNode, Tree } from '@lezer/common';
import { canonical, MAX_NUMBER } from '../values/decimal.ts';
import type { Span } from './errors.ts';
import { parser } from './grammar/parser.js';
import { type FormulaProblem, problem } from './problems.ts';
import { printSyntax } from './print.ts';
import { readWell } from './read.ts';
import { type Argument, type BinaryOperator, type Syntax, ungroup } from './syntax.ts';

/** Longer formulas are refused before they are parsed. */
export const MAX_LENGTH = 20_000;
/** Deeper nesting is refused, so that no tree walk can exhaust the stack. */
export const MAX_DEPTH = 400;

export interface Parsed {
  readonly text: string;
  /** null when the text is empty or has an error */
  readonly syntax: Syntax | null;
  readonly problems: readonly FormulaProblem[];
}

class TooDeep extends Error {
  constructor(readonly at: number) {
    super();
  }
}

/**
 * Reads formula text into a syntax tree. Blank text is no formula (syntax null, no problem).
 * Every problem found is given with its place; nothing is thrown. Cost: linear in the text.
 */
export function parseFormula(text: string): Parsed {
  if (text.trim() === '') return { text, syntax: null, problems: [] };
  if (text.length > MAX_LENGTH) {
    const message = `This formula has ${text.length} characters; at most ${MAX_LENGTH} are allowed. Split it over scratch fields.`;
    return { text, syntax: null, problems: [problem('tooLong', { from: MAX_LENGTH, to: text.length }, message)] };
  }
  // nearly every formula that is read is written as it should be; the others are what the grammar is for
  const syntax = readWell(text, MAX_DEPTH);
  return syntax ? { text, syntax, problems: [] } : parseByGrammar(text);
}

/** The same by the grammar alone, of a text that is not blank and not too long: slower, and it knows what is wrong and where. */
export function parseByGrammar(text: string): Parsed {
  const tooDeepAt = bracketDepthExceeded(text);
  const deep = (at: number, message: string): Parsed => ({
    text,
    syntax: null,
    problems: [problem('tooDeep', { from: at, to: at + 1 }, message)],
  });
  if (tooDeepAt !== null) return deep(tooDeepAt, `Brackets are nested more than ${MAX_DEPTH} deep here. Split the formula over scratch fields.`); // prettier-ignore
  const tree = parser.parse(text);
  const syntaxProblem = firstSyntaxProblem(tree, text);
  if (syntaxProblem) return { text, syntax: null, problems: [syntaxProblem] };
  const top = tree.topNode.firstChild;
  let node = top;
  while (node && node.name === 'Comment') node = node.nextSibling;
  if (!node) return { text, syntax: null, problems: [] };
  const problems: FormulaProblem[] = [];
  try {
    const syntax = build(node, text, problems, 0);
    return { text, syntax: problems.some((p) => p.severity === 'error') ? null : syntax, problems };
  } catch (e) {
    if (e instanceof TooDeep)
      return deep(e.at, `More than ${MAX_DEPTH} operations stand in a row or inside each other here. Split the formula over scratch fields, or use SUM, TEXTJOIN or OR with a list.`); // prettier-ignore
    throw e;
  }
}

function bracketDepthExceeded(text: string): number | null {
  let depth = 0;
  let inText = false;
  for (let i = 0; i < text.length; i++) {
    const c = text[i];
    if (c === '"') inText = !inText;
    else if (!inText && c === '(' && ++depth > MAX_DEPTH) return i;
    else if (!inText && c === ')') depth--;
  }
  return null;
}

function firstSyntaxProblem(tree: Tree, text: string): FormulaProblem | null {
  let at: Span | null = null;
  tree.iterate({
    enter(node) {
      if (at) return false;
      if (node.type.isError) at = { from: node.from, to: node.to };
      return undefined;
    },
  });
  return at ? problem('syntax', widen(at, text), describe(at, text)) : null;
}

/** An error node may be empty; a place of at least one character can be underlined. */
function widen(at: Span, text: string): Span {
  if (at.to > at.from) return at;
  if (at.from < text.length) return { from: at.from, to: at.from + 1 };
  return { from: Math.max(0, text.length - 1), to: text.length };
}

function describe(at: Span, text: string): string {
  const quotes = (text.match(/"/g) ?? []).length;
  if (quotes % 2 === 1) return 'A text is not closed: a second " is missing.';
  const opened = (text.match(/\(/g) ?? []).length;
  const closed = (text.match(/\)/g) ?? []).length;
  if (at.from >= text.trimEnd().length) {
    if (opened > closed) return 'A closing bracket ) is missing at the end.';
    return 'Something is missing at the end: a name, a number or a text was expected.';
  }
  const what = text.slice(at.from, Math.max(at.to, at.from + 1)).trim();
  if (what === ')') return closed > opened ? 'This closing bracket has no opening one.' : 'Something is missing before this bracket.';
  if (what.startsWith("'")) return 'Texts are written in double quotes: "like this".';
  if (what.startsWith('==')) return 'Equality is written with one sign: =';
  if (what.startsWith('!=')) return 'Not equal is written <>';
  return what === ''
    ? 'Something is missing here: a name, a number or a text was expected.'
    : `“${what.slice(0, 40)}” was not expected here. Is an operator or a comma missing before it?`;
}

type Problems = FormulaProblem[];

const NO_PART: ReadonlySet<string> = new Set(['Comment', '(', ')', ',', ';', '.', ':']);

function partsOf(node: SyntaxNode): SyntaxNode[] {
  const parts: SyntaxNode[] = [];
  for (let child = node.firstChild; child; child = child.nextSibling) if (!NO_PART.has(child.name)) parts.push(child);
  return parts;
}

function build(node: SyntaxNode, text: string, problems: Problems, depth: number): Syntax {
  if (depth > MAX_DEPTH) throw new TooDeep(node.from);
  const span = { from: node.from, to: node.to };
  const sub = (n: SyntaxNode | undefined): Syntax => {
    if (!n) throw new Error(`formula tree: a part of ${node.name} is missing`);
    return build(n, text, problems, depth + 1);
  };
  const source = (n: SyntaxNode | undefined): string => (n ? text.slice(n.from, n.to) : '');
  const parts = partsOf(node);
  switch (node.name) {
    case 'Number': {
      const raw = Number(source(node));
      if (raw > MAX_NUMBER) problems.push(problem('syntax', span, 'This number is too large.'));
      return { kind: 'number', ...span, value: canonical(raw), text: source(node) };
    }
    case 'Text':
      return { kind: 'text', ...span, value: source(node).slice(1, -1).replaceAll('""', '"') };
    case 'Boolean':
      return { kind: 'yesno', ...span, value: source(node).toUpperCase().startsWith('TRUE') };
    case 'Name':
      return { kind: 'name', ...span, name: source(node) };
    case 'Member': {
      const property = parts[1];
      const propertySpan = property ? { from: property.from, to: property.to } : span;
      return { kind: 'member', ...span, object: sub(parts[0]), property: source(property), propertySpan };
    }
    case 'Group':
      return { kind: 'group', ...span, inner: sub(parts[0]) };
    case 'Call': {
      const [name, list] = parts;
      const args: Argument[] = list
        ? partsOf(list).map((argument) => {
            const inner = partsOf(argument);
            const named = inner[0]?.name === 'NamedArg' ? inner[0] : null;
            return {
              label: named ? source(named).replace(/\s*:\s*$/, '') : null,
              value: sub(named ? inner[1] : inner[0]),
            };
          })
        : [];
      const nameSpan = name ? { from: name.from, to: name.to } : span;
      return { kind: 'call', ...span, name: source(name).toUpperCase(), nameSpan, args };
    }
    case 'UnaryExpr':
      return { kind: 'unary', ...span, operator: source(parts[0]) === '-' ? '-' : '+', operand: sub(parts[1]) };
    case 'NotExpr':
      return { kind: 'unary', ...span, operator: 'NOT', operand: sub(parts[1]) };
    case 'PercentExpr':
      return { kind: 'percent', ...span, operand: sub(parts[0]) };
    case 'BinaryExpr': {
      const [left, op, right] = parts;
      const operator = source(op).toUpperCase() as BinaryOperator;
      const built = {
        kind: 'binary' as const,
        ...span,
        operator,
        operatorSpan: op ? { from: op.from, to: op.to } : span,
        left: sub(left),
        right: sub(right),
      };
      if (operator === 'OR') reportMixed(built, text, problems);
      return built;
    }
    case 'InExpr': {
      const values = parts.filter((p) => p.name !== 'In');
      return { kind: 'in', ...span, item: sub(values[0]), list: values.slice(1).map(sub) };
    }
    case 'BetweenExpr': {
      const values = parts.filter((p) => p.name !== 'Between' && p.name !== 'And');
      return { kind: 'between', ...span, item: sub(values[0]), low: sub(values[1]), high: sub(values[2]) };
    }
    default:
      throw new Error(`formula tree: unexpected node ${node.name}`);
  }
}

/** AND and OR side by side: which binds first is what people get wrong, so brackets are asked for, both ways offered. */
function reportMixed(or: Extract<Syntax, { kind: 'binary' }>, text: string, problems: Problems): void {
  const isAnd = (n: Syntax): n is Extract<Syntax, { kind: 'binary' }> => n.kind === 'binary' && n.operator === 'AND';
  const mixed = [or.left, or.right].find(isAnd);
  if (!mixed) return;
  const onLeft = mixed === or.left;
  const andFirst = `(${text.slice(mixed.from, mixed.to)})`;
  const asIs = onLeft
    ? `${andFirst} OR ${text.slice(or.right.from, or.right.to)}`
    : `${text.slice(or.left.from, or.left.to)} OR ${andFirst}`;
  const orFirst = onLeft
    ? `${printSyntax(mixed.left)} AND (${printSyntax(mixed.right)} OR ${printSyntax(ungroupOnce(or.right))})`
    : `(${printSyntax(ungroupOnce(or.left))} OR ${printSyntax(mixed.left)}) AND ${printSyntax(mixed.right)}`;
  problems.push(
    problem('mixedAndOr', or, 'AND and OR stand side by side. Put brackets around the part that belongs together.', [
      { from: or.from, to: or.to, insert: asIs, label: asIs },
      { from: or.from, to: or.to, insert: orFirst, label: orFirst },
    ]),
  );
}

const ungroupOnce = (node: Syntax): Syntax => (node.kind === 'group' ? ungroup(node) : node);
