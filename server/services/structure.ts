import { type Column, columnSchema } from '../../core/form/tables.ts';
import { addColumns, renameColumn } from '../database/model';
import { Refused } from './errors';
import type { Workspace } from './workspace';

/** Adds a column to a table. Refused when there is one of its name, or when its link leads to no table. */
export async function addColumn(ws: Workspace, key: string, column: Column): Promise<void> {
  const table = await ws.modelTable(key);
  if (table.columns.some((c) => c.key === column.key))
    throw new Refused(422, 'values', `${table.label} has a column “${column.key}” already.`, {});
  if (column.type === 'link' && !column.target) throw new Refused(422, 'values', 'Say which table the column links to.', {});
  if (column.target) await ws.modelTable(column.target);
  await ws.db.transaction((db) => addColumns(db, table, [columnSchema.parse(column)]));
  ws.modelChanged();
}

/** Gives a column another label. Its name, which formulas use, stays. */
export async function relabelColumn(ws: Workspace, key: string, column: string, label: string): Promise<void> {
  const table = await ws.modelTable(key);
  if (!table.columns.some((c) => c.key === column)) throw new Refused(404, 'notFound', `${table.label} has no column “${column}”.`, {});
  await renameColumn(ws.db, key, column, label);
  ws.modelChanged();
}
