import type { Formula } from '../formula/formula.ts';
import { printSyntax } from '../formula/print.ts';
import { type CompareOperator, type Syntax, childrenOf, pathOf, ungroup } from '../formula/syntax.ts';

/*
 * The condition builder is a view of a formula: a condition is read as a tree of AND and OR groups whose leaves are
 * sentences of the forms below. What has none of these forms stays a formula, word for word.
 */

/** The comments of a formula, as they are written, in their order. */
const commentsIn = (text: string): string[] =>
  [...text.matchAll(/"(?:[^"]|"")*"|(\/\*[^]*?\*\/)/g)].flatMap((m) => (m[1] === undefined ? [] : [m[1]]));

/**
 * A condition that was made anew out of its sentences, with the comments of the text it stood for: those that are not in it
 * any more are put before it, since nobody asked for them to go.
 */
export function withComments(before: string, after: string): string {
  const kept = new Set(commentsIn(after));
  const lost = commentsIn(before).filter((c) => !kept.has(c));
  return after.trim() === '' || !lost.length ? after : `${lost.join(' ')} ${after}`;
}

/** What a sentence says of a column. `holds`: a column of several has this one; `contains`: a text has this in it. */
export const SENTENCE_OPERATORS = [
  '=',
  '<>',
  '<',
  '<=',
  '>',
  '>=',
  'isBlank',
  'isNotBlank',
  'isYes',
  'isNo',
  'contains',
  'in',
  'between',
  'holds',
] as const;
export type SentenceOperator = (typeof SENTENCE_OPERATORS)[number];

export type SentencePart =
  | {
      readonly kind: 'simple';
      /** the path after `choice.`; '' is the row itself */
      readonly column: string;
      readonly operator: SentenceOperator;
      /** the opposite is meant: only of contains, in, between and holds, since the others have an opposite of their own */
      readonly not: boolean;
      /** formula texts: none, one, two (between) or many (in); fewer while the sentence is being made (see isFinished) */
      readonly values: readonly string[];
    }
  | { readonly kind: 'group'; readonly any: boolean; readonly not: boolean; readonly parts: readonly SentencePart[] }
  | {
      readonly kind: 'each';
      /** the path after `choice.` to a list: lines, files, links */
      readonly column: string;
      readonly of: Quantifier;
      /** how the parts join, which speak of one of the list: their columns are those after `each.` */
      readonly any: boolean;
      readonly parts: readonly SentencePart[];
    }
  | { readonly kind: 'formula'; readonly text: string };

/** For how many of a list a condition holds. */
export const QUANTIFIERS = ['any', 'all', 'none'] as const;
export type Quantifier = (typeof QUANTIFIERS)[number];
const FUNCTION_OF: Readonly<Record<Quantifier, string>> = { any: 'ANYOF', all: 'ALLOF', none: 'NONEOF' };
export type EachSentence = Extract<SentencePart, { kind: 'each' }>;
/** What a sentence's columns are of: the row on offer (or the entry), or the one of a list that is looked at. */
export type Root = 'choice' | 'each';
/** Behind the path of a list: how many it has. */
export const HOW_MANY = '#';
export const isHowMany = (column: string): boolean => column.endsWith(`.${HOW_MANY}`);
/** A sentence's column as a formula. */
export const columnFormula = (column: string, root: Root): string =>
  isHowMany(column) ? `COUNTA(${columnFormula(column.slice(0, -2), root)})` : column === '' ? root : `${root}.${column}`;

export type SimpleSentence = Extract<SentencePart, { kind: 'simple' }>;

const COMPARES: ReadonlySet<string> = new Set(['=', '<>', '<', '<=', '>', '>=']);
const MIRRORED: Readonly<Record<CompareOperator, CompareOperator>> = { '=': '=', '<>': '<>', '<': '>', '<=': '>=', '>': '<', '>=': '<=' };

/** Reads a condition as sentences, one for each top-level AND part. A blank or broken one gives none. */
export function sentencesOf(formula: Pick<Formula, 'syntax'>): readonly SentencePart[] {
  if (!formula.syntax) return [];
  const whole = partOf(formula.syntax, 'choice');
  return whole.kind === 'group' && !whole.any && !whole.not ? whole.parts : [whole];
}

/** The parts that one operator joins, as they are written: brackets end a run, so that no grouping is lost. */
function joined(node: Syntax, operator: 'AND' | 'OR'): readonly Syntax[] | null {
  if (node.kind === 'binary' && node.operator === operator) return [...(joined(node.left, operator) ?? [node.left]), node.right];
  return node.kind === 'call' && node.name === operator && node.args.length > 1 ? node.args.map((a) => a.value) : null;
}

