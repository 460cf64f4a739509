import { sortRows } from '../choices/order.ts';
import { compareText, foldText } from '../values/text.ts';
import type { Datum, Row } from '../values/types.ts';
import type { PlanField } from './plan.ts';

/** What a candidate stores: the row's id, or its value. */
export const storedOf = (field: PlanField, row: Row): Datum => (field.choices?.stores === 'value' ? (row.value ?? null) : row.id);

const sortCache = new WeakMap<readonly Row[], Map<string, readonly Row[]>>();
/** A whole table in a field's order: sorted once, since narrowing keeps the order. */
export function sortedWhole(all: readonly Row[], field: PlanField): readonly Row[] {
  const sort = field.choices?.sort ?? [];
  const key = sort.map((c) => c.key).join(',');
  let orders = sortCache.get(all);
  if (!orders) sortCache.set(all, (orders = new Map<string, readonly Row[]>()));
  let sorted = orders.get(key);
  if (!sorted) orders.set(key, (sorted = sortRows(all, sort)));
  return sorted;
}

/**
 * The distinct values of a text column among rows, each once without regard to case (the spelling of the row with the
 * lowest id), in order, as candidates with that row's id. Empties are left out. Cost: rows, times log of the values.
 */
export function distinctRows(rows: readonly Row[], column: string): Row[] {
  const found = new Map<string, Row>();
  for (const row of rows) {
    const value = row[column];
    if (typeof value !== 'string') continue;
    const key = foldText(value);
    const known = found.get(key);
    if (!known || row.id < known.id) found.set(key, { id: row.id, value, label: value });
  }
  return [...found.values()].sort((a, b) => compareText(String(a.value), String(b.value)));
}
