/** The type of a formula, a field or a column. */
export type Type =
  | { readonly kind: 'number' | 'text' | 'yesno' | 'date' | 'time' | 'datetime' | 'file' | 'json' }
  /** text out of a known set; `options` null when the set is not known here */
  | {
      readonly kind: 'choice';
      readonly options: readonly string[] | null;
      /** what a chosen item has besides its value, where the field's choices have more (a label, a feed's attributes) */
      readonly attributes?: ReadonlyMap<string, Type>;
    }
  | { readonly kind: 'row'; readonly table: string }
  | { readonly kind: 'list'; readonly of: Type }
  /** the literal EMPTY(): fits everything */
  | { readonly kind: 'empty' }
  /** what follows an error already reported: fits everything, so that one mistake is told once */
  | { readonly kind: 'unknown' }
  /** `entry`, `entry.url`: has members, is no value itself */
  | { readonly kind: 'object'; readonly members: ReadonlyMap<string, Type>; /** the type of members not named */ readonly others?: Type };

export type Kind = Type['kind'];

/** The table of what is known of stored files: name, kind, size. A file column holds the number of its row. */
export const FILES = '_files';

export const NUMBER: Type = { kind: 'number' };
export const TEXT: Type = { kind: 'text' };
export const YESNO: Type = { kind: 'yesno' };
export const DATE: Type = { kind: 'date' };
export const TIME: Type = { kind: 'time' };
export const DATETIME: Type = { kind: 'datetime' };
export const EMPTY_TYPE: Type = { kind: 'empty' };
export const UNKNOWN: Type = { kind: 'unknown' };
export const rowOf = (table: string): Type => ({ kind: 'row', table });
export const listOf = (of: Type): Type => ({ kind: 'list', of });

export const isTextual = (t: Type): boolean => t.kind === 'text' || t.kind === 'choice';
/** Fits everything: nothing more can be said about it. */
export const isOpen = (t: Type): boolean => t.kind === 'unknown' || t.kind === 'empty';

/** Whether a value of type `actual` may stand where `expected` is asked. */
export function fits(expected: Type, actual: Type): boolean {
  if (isOpen(expected) || isOpen(actual)) return true;
  if (isTextual(expected)) return isTextual(actual);
  if (expected.kind === 'row') return actual.kind === 'row' && actual.table === expected.table;
  if (expected.kind === 'list') return actual.kind === 'list' && fits(expected.of, actual.of);
  return expected.kind === actual.kind;
}

/** Whether `=` and its kin can compare the two. A date and a date-time can (with a warning). */
export function comparable(a: Type, b: Type): boolean {
  if (a.kind === 'object' || b.kind === 'object') return false;
  if ((a.kind === 'date' && b.kind === 'datetime') || (a.kind === 'datetime' && b.kind === 'date')) return true;
  return fits(a, b);
}

/** The type that holds both, or null: what IF gives when its branches have these types. */
export function unify(a: Type, b: Type): Type | null {
  if (isOpen(a)) return b;
  if (isOpen(b)) return a;
  if (isTextual(a) && isTextual(b)) {
    if (a.kind === 'choice' && b.kind === 'choice' && a.options && b.options) {
      return { kind: 'choice', options: [...new Set([...a.options, ...b.options])] };
    }
    return TEXT;
  }
  if (a.kind === 'list' && b.kind === 'list') {
    const of = unify(a.of, b.of);
    return of && listOf(of);
  }
  return fits(a, b) ? a : null;
}

const NAMES: Readonly<Record<Exclude<Kind, 'row' | 'list'>, string>> = {
  number: 'a number', text: 'a text', yesno: 'yes/no', date: 'a date', time: 'a time', datetime: 'a date-time',
  file: 'a file', json: 'JSON', choice: 'a choice', empty: 'empty', unknown: 'unknown', object: 'a group of values',
}; // prettier-ignore

/** The type in words, for messages: "a number", "a row of Species", "a list of dates". */
export function typeInWords(t: Type, tableLabel: (key: string) => string = (k) => k): string {
  // the table that files are kept in is no word for people
  if (t.kind === 'row' && t.table === FILES) return 'a file';
  if (t.kind === 'row') return `a row of ${tableLabel(t.table)}`;
  if (t.kind === 'list') return `a list (each ${typeInWords(t.of, tableLabel)})`;
  return NAMES[t.kind];
}