function partOf(syntax: Syntax, root: Root): SentencePart {
  const node = ungroup(syntax);
  const parts = (of: readonly Syntax[]): SentencePart[] => of.map((p) => partOf(p, root));
  const all = joined(node, 'AND');
  if (all) return { kind: 'group', any: false, not: false, parts: parts(all) };
  const any = joined(node, 'OR');
  if (any) return { kind: 'group', any: true, not: false, parts: parts(any) };
  return eachOf(node, root) ?? simpleOf(node, root) ?? { kind: 'formula', text: printSyntax(syntax) };
}

/** `ANYOF(choice.packets, each.grams > 5)`; what is asked of each may not speak of the row on offer. */
function eachOf(node: Syntax, root: Root): SentencePart | null {
  const of = node.kind === 'call' ? QUANTIFIERS.find((q) => FUNCTION_OF[q] === node.name) : undefined;
  if (node.kind !== 'call' || !of || root === 'each' || node.args.length !== 2) return null;
  const [list, condition] = node.args.map((a) => a.value);
  const column = list && columnOf(list, root);
  if (!column || !condition || reads(condition, root)) return null;
  const inner = partOf(condition, 'each');
  return inner.kind === 'group' && !inner.not
    ? { kind: 'each', column, of, any: inner.any, parts: inner.parts }
    : { kind: 'each', column, of, any: false, parts: [inner] };
}

/** The path after `choice.`, or null when the node is no column of the candidate. */
function columnOf(node: Syntax, root: Root): string | null {
  const inner = ungroup(node);
  const [counted] = inner.kind === 'call' && inner.name === 'COUNTA' && inner.args.length === 1 ? inner.args : [];
  if (counted) {
    const list = columnOf(counted.value, root);
    return list && !isHowMany(list) ? `${list}.${HOW_MANY}` : null;
  }
  const path = pathOf(inner);
  return path && path[0]?.toLowerCase() === root ? path.slice(1).join('.') : null;
}
const reads = (node: Syntax, root: Root): boolean =>
  node.kind === 'name' ? node.name.toLowerCase() === root : childrenOf(node).some((c) => reads(c, root));
const simple = (column: string, operator: SentenceOperator, values: readonly Syntax[] = []): SimpleSentence => ({
  kind: 'simple',
  column,
  operator,
  not: false,
  values: values.map(printSyntax),
});

function simpleOf(node: Syntax, root: Root): SentencePart | null {
  const candidateColumn = (n: Syntax): string | null => columnOf(n, root);
  const readsChoice = (n: Syntax): boolean => reads(n, root);
  const bare = candidateColumn(node);
  if (bare && !isHowMany(bare)) return simple(bare, 'isYes');
  const negation =
    node.kind === 'unary' && node.operator === 'NOT'
      ? node.operand
      : node.kind === 'call' && node.name === 'NOT'
        ? node.args[0]?.value
        : null;
  if (negation) return negated(partOf(negation, root));
  if (node.kind === 'call') {
    const [first, ...rest] = node.args.map((a) => a.value);
    const column = first && candidateColumn(first);
    if (!column || rest.some(readsChoice)) return null;
    if (node.name === 'ISBLANK') return simple(column, 'isBlank');
    return node.name === 'CONTAINSANY' && rest.length === 1 ? simple(column, 'contains', rest) : null;
  }
  if (node.kind === 'in') {
    const column = candidateColumn(node.item);
    if (column !== null && !node.list.some(readsChoice)) return simple(column, 'in', node.list);
    const [list] = node.list;
    const held = list && node.list.length === 1 ? candidateColumn(list) : null;
    return held && !readsChoice(node.item) ? simple(held, 'holds', [node.item]) : null;
  }
  if (node.kind === 'between') {
    const column = candidateColumn(node.item);
    return column && !readsChoice(node.low) && !readsChoice(node.high) ? simple(column, 'between', [node.low, node.high]) : null;
  }
  if (node.kind !== 'binary' || !COMPARES.has(node.operator)) return null;
  const operator = node.operator as CompareOperator;
  const left = candidateColumn(node.left);
  if (left !== null && !readsChoice(node.right)) return simple(left, operator, [node.right]);
  const right = candidateColumn(node.right);
  return right !== null && !readsChoice(node.left) ? simple(right, MIRRORED[operator], [node.left]) : null;
}

