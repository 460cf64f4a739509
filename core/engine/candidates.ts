import { rowOrder, sortRows } from '../choices/order.ts';
import { compareText, foldText } from '../values/text.ts';
import type { Datum, Row } from '../values/types.ts';
import type { PlanField } from './plan.ts';

/** What a candidate stores: the row's id, or its value. */
export const storedOf = (field: PlanField, row: Row): Datum => (field.choices?.stores === 'value' ? (row.value ?? null) : row.id);

type SortColumns = NonNullable<PlanField['choices']>['sort'];
interface Sorted {
  readonly by: SortColumns;
  readonly rows: readonly Row[];
}
const sortCache = new WeakMap<readonly Row[], Map<string, Sorted>>();
/** A whole table in a field's order: sorted once, since narrowing keeps the order. */
export function sortedWhole(all: readonly Row[], field: PlanField): readonly Row[] {
  const by = field.choices?.sort ?? [];
  const key = by.map((c) => `${c.key} ${c.type}`).join(',');
  let orders = sortCache.get(all);
  if (!orders) sortCache.set(all, (orders = new Map<string, Sorted>()));
  let sorted = orders.get(key);
  if (!sorted) orders.set(key, (sorted = { by, rows: sortRows(all, by) }));
  return sorted.rows;
}

/** Where a row belongs among sorted ones, from a place on. */
function placeOf(row: Row, sorted: readonly Row[], from: number, order: (x: Row, y: Row) => number): number {
  let [low, high] = [from, sorted.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (order(sorted[middle] as Row, row) < 0) low = middle + 1;
    else high = middle;
  }
  return low;
}

/**
 * A whole table, by id in order, of which some rows were written since: `ids` says which, `found` holds those of them that there are, as
 * they are now, in any order. Gives a new array, `before` stays; the orders it was sorted in need not be sorted again. Cost: the rows
 * once, and once for each order.
 */
export function renewedRows(before: readonly Row[], ids: readonly number[], found: readonly Row[]): readonly Row[] {
  const written = new Set(ids);
  const renewed = (rows: readonly Row[], by: SortColumns): Row[] => {
    const order = rowOrder(by);
    const stay = rows.filter((r) => !written.has(r.id));
    const all: Row[] = [];
    let from = 0;
    for (const row of [...found].sort(order)) {
      const to = placeOf(row, stay, from, order);
      for (; from < to; from++) all.push(stay[from] as Row);
      all.push(row);
    }
    for (; from < stay.length; from++) all.push(stay[from] as Row);
    return all;
  };
  const rows = renewed(before, []);
  const orders = sortCache.get(before);
  if (orders) sortCache.set(rows, new Map([...orders].map(([key, { by, rows: sorted }]) => [key, { by, rows: renewed(sorted, by) }])));
  return rows;
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
