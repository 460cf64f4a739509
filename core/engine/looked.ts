import { type Syntax, ungroup } from '../formula/syntax.ts';
import { type Column, type Table, isSeveral } from '../model/tables.ts';
import type { Plan, PlanChoices } from './plan.ts';

/* By which columns the lists of a form are read: what their narrowings equate, and what they are sorted by. */

/** What tells rows apart well enough to be looked up by: neither yes and no nor long texts, several values or JSON. */
const LOOKED_UP: ReadonlySet<Column['type']> = new Set(['text', 'number', 'date', 'time', 'datetime', 'choice', 'link', 'person']);

/** The columns of a list's table that its narrowing asks to be a certain value (`choice.region = region`), in the order written. */
export function equatedColumns({ narrowing }: Pick<PlanChoices, 'narrowing'>, table: Pick<Table, 'columns'>): Column[] {
  const found: Column[] = [];
  for (const part of narrowing?.parts ?? []) {
    const syntax = ungroup(part.syntax);
    if (syntax.kind !== 'binary' || syntax.operator !== '=') continue;
    for (const side of [syntax.left, syntax.right]) {
      const column = columnAsked(side, table);
      if (column && LOOKED_UP.has(column.type) && !found.includes(column)) found.push(column);
    }
  }
  return found;
}
function columnAsked(side: Syntax, table: Pick<Table, 'columns'>): Column | undefined {
  const node = ungroup(side);
  if (node.kind !== 'member' || node.object.kind !== 'name' || node.object.name !== 'choice') return undefined;
  return table.columns.find((c) => c.key === node.property && !isSeveral(c.type));
}

/** An index that makes reading a list quick. */
export interface ListIndex {
  readonly table: string;
  readonly columns: readonly Column[];
}

/** The indexes that the lists of a form are read by: what the narrowing equates, then the order, so that a first page comes straight off it. */
export function listIndexes(plan: Plan): ListIndex[] {
  const indexes: ListIndex[] = [];
  for (const { choices } of plan.fields) {
    const table = choices?.table ? plan.tables.get(choices.table) : undefined;
    if (!choices || !table) continue;
    const equated = equatedColumns(choices, table);
    const sorted = choices.sort.map((s) => table.columns.find((c) => c.key === s.key)).filter((c) => c !== undefined);
    const columns = [...new Set([...equated, ...sorted])];
    if (columns.length) indexes.push({ table: table.key, columns });
    // while it waits such a list offers all, in its order
    if (equated.length && sorted.length && choices.source.waiting === 'all')
      indexes.push({ table: table.key, columns: [...new Set(sorted)] });
  }
  return indexes;
}
