import type { Checked } from './check.ts';
import { namesIn } from './names.ts';

/** What a formula uses, as names that are the same in every form: functions, and columns of tables. */
export interface Reads {
  readonly functions: readonly string[];
  /** `table.column` */
  readonly columns: readonly string[];
  readonly slots: readonly number[];
}

/** The functions, columns and fields a checked formula uses. `columnOf` gives the column a field is saved in, as `table.column`. */
export function readsOf(checked: Checked, columnOf: (slot: number) => string | null): Reads {
  const functions = new Set<string>();
  const columns = new Set<string>();
  const slots = new Set<number>();
  for (const name of namesIn(checked)) {
    if (name.kind === 'function') functions.add(name.name);
    else if (name.kind === 'column') columns.add(`${name.table}.${name.column}`);
    else if (name.kind === 'field') slots.add(name.slot);
  }
  for (const slot of slots) {
    const column = columnOf(slot);
    if (column) columns.add(column);
  }
  return { functions: [...functions], columns: [...columns], slots: [...slots] };
}
