import type { SentenceOperator } from '~~/core/choices/sentence.ts';
import { printSyntax } from '~~/core/formula/print.ts';
import { parseFormula } from '~~/core/formula/parse.ts';
import { ungroup } from '~~/core/formula/syntax.ts';
import type { Binding, Scope } from '~~/core/formula/scope.ts';
import * as T from '~~/core/values/typing.ts';
import { showDate } from '~~/core/values/show.ts';

/* The words of condition sentences: operators by type, and what a column may be compared with. */

export const OPERATOR_WORDS: Readonly<Record<SentenceOperator, string>> = {
  '=': 'is', '<>': 'is not', '<': 'is less than', '<=': 'is at most', '>': 'is more than', '>=': 'is at least', isBlank: 'is empty', isNotBlank: 'is filled', isYes: 'is yes', isNo: 'is no', contains: 'contains', in: 'is one of', between: 'is between', holds: 'has',
}; // prettier-ignore
const NOT_WORDS: Partial<Record<SentenceOperator, string>> = {
  contains: 'does not contain',
  in: 'is none of',
  between: 'is not between',
  holds: 'does not have',
};
const DAY_WORDS: Partial<Record<SentenceOperator, string>> = {
  '<': 'is before',
  '<=': 'is on or before',
  '>': 'is after',
  '>=': 'is on or after',
};

export interface OperatorChoice {
  readonly value: string;
  readonly label: string;
  readonly operator: SentenceOperator;
  readonly not: boolean;
}

/** The operators that fit a column's type, with their opposites. */
export function operatorsFor(type: T.Type): OperatorChoice[] {
  const day = type.kind === 'date' || type.kind === 'datetime' || type.kind === 'time';
  const keys: SentenceOperator[] =
    type.kind === 'yesno' ? ['isYes', 'isNo', '=', 'isBlank', 'isNotBlank']
    : type.kind === 'list' ? ['holds', 'isBlank', 'isNotBlank']
    : type.kind === 'row' ? ['=', '<>', 'in', 'isBlank', 'isNotBlank']
    : type.kind === 'choice' ? ['=', '<>', 'in', 'isBlank', 'isNotBlank']
    : type.kind === 'text' ? ['=', '<>', 'contains', 'in', '<', '<=', '>', '>=', 'isBlank', 'isNotBlank']
    : ['=', '<>', '<', '<=', '>', '>=', 'between', 'in', 'isBlank', 'isNotBlank']; // prettier-ignore
  return keys.flatMap((operator) => {
    const label = (day ? DAY_WORDS[operator] : undefined) ?? OPERATOR_WORDS[operator];
    const plain = { value: operator as string, label, operator, not: false };
    const opposite = NOT_WORDS[operator];
    return opposite ? [plain, { value: `not ${operator}`, label: opposite, operator, not: true }] : [plain];
  });
}
/** How many values an operator takes. */
export const valuesTaken = (operator: SentenceOperator): 0 | 1 | 2 | 'many' =>
  operator === 'between' ? 2 : operator === 'in' ? 'many' : ['isBlank', 'isNotBlank', 'isYes', 'isNo'].includes(operator) ? 0 : 1;

/** `TODAY() + 7` as a number of days; null when the text is something else. */
export function daysFromToday(text: string): number | null {
  const match = /^TODAY\(\)(?:\s*([+-])\s*(\d{1,5}))?$/i.exec(text.trim());
  return match ? (match[1] === '-' ? -1 : 1) * Number(match[2] ?? 0) : null;
}
export const fromToday = (days: number): string => (days === 0 ? 'TODAY()' : `TODAY() ${days < 0 ? '-' : '+'} ${Math.abs(days)}`);

/** A fixed value as a formula: quoted text, a number, a date; null when the text is no such value. */
export function constantText(type: T.Type, typed: string): string | null {
  const text = typed.trim();
  const of = type.kind === 'list' ? type.of : type;
  if (T.isTextual(of)) return `"${text.replaceAll('"', '""')}"`;
  if (of.kind === 'number') return /^-?\d+(\.\d+)?$/.test(text.replace(',', '.')) ? text.replace(',', '.') : null;
  const day = /^(\d{4})-(\d{2})-(\d{2})$/.exec(text);
  return of.kind === 'date' && day ? `DATE(${Number(day[1])}, ${Number(day[2])}, ${Number(day[3])})` : null;
}
/** The fixed value a formula is, as one would type it; null when it is no fixed value. */
export function constantIn(text: string): string | null {
  const syntax = parseFormula(text).syntax;
  const node = syntax && ungroup(syntax);
  if (node?.kind === 'text') return node.value;
  if (node?.kind === 'number') return node.text;
  if (node?.kind === 'unary' && node.operator === '-' && node.operand.kind === 'number') return `-${node.operand.text}`;
  if (node?.kind === 'call' && node.name === 'DATE') {
    const parts = node.args.map((a) => (a.value.kind === 'number' ? a.value.value : null));
    const [y, m, d] = parts;
    if (y && m && d) return `${String(y).padStart(4, '0')}-${String(m).padStart(2, '0')}-${String(d).padStart(2, '0')}`;
  }
  return null;
}

