import type { Column } from '../../core/form/tables.ts';
import type { Row } from '../../core/values/types.ts';
import { linkingRows, rowById, rowsByIds } from '../database/rows';
import { columnsToLookAt, maySeeAll, tablesInForms } from './access';
import type { Account } from './accounts';
import { notFound } from './errors';
import { linkedTexts, rowTexts } from './tables';
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

/**
 * A row with what it links to and what links to it. Whoever only enters records may look at rows that a form offers them or is
 * saved in, and not at what the form hides from them.
 */
export async function lookAt(ws: Workspace, account: Account, key: string, id: number): Promise<LookedAt> {
  const whole = await ws.modelTable(key);
  const table = { ...whole, columns: await columnsToLookAt(ws, account, whole) };
  const found = await rowById(ws.db, table, id);
  if (!found) throw notFound('This row');
  const links = await linkingRows(ws.db, await ws.modelTables(), key, id, CHILDREN);
  // what belongs to it is told of where a form reads it
  const told = maySeeAll(account) ? null : await tablesInForms(ws);
  const children = await Promise.all(
    links
      .filter((l) => !told || told.has(l.table))
      .map(async ({ table: child, column, count, ids }) => {
        const other = await ws.modelTable(child);
        const texts = await rowTexts(ws, other, await rowsByIds(ws.db, other, ids));
        const columnLabel = other.columns.find((c) => c.key === column)?.label ?? column;
        return {
          table: child,
          label: other.label,
          column,
          columnLabel,
          count,
          rows: [...texts].map(([rowId, text]) => ({ id: rowId, text })),
        };
      }),
  );
  return {
    table: { key, label: table.label, columns: table.columns },
    text: (await rowTexts(ws, whole, [found.row])).get(id) ?? `row ${id}`,
    row: found.row,
    linked: await linkedTexts(ws, table.columns, [found.row]),
    children,
  };
}
