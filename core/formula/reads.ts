import type { Checked } from './check.ts';
import { partsOf } from './formula.ts';
import type { Syntax } from './syntax.ts';

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
  const walk = (node: Syntax): void => {
    partsOf(node, checked).forEach(walk);
    if (node.kind === 'call') functions.add(node.name);
    if (node.kind === 'member') {
      const type = checked.types.get(node.object);
      const owner = checked.bindings.get(node.object)?.source;
      const of = type?.kind === 'list' ? type.of : type;
      if (owner?.kind === 'lines') {
        const at = owner.columns.get(node.property);
        if (at !== undefined) slots.add(owner.first + at);
      } else if (of?.kind === 'row') columns.add(`${of.table}.${node.property}`);
    }
    const source = checked.bindings.get(node)?.source;
    if (source?.kind === 'slot') slots.add(source.slot);
  };
  if (checked.syntax) walk(checked.syntax);
  for (const slot of slots) {
    const column = columnOf(slot);
    if (column) columns.add(column);
  }
  return { functions: [...functions], columns: [...columns], slots: [...slots] };
}
