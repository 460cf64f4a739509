import type { Checked } from './check.ts';
import { partsOf } from './formula.ts';
import { printSyntax } from './print.ts';
import type { Binding, TableShape } from './scope.ts';
import { type CompareOperator, type Syntax, pathOf, rootOf, ungroup } from './syntax.ts';
import type { Type } from '../values/typing.ts';

/*
 * What a condition says, in words: “its region is the entry’s Region (North Marrow)”, never `region = region`. A view for
 * readers; what has no words of its own stays formula text.
 */

/** How a column or value is compared, in words; of days and moments first, where they differ. */
export const COMPARE_WORDS: Readonly<Record<CompareOperator, string>> = {
  '=': 'is', '<>': 'is not', '<': 'is less than', '<=': 'is at most', '>': 'is more than', '>=': 'is at least',
}; // prettier-ignore
export const DAY_WORDS: Partial<Record<CompareOperator, string>> = {
  '<': 'is before',
  '<=': 'is on or before',
  '>': 'is after',
  '>=': 'is on or after',
};

export interface Wording {
  readonly checked: Pick<Checked, 'bindings' | 'types' | 'extras'>;
  /** the tables whose columns are called by their labels */
  readonly tables: ReadonlyMap<string, TableShape>;
  /** what a name or a fixed value is now, for readers; null (or none given) where that is not to be said */
  readonly now?: (node: Syntax) => string | null;
}

/** A condition or one of its parts in words. Never throws; cost: linear in its length. */
export function conditionWords(syntax: Syntax, about: Wording): string {
  const node = ungroup(syntax);
  switch (node.kind) {
    case 'binary':
      if (node.operator === 'AND' || node.operator === 'OR') return joinedWords([node.left, node.right], node.operator, about);
      if (!(node.operator in COMPARE_WORDS)) return valueWords(node, about);
      return comparedWords(node.left, node.operator as CompareOperator, node.right, about);
    case 'unary':
      return node.operator === 'NOT' ? oppositeWords(node.operand, about) : valueWords(node, about);
    case 'in': {
      const several = kindOf(node.list[0], about) === 'list';
      const values = node.list.map((v) => valueWords(v, about));
      return several ? `${values.join(' or ')} has ${valueWords(node.item, about)}` : `${valueWords(node.item, about)} is one of ${values.join(', ')}`;
    }
    case 'between':
      return `${valueWords(node.item, about)} is between ${valueWords(node.low, about)} and ${valueWords(node.high, about)}`;
    case 'call': {
      const args = node.args.map((a) => a.value);
      const [first, ...rest] = args;
      if ((node.name === 'AND' || node.name === 'OR') && args.length > 1) return joinedWords(args, node.name, about);
      if (node.name === 'NOT' && first) return oppositeWords(first, about);
      if (node.name === 'ISBLANK' && first) return `${valueWords(first, about)} is empty`;
      const each = about.checked.extras.get(node);
      if (each?.kind === 'each' && each.of !== 'count' && first) return `${EACH_WORDS[each.of]} ${valueWords(first, about)}: ${conditionWords(each.condition, about)}`;
      if (node.name === 'CONTAINSANY' && first) return `${valueWords(first, about)} contains ${rest.map((v) => valueWords(v, about)).join(' or ')}`;
      return valueWords(node, about);
    }
    default:
      return kindOf(node, about) === 'yesno' && node.kind !== 'yesno' ? yesWords(node, 'yes', about) : valueWords(node, about);
  }
} // prettier-ignore

const EACH_WORDS = { any: 'any of', all: 'all of', none: 'none of' } as const;

function comparedWords(left: Syntax, operator: CompareOperator, right: Syntax, about: Wording): string {
  const kind = kindOf(left, about);
  const day = kind === 'date' || kind === 'datetime' || kind === 'time';
  // the row on offer is what the sentence is about, whichever side it was written on
  const turned = isOfRow(right, about) && !isOfRow(left, about);
  const words = (op: CompareOperator): string => (day ? DAY_WORDS[op] : undefined) ?? COMPARE_WORDS[op];
  return turned
    ? `${valueWords(right, about)} ${words(MIRRORED[operator])} ${valueWords(left, about)}`
    : `${valueWords(left, about)} ${words(operator)} ${valueWords(right, about)}`;
}
const MIRRORED: Readonly<Record<CompareOperator, CompareOperator>> = { '=': '=', '<>': '<>', '<': '>', '<=': '>=', '>': '<', '>=': '<=' };

const joinedWords = (parts: readonly Syntax[], operator: 'AND' | 'OR', about: Wording): string =>
  parts
    .map((p) => {
      const inner = ungroup(p);
      const other = inner.kind === 'binary' && (inner.operator === 'AND' || inner.operator === 'OR') && inner.operator !== operator;
      return other ? `(${conditionWords(p, about)})` : conditionWords(p, about);
    })
    .join(operator === 'AND' ? ' and ' : ' or ');

