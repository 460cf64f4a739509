import { isFolded } from '../../core/choices/order.ts';
import type { Named } from '../../core/exchange/match.ts';
import type { Column } from '../../core/model/tables.ts';
import type { Row } from '../../core/values/types.ts';
import type { ModelTable } from '../database/model';
import { allRows } from '../database/rows';
import { Refused } from './errors';
import { rowTexts } from './tables';
import type { Workspace } from './workspace';

/** The columns by which rows of a table can be named in a file: texts, and numbers, which may be codes. */
export const namingColumns = (table: Pick<ModelTable, 'columns'>): Column[] =>
  table.columns.filter((c) => isFolded(c.type) || c.type === 'number');

const textIn = (row: Row, key: string): string | null => {
  const value = row[key];
  return value === null || value === undefined || Array.isArray(value) ? null : String(value);
};

/** Rows with the text they are matched by: of one column, of two together, or (of none) what people know them by. */
export async function namedRows(ws: Workspace, table: ModelTable, by: readonly string[] = []): Promise<Named[]> {
  const missing = by.find((key) => !table.columns.some((c) => c.key === key));
  if (missing !== undefined) throw new Refused(422, 'values', `${table.label} has no column “${missing}” to match by.`, {});
  const rows = await allRows(ws.db, table);
  const known = await rowTexts(ws, table, rows.filter((r) => table.shown && r[table.shown] !== null)); // prettier-ignore
  if (!by.length || (by.length === 1 && by[0] === table.shown)) return [...known].map(([id, text]) => ({ id, text }));
  return rows.flatMap((r): Named[] => {
    const texts = by.map((key) => textIn(r, key));
    return texts.includes(null) ? [] : [{ id: r.id, text: texts.join(' '), known: known.get(r.id) }];
  });
}

/** The texts of the columns rows can be named by, row by row; what they are known by stands under the shown column. */
export async function textColumns(ws: Workspace, table: ModelTable): Promise<Map<string, readonly (string | null)[]>> {
  const rows = await allRows(ws.db, table);
  const columns = new Map<string, readonly (string | null)[]>();
  if (table.shown) {
    const known = await rowTexts(ws, table, rows);
    const { shown } = table;
    columns.set(
      shown,
      rows.map((r) => (r[shown] === null ? null : (known.get(r.id) ?? null))),
    );
  }
  for (const c of namingColumns(table))
    if (!columns.has(c.key))
      columns.set(
        c.key,
        rows.map((r) => textIn(r, c.key)),
      );
  return columns;
}
