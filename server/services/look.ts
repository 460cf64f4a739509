import type { Column } from '../../core/form/tables.ts';
import type { Row } from '../../core/values/types.ts';
import { linkingRows, rowById, rowsByIds } from '../database/rows';
import { notFound } from './errors';
import { linkedTexts, rowText } from './tables';
import type { Workspace } from './workspace';

/** A row looked at closely: all its columns, the rows it links to, and the rows that link to it. */
export interface LookedAt {
  readonly table: { readonly key: string; readonly label: string; readonly columns: readonly Column[] };
  readonly text: string;
  readonly row: Row;
  readonly linked: Readonly<Record<string, Readonly<Record<number, string>>>>;
  readonly children: readonly {
    readonly table: string;
    readonly label: string;
    readonly column: string;
    readonly columnLabel: string;
    readonly count: number;
    readonly rows: readonly { readonly id: number; readonly text: string }[];
  }[];
}

const CHILDREN = 50;

export async function lookAt(ws: Workspace, key: string, id: number): Promise<LookedAt> {
  const table = await ws.modelTable(key);
  const found = await rowById(ws.db, table, id);
  if (!found) throw notFound('This row');
  const links = await linkingRows(ws.db, await ws.modelTables(), key, id, CHILDREN);
  const children = await Promise.all(
    links.map(async ({ table: child, column, count, ids }) => {
      const other = await ws.modelTable(child);
      const rows = await rowsByIds(ws.db, other, ids);
      const columnLabel = other.columns.find((c) => c.key === column)?.label ?? column;
      return {
        table: child,
        label: other.label,
        column,
        columnLabel,
        count,
        rows: rows.map((r) => ({ id: r.id, text: rowText(other, r) })),
      };
    }),
  );
  return {
    table: { key, label: table.label, columns: table.columns },
    text: rowText(table, found.row),
    row: found.row,
    linked: await linkedTexts(ws, table.columns, [found.row]),
    children,
  };
}
