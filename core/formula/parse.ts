import { printSyntax } from './print.ts';
import type { Span } from './errors.ts';
import { type FormulaProblem, problem } from './problems.ts';
import { type Mixed, isAnd, readText, Unread } from './read.ts';
import { type Syntax, ungroup } from './syntax.ts';

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
  try {
    const { syntax, doubts } = readText(text, MAX_DEPTH);
    if (doubts.length === 0) return { text, syntax, problems: [] };
    const problems = doubts.map((d) => (d.kind === 'number' ? problem('syntax', d, 'This number is too large.') : mixed(d, text)));
    return { text, syntax: null, problems };
  } catch (e) {
    if (e instanceof Unread) return { text, syntax: null, problems: [unread(e, text)] };
    throw e;
  }
}

function unread(e: Unread, text: string): FormulaProblem {
  switch (e.reason) {
    case 'brackets':
      return problem('tooDeep', e, `Brackets are nested more than ${MAX_DEPTH} deep here. Split the formula over scratch fields.`);
    case 'operations':
      return problem('tooDeep', e, `More than ${MAX_DEPTH} operations stand in a row or inside each other here. Split the formula over scratch fields, or use SUM, TEXTJOIN or OR with a list.`); // prettier-ignore
    default:
      return problem('syntax', widen(e, text), describe(e, text));
  }
}

/** What is missing at the end has no place; one of at least one character can be underlined. */
function widen(at: Span, text: string): Span {
  return at.to > at.from ? at : { from: Math.max(0, text.length - 1), to: text.length };
}

function describe(at: Span, text: string): string {
  const count = (sign: RegExp): number => (text.match(sign) ?? []).length;
  if (count(/"/g) % 2 === 1) return 'A text is not closed: a second " is missing.';
  const opened = count(/\(/g);
  const closed = count(/\)/g);
  if (at.from >= text.trimEnd().length) {
    if (opened > closed) return 'A closing bracket ) is missing at the end.';
    return 'Something is missing at the end: a name, a number or a text was expected.';
  }
  const what = text.slice(at.from, at.to);
  if (what === ')') return closed > opened ? 'This closing bracket has no opening one.' : 'Something is missing before this bracket.';
  if (what === "'") return 'Texts are written in double quotes: "like this".';
  if (text.startsWith('/*', at.from) || text.startsWith('/*', at.from - 1)) return 'A comment is not closed: */ is missing.';
  // the first sign is read, the second is what cannot stand there
  if (what === '=' && text[at.from - 1] === '=') return 'Equality is written with one sign: =';
  if (text.startsWith('!=', at.from)) return 'Not equal is written <>';
  return `“${what.slice(0, 40)}” was not expected here. Is an operator or a comma missing before it?`;
}

/** AND and OR side by side: which binds first is what people get wrong, so brackets are asked for, both ways offered. */
function mixed(or: Mixed, text: string): FormulaProblem {
  const onLeft = isAnd(or.left);
  const and = (onLeft ? or.left : or.right) as Mixed;
  const andFirst = `(${text.slice(and.from, and.to)})`;
  const asIs = onLeft
    ? `${andFirst} OR ${text.slice(or.right.from, or.right.to)}`
    : `${text.slice(or.left.from, or.left.to)} OR ${andFirst}`;
  const orFirst = onLeft
    ? `${printSyntax(and.left)} AND (${printSyntax(and.right)} OR ${printSyntax(ungroupOnce(or.right))})`
    : `(${printSyntax(ungroupOnce(or.left))} OR ${printSyntax(and.left)}) AND ${printSyntax(and.right)}`;
  return problem('mixedAndOr', or, 'AND and OR stand side by side. Put brackets around the part that belongs together.', [
    { from: or.from, to: or.to, insert: asIs, label: asIs },
    { from: or.from, to: or.to, insert: orFirst, label: orFirst },
  ]);
}

const ungroupOnce = (node: Syntax): Syntax => (node.kind === 'group' ? ungroup(node) : node);