function oppositeWords(operand: Syntax, about: Wording): string {
  const inner = ungroup(operand);
  if (inner.kind === 'call' && inner.name === 'ISBLANK' && inner.args[0]) return `${valueWords(inner.args[0].value, about)} is filled`;
  if ((inner.kind === 'name' || inner.kind === 'member') && kindOf(inner, about) === 'yesno') return yesWords(inner, 'no', about);
  return `not (${conditionWords(inner, about)})`;
}

/** “active is yes”: of the row on offer its owner need not be said. */
const yesWords = (node: Syntax, answer: 'yes' | 'no', about: Wording): string =>
  `${valueWords(node, about).replace(/^its /, '')} is ${answer}`;

/** What a value is called, with what it is now behind it. */
export function valueWords(syntax: Syntax, about: Wording): string {
  const node = ungroup(syntax);
  if (node.kind === 'text') return about.now?.(node) ?? `“${node.value}”`;
  if (node.kind === 'yesno') return node.value ? 'yes' : 'no';
  const days = daysFromToday(node);
  const named = days !== null ? dayWords(days) : pathWords(node, about);
  if (named === null) return printSyntax(node).replaceAll('choice.', '');
  const now = isOfRow(node, about) ? null : (about.now?.(node) ?? null);
  return now === null || now === '' ? named : `${named} (${now})`;
}

/** `region` as “the entry’s Region”, `choice.genus.family` as “its genus’s family”; null for what is no such path. */
function pathWords(node: Syntax, about: Wording): string | null {
  const path = pathOf(node);
  const root = rootOf(node);
  const binding = about.checked.bindings.get(root);
  if (!path || !binding) return null;
  const members = memberWords(node, about);
  const { source } = binding;
  if (source.kind === 'each') return members.length ? `its ${members.join('’s ')}` : 'it';
  if (source.kind === 'candidate' || source.kind === 'picked') return members.length ? `its ${members.join('’s ')}` : 'the row';
  if (source.kind === 'lines') return members.length ? `${members.join('’s ')} of ${binding.label}` : binding.label;
  if (source.kind === 'slot') return members.length ? `${binding.label}’s ${members.join('’s ')}` : `the ${ownerWords(binding)} ${binding.label}`;
  if (source.kind === 'me') return members.length ? `the ${members.join('’s ')} of the person signed in` : 'the person signed in';
  if (source.kind === 'parent') return members.length ? `the opened record’s ${members.join('’s ')}` : 'the record it is opened under';
  if (source.kind === 'last') return `the ${members.join('’s ')} I entered last`;
  if (source.kind === 'before') return `${members.join('’s ')} as it was saved`;
  if (source.kind === 'entry' && path[1] === 'url' && path[2]) return `“${path[2]}” in the link`;
  if (source.kind === 'entry' && path[1]) return `the entry’s ${path[1]}`;
  return null;
} // prettier-ignore

/** Whose field a name is: the entry’s, or that of the line one stands in. */
export const ownerWords = ({ source }: Pick<Binding, 'source'>): string =>
  source.kind === 'slot' && source.at !== undefined && !source.outer ? 'line’s' : 'entry’s';

/** The labels of the columns that a path goes through, from the first. */
function memberWords(node: Syntax, about: Wording): string[] {
  if (node.kind !== 'member') return [];
  const of: Type | undefined = about.checked.types.get(node.object);
  const label = of?.kind === 'row' ? about.tables.get(of.table)?.columns.get(node.property)?.label : undefined;
  return [...memberWords(node.object, about), lowerFirst(label ?? node.property.replaceAll('_', ' '))];
}
/** A label inside a sentence; what is written in capitals on purpose (`E-mail`, `°C`, `DNA`) keeps them. */
export const lowerFirst = (label: string): string =>
  /^\p{Lu}(?!\p{Lu})/u.test(label) ? label.charAt(0).toLowerCase() + label.slice(1) : label;

/** `TODAY() + 7` as a number of days; null when it is something else. */
export function daysFromToday(node: Syntax): number | null {
  if (node.kind === 'call' && node.name === 'TODAY' && !node.args.length) return 0;
  if (node.kind !== 'binary' || (node.operator !== '+' && node.operator !== '-')) return null;
  const base = daysFromToday(node.left);
  if (base !== 0 || node.right.kind !== 'number') return null;
  return node.operator === '-' ? -node.right.value : node.right.value;
}
export const dayWords = (days: number): string =>
  days === 0 ? 'today' : days < 0 ? `${-days} ${days === -1 ? 'day' : 'days'} ago` : `in ${days} ${days === 1 ? 'day' : 'days'}`;

const kindOf = (node: Syntax | undefined, about: Wording): Type['kind'] | null =>
  node ? (about.checked.types.get(ungroup(node))?.kind ?? null) : null;
/** Whether a part speaks of the row that is on offer. */
const isOfRow = (node: Syntax, about: Wording): boolean => {
  const kind = about.checked.bindings.get(node)?.source.kind;
  return kind === 'candidate' || kind === 'picked' || kind === 'each' || partsOf(node, about.checked).some((p) => isOfRow(p, about));
};
