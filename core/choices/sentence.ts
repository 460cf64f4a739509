import type { Formula } from '../formula/formula.ts';
import { printSyntax } from '../formula/print.ts';
import { type CompareOperator, type Syntax, conjuncts, pathOf, ungroup } from '../formula/syntax.ts';

/*
 * The condition builder is a view of a formula: a narrowing is cut at its ANDs, and each part that has one of the
 * forms below reads as a sentence. A part that has not stays a formula, word for word.
 */

export type SentenceOperator = CompareOperator | 'isBlank' | 'isNotBlank' | 'isYes' | 'isNo';

export type SentencePart =
  | {
      readonly kind: 'simple';
      /** path after `choice.` */ readonly column: string;
      readonly operator: SentenceOperator;
      /** formula text; '' where the operator takes none */ readonly value: string;
    }
  | { readonly kind: 'formula'; readonly text: string };

const COMPARES: ReadonlySet<string> = new Set(['=', '<>', '<', '<=', '>', '>=']);
const MIRRORED: Readonly<Record<CompareOperator, CompareOperator>> = { '=': '=', '<>': '<>', '<': '>', '<=': '>=', '>': '<', '>=': '<=' };

/** Reads a narrowing as sentences, one for each top-level AND part. A blank or broken one gives none. */
export function sentencesOf(formula: Pick<Formula, 'syntax'>): SentencePart[] {
  return formula.syntax
    ? conjuncts(formula.syntax).map((part) => sentenceOf(ungroup(part)) ?? { kind: 'formula', text: printSyntax(part) })
    : [];
}

function candidateColumn(node: Syntax): string | null {
  const path = pathOf(ungroup(node));
  return path && path[0] === 'choice' && path.length > 1 ? path.slice(1).join('.') : null;
}
const readsChoice = (node: Syntax): boolean => /(^|[^.\w])choice\b/i.test(printSyntax(node).replace(/"(?:[^"]|"")*"/g, '""'));

function sentenceOf(node: Syntax): SentencePart | null {
  const bare = candidateColumn(node);
  if (bare) return { kind: 'simple', column: bare, operator: 'isYes', value: '' };
  if (node.kind === 'unary' && node.operator === 'NOT') return negated(ungroup(node.operand));
  if (node.kind === 'call' && node.name === 'NOT' && node.args[0]) return negated(ungroup(node.args[0].value));
  if (node.kind === 'call' && node.name === 'ISBLANK' && node.args[0]) {
    const column = candidateColumn(node.args[0].value);
    return column ? { kind: 'simple', column, operator: 'isBlank', value: '' } : null;
  }
  if (node.kind !== 'binary' || !COMPARES.has(node.operator)) return null;
  const operator = node.operator as CompareOperator;
  const left = candidateColumn(node.left);
  if (left && !readsChoice(node.right)) return { kind: 'simple', column: left, operator, value: printSyntax(node.right) };
  const right = candidateColumn(node.right);
  if (right && !readsChoice(node.left))
    return { kind: 'simple', column: right, operator: MIRRORED[operator], value: printSyntax(node.left) };
  return null;
}

function negated(inner: Syntax): SentencePart | null {
  const positive = sentenceOf(inner);
  if (positive?.kind !== 'simple') return null;
  if (positive.operator === 'isYes') return { ...positive, operator: 'isNo' };
  if (positive.operator === 'isBlank') return { ...positive, operator: 'isNotBlank' };
  return null;
}

/** The formula text of one sentence. */
export function sentenceText(part: SentencePart): string {
  if (part.kind === 'formula') return part.text;
  const column = `choice.${part.column}`;
  switch (part.operator) {
    case 'isYes':
      return column;
    case 'isNo':
      return `NOT(${column})`;
    case 'isBlank':
      return `ISBLANK(${column})`;
    case 'isNotBlank':
      return `NOT(ISBLANK(${column}))`;
    default:
      return `${column} ${part.operator} ${part.value}`;
  }
}

/** Sentences as one narrowing; null when there are none. Parts with an OR of their own are put in brackets. */
export function narrowingText(parts: readonly SentencePart[]): string | null {
  if (!parts.length) return null;
  const texts = parts.map((p) => {
    const text = sentenceText(p);
    return parts.length > 1 && p.kind === 'formula' && /\bOR\b/i.test(text) && !/^\(.*\)$/s.test(text) ? `(${text})` : text;
  });
  return texts.join(' AND ');
}