export interface ValueChoice {
  readonly value: string;
  readonly label: string;
  readonly note?: string;
}
/** Stand for what is typed instead of picked. */
export const CONSTANT = '\u0000constant';
export const FORMULA = '\u0000formula';

/** What a value of a type may be compared with: fields, columns of chosen rows, the parent, the person, today, the address. */
export function valuesFor(type: T.Type, scope: Scope, own: string): ValueChoice[] {
  const of = type.kind === 'list' ? type.of : type;
  const found: ValueChoice[] = [];
  for (const [key, binding] of scope.bindings) {
    const { source } = binding;
    if (source.kind === 'slot' && key !== own && T.comparable(of, binding.type))
      found.push({ value: key, label: `the ${ownerWords(binding)} ${binding.label}` });
    if (source.kind === 'parent' && T.comparable(of, binding.type)) found.push({ value: key, label: 'the record it is opened under' });
    const leads = binding.type.kind === 'row' && (source.kind === 'slot' || source.kind === 'parent');
    if (!leads || key === own || binding.type.kind !== 'row') continue;
    for (const c of scope.tables.get(binding.type.table)?.columns.values() ?? []) {
      if (c.key !== 'id' && T.comparable(of, c.type) && (c.type.kind !== 'text' || of.kind === 'text'))
        found.push({
          value: `${key}.${c.key}`,
          label: `${source.kind === 'parent' ? 'the opened record' : binding.label}’s ${c.label.toLowerCase()}`,
        });
    }
  }
  if (of.kind === 'row' && of.table === 'people') found.push({ value: 'me', label: 'the person signed in' });
  if (of.kind === 'date') for (const d of [0, -7, -30, 7, 30]) found.push({ value: fromToday(d), label: dayWords(d) });
  if (of.kind === 'text') {
    found.push({ value: 'me.team', label: 'the team of the person signed in' });
    found.push({ value: `entry.url.${own.split('.').at(-1) ?? 'value'}`, label: `“${own.split('.').at(-1) ?? 'value'}” in the address` });
  }
  if (of.kind !== 'row') found.push({ value: CONSTANT, label: 'a fixed value…' });
  found.push({ value: FORMULA, label: 'something else…', note: 'formula' });
  return found;
}
/** Whose field it is: that of the entry, or of the line one stands in. */
const ownerWords = ({ source }: Binding): string =>
  source.kind === 'slot' && source.at !== undefined && !source.outer ? 'line’s' : 'entry’s';
const dayWords = (days: number): string => (days === 0 ? 'today' : days < 0 ? `${-days} days ago` : `in ${days} days`);

/** How a value reads in a sentence. */
export function valueWords(text: string, scope: Scope): string {
  const days = daysFromToday(text);
  if (days !== null) return dayWords(days);
  const constant = constantIn(text);
  if (constant !== null) {
    if (/^DATE/i.test(text)) return showDate(constant, { locale: LOCALE });
    return /^\s*"/.test(text) ? `“${constant}”` : constant;
  }
  const binding = scope.bindings.get(text);
  if (binding?.source.kind === 'slot') return `the ${ownerWords(binding)} ${binding.label}`;
  if (text === 'me') return 'the person signed in';
  if (text === 'parent') return 'the record it is opened under';
  const syntax = parseFormula(text).syntax;
  return syntax ? printSyntax(syntax) : text;
}

/** The columns a sentence may begin with: those of the row, and those of the rows it links to, as paths. */
export function columnChoices(scope: Scope, table: string | null, deep = 2): ValueChoice[] {
  const found: ValueChoice[] = [];
  const walk = (key: string, path: string, words: string, depth: number): void => {
    for (const c of scope.tables.get(key)?.columns.values() ?? []) {
      if (c.key === 'id') continue;
      found.push({ value: `${path}${c.key}`, label: `${words}${c.label.toLowerCase()}` });
      if (c.type.kind === 'row' && depth < deep) walk(c.type.table, `${path}${c.key}.`, `${words}${c.label.toLowerCase()} › `, depth + 1);
    }
  };
  if (table) walk(table, '', '', 1);
  return found.sort((a, b) => a.value.split('.').length - b.value.split('.').length);
}
