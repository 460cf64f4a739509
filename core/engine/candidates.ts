import { sortRows } from '../choices/order.ts';
import type { Datum, Row } from '../values/types.ts';
import type { PlanField } from './plan.ts';

/** A list typed in place as candidate rows; the id is the place in the list. */
const optionCache = new WeakMap<PlanField, readonly Row[]>();
export function optionRows(field: PlanField): readonly Row[] {
  let rows = optionCache.get(field);
  if (!rows) {
    const source = field.choices?.source;
    rows = source?.kind === 'options' ? source.options.map((o, i) => ({ id: i + 1, value: o.value, label: o.label })) : [];
    optionCache.set(field, rows);
  }
  return rows;
}

/** What a candidate stores: the row's id, or the option's value. */
export const storedOf = (field: PlanField, row: Row): Datum => (field.choices?.table === null ? (row.value ?? null) : row.id);

/** A whole table in a field's order: sorted once, since narrowing keeps the order. */
const sortCache = new WeakMap<readonly Row[], Map<string, readonly Row[]>>();
export function sortedWhole(all: readonly Row[], field: PlanField): readonly Row[] {
  const sort = field.choices?.sort ?? [];
  const key = sort.map((c) => c.key).join(',');
  let orders = sortCache.get(all);
  if (!orders) sortCache.set(all, (orders = new Map<string, readonly Row[]>()));
  let sorted = orders.get(key);
  if (!sorted) orders.set(key, (sorted = sortRows(all, sort)));
  return sorted;
}
