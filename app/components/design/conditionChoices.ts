import { HOW_MANY, QUANTIFIERS, type Quantifier, type SentenceOperator, isHowMany } from '~~/core/choices/sentence.ts';
import { FILES } from '~~/core/model/tables.ts';
import { printSyntax } from '~~/core/formula/print.ts';
import { parseFormula } from '~~/core/formula/parse.ts';
import { ungroup } from '~~/core/formula/syntax.ts';
import type { Binding, Scope } from '~~/core/formula/scope.ts';
import { COMPARE_WORDS, DAY_WORDS, dayWords, daysFromToday as daysOf, lowerFirst, ownerWords } from '~~/core/formula/words.ts';
import * as T from '~~/core/values/typing.ts';
import { showDate } from '~~/core/values/show.ts';
import { linesTable } from '~~/core/engine/scopes.ts';

/* What the parts of a condition sentence can be exchanged for: operators by type, columns, and what one may be compared with. */

const OPERATOR_WORDS: Readonly<Record<SentenceOperator, string>> = {
  ...COMPARE_WORDS, isBlank: 'is empty', isNotBlank: 'is filled', isYes: 'is yes', isNo: 'is no', contains: 'contains', in: 'is one of', between: 'is between', holds: 'has',
}; // prettier-ignore
const NOT_WORDS: Partial<Record<SentenceOperator, string>> = {
  contains: 'does not contain',
  in: 'is none of',
  between: 'is not between',
  holds: 'does not have',
};
export const QUANTIFIER_WORDS: Readonly<Record<Quantifier, string>> = { any: 'any of them', all: 'all of them', none: 'none of them' };
/** For how many of a list of rows something holds: what stands where the operator of a sentence stands. */
export const quantifiersFor = (type: T.Type): { value: Quantifier; label: string }[] =>
  type.kind === 'list' && type.of.kind === 'row' ? QUANTIFIERS.map((value) => ({ value, label: QUANTIFIER_WORDS[value] })) : [];
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
    : type.kind === 'list' && type.of.kind === 'row' && isOwned(type.of.table) ? ['isBlank', 'isNotBlank']
    : type.kind === 'list' ? ['holds', 'isBlank', 'isNotBlank']
    : type.kind === 'row' ? ['=', '<>', 'in', 'isBlank', 'isNotBlank']
    : type.kind === 'choice' ? ['=', '<>', 'in', 'isBlank', 'isNotBlank']
    : type.kind === 'text' ? ['=', '<>', 'contains', 'in', '<', '<=', '>', '>=', 'isBlank', 'isNotBlank']
    : ['=', '<>', '<', '<=', '>', '>=', 'between', 'in', 'isBlank', 'isNotBlank']; // prettier-ignore
  return keys.flatMap((operator) => {
    const label = (day ? (DAY_WORDS as Partial<Record<SentenceOperator, string>>)[operator] : undefined) ?? OPERATOR_WORDS[operator];
    const plain = { value: operator as string, label, operator, not: false };
    const opposite = NOT_WORDS[operator];
    return opposite ? [plain, { value: `not ${operator}`, label: opposite, operator, not: true }] : [plain];
  });
}
/** Lines and files stand in the entry alone: nobody compares one with another. */
const isOwned = (table: string): boolean => table === FILES || table.startsWith(LINES_TABLE);
export const LINES_TABLE = linesTable('');
/** `TODAY() + 7` as a number of days; null when the text is something else. */
export function daysFromToday(text: string): number | null {
  const { syntax } = parseFormula(text);
  return syntax ? daysOf(ungroup(syntax)) : null;
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

/** What can stand in a place of a sentence; `inside` are the choices that a link leads on to. */
export interface ValueChoice {
  readonly value: string;
  readonly label: string;
  readonly note?: string;
  readonly inside?: () => readonly ValueChoice[];
}
/** Stand for what is typed instead of picked. */
export const CONSTANT = '\u0000constant';
export const FORMULA = '\u0000formula';
/** How many links a path may lead through, and how many paths are searched at once. */
const MOST_LINKS = 3;
const MOST_PATHS = 600;

const ofList = (type: T.Type): T.Type => (type.kind === 'list' ? type.of : type);
/** Texts are compared with texts: a number column is no use to a name, although both can be written. */
const useful = (wanted: T.Type, type: T.Type): boolean =>
  !T.isOpen(type) && T.comparable(wanted, type) && (type.kind !== 'text' || wanted.kind === 'text' || wanted.kind === 'choice');

/** The column a condition is about, for what is likely to be compared with it. */
export interface About {
  readonly key: string;
  readonly label: string;
}

/**
 * What a value of a type may be compared with, the likeliest first: fields of the column's own name, other fields, the person, today,
 * columns of chosen rows (through up to three links), the address, a fixed value, a formula.
 */
export function valuesFor(type: T.Type, scope: Scope, own: string, about: About | null = null): ValueChoice[] {
  const of = ofList(type);
  const found: (ValueChoice & { rank: number })[] = [];
  const put = (rank: number, choice: ValueChoice): void => void found.push({ ...choice, rank });
  const same = (key: string, label: string): boolean =>
    about !== null && (key.split('.').at(-1) === about.key || label.toLowerCase() === about.label.toLowerCase());
  for (const [key, binding] of scope.bindings) {
    const { source } = binding;
    if (key === own || (source.kind !== 'slot' && source.kind !== 'parent')) continue;
    const who = source.kind === 'parent' ? 'the opened record' : binding.label;
    if (useful(of, binding.type))
      put(same(key, binding.label) || (of.kind === 'row' && same(key, '')) ? 0 : of.kind === 'row' ? 1 : 2, {
        value: key,
        label: source.kind === 'parent' ? 'the record it is opened under' : `the ${ownerWords(binding)} ${binding.label}`,
      });
    if (binding.type.kind !== 'row') continue;
    for (const choice of throughLink(scope, binding.type.table, `${key}.`, `${who}’s `, of, 1)) put(same(choice.value, '') ? 3 : 5, choice);
  }
  if (of.kind === 'row' && of.table === 'people') put(1, { value: 'me', label: 'the person signed in' });
  if (of.kind === 'date') for (const d of [0, -7, -30, 7, 30]) put(4, { value: fromToday(d), label: dayWords(d) });
  if (of.kind === 'text') {
    const name = about?.key.split('.').at(-1) ?? 'value';
    put(6, { value: 'me.team', label: 'the team of the person signed in' });
    put(6, { value: `entry.url.${name}`, label: `“${name}” in the link` });
  }
  put(7, { value: CONSTANT, label: 'a fixed value…' });
  put(8, { value: FORMULA, label: 'something else…', note: 'formula' });
  return found.sort((a, b) => a.rank - b.rank).map(({ rank: _, ...choice }) => choice);
}

/** Columns of a chosen row that can be compared, and doors to the rows it links to where those have such columns. */
function throughLink(scope: Scope, table: string, path: string, words: string, of: T.Type, links: number): ValueChoice[] {
  const found: ValueChoice[] = [];
  for (const c of scope.tables.get(table)?.columns.values() ?? []) {
    if (c.key === 'id') continue;
    const label = `${words}${lowerFirst(c.label)}`;
    if (useful(of, c.type)) found.push({ value: path + c.key, label });
    const further = c.type;
    if (further.kind !== 'row' || links >= MOST_LINKS) continue;
    const inside = (): ValueChoice[] => throughLink(scope, further.table, `${path}${c.key}.`, `${label}’s `, of, links + 1);
    if (inside().length) found.push({ value: `${path}${c.key}.`, label: `${label}’s …`, inside });
  }
  return found;
}

/** How a value reads in a sentence. */
export function valueText(text: string, scope: Scope): string {
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
  return pathText(text, scope) ?? writtenAnew(text);
}
function writtenAnew(text: string): string {
  const { syntax } = parseFormula(text);
  return syntax ? printSyntax(syntax) : text;
}
/** `plot.site.region` as “Plot’s site’s region”. */
function pathText(text: string, scope: Scope): string | null {
  const [root = '', ...keys] = text.split('.');
  const binding: Binding | undefined = scope.bindings.get(root);
  if (!binding || !keys.length || (binding.source.kind !== 'slot' && binding.source.kind !== 'parent')) return null;
  const labels = columnsOn(scope, binding.type, keys);
  const who = binding.source.kind === 'parent' ? 'the opened record' : binding.label;
  return labels && `${who}’s ${labels.map(lowerFirst).join('’s ')}`;
}
/** The labels of the columns on a path from a row; null where one of them is none. */
function columnsOn(scope: Scope, from: T.Type, keys: readonly string[]): string[] | null {
  const labels: string[] = [];
  let at = from;
  for (const key of keys) {
    const column = at.kind === 'row' ? scope.tables.get(at.table)?.columns.get(key) : undefined;
    if (!column) return null;
    labels.push(column.label);
    at = column.type;
  }
  return labels;
}

/** The columns a sentence may begin with: those of the row, and through its links those of the rows it leads to. */
export function columnChoices(scope: Scope, table: string | null): ValueChoice[] {
  return table ? columnsFrom(scope, table, '', '', 0) : [];
}
function columnsFrom(scope: Scope, table: string, path: string, words: string, links: number): ValueChoice[] {
  const found: ValueChoice[] = [];
  for (const c of scope.tables.get(table)?.columns.values() ?? []) {
    if (c.key === 'id') continue;
    const label = words + lowerFirst(c.label);
    const { type } = c;
    found.push({ value: path + c.key, label });
    if (type.kind === 'list') found.push({ value: `${path}${c.key}.${HOW_MANY}`, label: `number of ${label}` });
    if (type.kind === 'row' && links < MOST_LINKS)
      found.push({
        value: `${path}${c.key}.`,
        label: `${label} › …`,
        inside: () => columnsFrom(scope, type.table, `${path}${c.key}.`, `${label} › `, links + 1),
      });
  }
  // what can be taken at once stands before what leads on
  return found.sort((a, b) => Number(Boolean(a.inside)) - Number(Boolean(b.inside)));
}
/** All that choices lead to, for a search: those near first, as many as are searched at once. */
export function everyChoice(choices: readonly ValueChoice[]): ValueChoice[] {
  const all: ValueChoice[] = [];
  let level = choices;
  while (level.length && all.length < MOST_PATHS) {
    all.push(...level.filter((c) => !c.inside));
    level = level.flatMap((c) => c.inside?.() ?? []);
  }
  return all.slice(0, MOST_PATHS);
}
/** How a path over the row on offer reads. */
export function columnText(path: string, scope: Scope, table: string | null): string {
  if (path === '') return table !== null && isOwned(table) ? 'it' : 'the row';
  if (isHowMany(path)) return `number of ${columnText(path.slice(0, -2), scope, table)}`;
  const labels = table && columnsOn(scope, T.rowOf(table), path.split('.'));
  return labels ? labels.map(lowerFirst).join(' › ') : path.replaceAll('_', ' ');
}
/** Which column of which table a path over the row on offer ends in; null when it is none. */
export function columnAt(
  path: string,
  scope: Scope,
  table: string | null,
): { table: string; key: string; label: string; type: T.Type } | null {
  let at: T.Type = table ? T.rowOf(table) : T.UNKNOWN;
  let found: ReturnType<typeof columnAt> = null;
  for (const key of path === '' ? [] : path.split('.')) {
    const of = at.kind === 'row' ? at.table : null;
    const column = of === null ? undefined : scope.tables.get(of)?.columns.get(key);
    if (of === null || !column) return null;
    found = { table: of, key, label: column.label, type: column.type };
    at = column.type;
  }
  return found;
}