/** NOT before a part. Comparisons are left as formulas: with an empty side NOT(a = b) is not the same as a <> b. */
function negated(inner: SentencePart): SentencePart | null {
  if (inner.kind === 'group') return inner.not ? null : { ...inner, not: true };
  // not any of them is none of them; not all, and not none, have no word of their own
  if (inner.kind === 'each') return inner.of === 'any' ? { ...inner, of: 'none' } : null;
  if (inner.kind !== 'simple' || inner.not) return null;
  if (inner.operator === 'isYes') return { ...inner, operator: 'isNo' };
  if (inner.operator === 'isBlank') return { ...inner, operator: 'isNotBlank' };
  return NEGATABLE.has(inner.operator) ? { ...inner, not: true } : null;
}
/** Operators whose opposite is written with NOT. */
export const NEGATABLE: ReadonlySet<SentenceOperator> = new Set(['contains', 'in', 'between', 'holds']);

/** The formula text of one part. */
export function sentenceText(part: SentencePart, root: Root = 'choice'): string {
  if (part.kind === 'formula') return part.text;
  if (part.kind === 'each')
    return `${FUNCTION_OF[part.of]}(${columnFormula(part.column, root)}, ${joinedText(part.parts, part.any, 'each')})`;
  if (part.kind === 'group') {
    const inner = joinedText(part.parts, part.any, root);
    return part.not ? `NOT(${inner})` : `(${inner})`;
  }
  const text = positiveText(part, root);
  return part.not ? `NOT(${text})` : text;
}

function positiveText({ column: path, operator, values }: SimpleSentence, root: Root): string {
  const column = columnFormula(path, root);
  const [first = '""', second = '""'] = values;
  switch (operator) {
    case 'isYes':
      return column;
    case 'isNo':
      return `NOT(${column})`;
    case 'isBlank':
      return `ISBLANK(${column})`;
    case 'isNotBlank':
      return `NOT(ISBLANK(${column}))`;
    case 'contains':
      return `CONTAINSANY(${column}, ${first})`;
    case 'in':
      return `${column} IN (${values.join(', ')})`;
    case 'between':
      return `${column} BETWEEN ${first} AND ${second}`;
    case 'holds':
      return `${first} IN (${column})`;
    default:
      return `${column} ${operator} ${first}`;
  }
}

function joinedText(parts: readonly SentencePart[], any: boolean, root: Root): string {
  const texts = parts.map((p) => {
    const text = sentenceText(p, root);
    // a formula with an OR of its own is put in brackets beside others
    return parts.length > 1 && p.kind === 'formula' && /\b(OR|AND)\b/i.test(text) && !/^\(.*\)$/s.test(text) ? `(${text})` : text;
  });
  return texts.join(any ? ' OR ' : ' AND ');
}

/** How many values an operator takes. */
export const valuesTaken = (operator: SentenceOperator): 0 | 1 | 2 | 'many' =>
  operator === 'between' ? 2 : operator === 'in' ? 'many' : ['isBlank', 'isNotBlank', 'isYes', 'isNo'].includes(operator) ? 0 : 1;

/** Whether a part says something: a sentence has the values its operator takes, a group has a part that is finished. */
export function isFinished(part: SentencePart): boolean {
  if (part.kind === 'group' || part.kind === 'each') return part.parts.some(isFinished);
  if (part.kind === 'formula') return part.text.trim() !== '';
  const taken = valuesTaken(part.operator);
  return part.values.length >= (taken === 'many' ? 1 : taken) && part.values.every((v) => v.trim() !== '');
}

/** Sentences as one condition; null when there are none. What is not finished is left out: it does not apply. */
export function narrowingText(parts: readonly SentencePart[]): string | null {
  const filled = parts.map(finishedParts).filter((p) => p !== null);
  const [only] = filled;
  // one OR at the top needs no brackets
  if (filled.length === 1 && only?.kind === 'group' && !only.not) return joinedText(only.parts, only.any, 'choice');
  return filled.length ? joinedText(filled, false, 'choice') : null;
}

/** A part with only what is finished of it, and no group around a single one; null when nothing is. */
function finishedParts(part: SentencePart): SentencePart | null {
  if (!isFinished(part)) return null;
  if (part.kind !== 'group' && part.kind !== 'each') return part;
  const parts = part.parts.map(finishedParts).filter((p) => p !== null);
  const [only] = parts;
  if (!only) return null;
  return part.kind === 'group' && parts.length === 1 && !part.not ? only : { ...part, parts };
}
