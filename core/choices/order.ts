import type { Column } from '../model/tables.ts';
import { KINDS } from '../values/kinds/index.ts';
import { compareCodePoints, foldText } from '../values/text.ts';
import type { Datum, Row } from '../values/types.ts';

/** Columns whose text is compared folded; all others compare as they are stored. */
export const isFolded = (type: Column['type']): boolean => KINDS[type].folded;

/** Order of two values of a column: empties first (as the database does), text case-blind, no before yes. */
export function compareData(a: Datum, b: Datum, folded: boolean): number {
  if (a === b) return 0;
  if (a === null) return -1;
  if (b === null) return 1;
  if (typeof a === 'string' && typeof b === 'string') {
    return folded ? compareCodePoints(foldText(a), foldText(b)) : compareCodePoints(a, b);
  }
  return Number(a) - Number(b);
}

/** The order of rows by columns, then by id so that it is always one and the same. */
export function rowOrder(columns: readonly Pick<Column, 'key' | 'type'>[], descending = false): (x: Row, y: Row) => number {
  const keys = columns.map((c) => ({ key: c.key, folded: isFolded(c.type) }));
  return (x, y) => {
    for (const { key, folded } of keys) {
      const order = compareData(x[key] ?? null, y[key] ?? null, folded);
      if (order !== 0) return descending ? -order : order;
    }
    return x.id - y.id;
  };
}
/** Sorts rows by columns, then by id. Gives a new array. */
export const sortRows = (rows: readonly Row[], columns: readonly Pick<Column, 'key' | 'type'>[], descending = false): Row[] =>
  [...rows].sort(rowOrder(columns, descending));

/**
 * Rows whose searched columns hold the text: those beginning with it first, then those with it anywhere, each in the
 * order given. Blank text keeps all.
 */
export function searchRows(rows: readonly Row[], columns: readonly string[], text: string): readonly Row[] {
  const sought = foldText(text.trim());
  if (sought === '') return rows;
  const begins: Row[] = [];
  const holds: Row[] = [];
  for (const row of rows) {
    const texts = columns
      .map((c) => row[c])
      .filter((v) => v !== null && v !== undefined)
      .map((v) => foldText(String(v)));
    if (texts.some((t) => t.startsWith(sought))) begins.push(row);
    else if (texts.some((t) => t.includes(sought))) holds.push(row);
  }
  return [...begins, ...holds];
}
