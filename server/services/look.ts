import type { Column } from '../../core/form/tables.ts';
import type { Plan } from '../../core/engine/plan.ts';
import type { Row } from '../../core/values/types.ts';
import { linkingRows, rowById, rowsByIds } from '../database/rows';
import { checkMayLook, maySeeAll, tablesInForms, visibleColumns } from './access';
import type { Account } from './accounts';
import { Refused, notFound } from './errors';
import { publishedForm } from './forms';
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

/** A row that a form offers or is saved in, looked at from the form. */
export async function lookFromForm(ws: Workspace, account: Account, form: string, key: string, id: number): Promise<LookedAt> {
  const { plan } = await publishedForm(ws, form);
  await checkMayLook(ws, plan, account, key);
  return look(ws, account, key, id, plan);
}

/** A row of any table, for those who build forms. */
export async function lookAt(ws: Workspace, account: Account, key: string, id: number): Promise<LookedAt> {
  if (!maySeeAll(account)) throw new Refused(403, 'forbidden', 'Rows are looked at from a form that offers them.');
  return look(ws, account, key, id, null);
}

async function look(ws: Workspace, account: Account, key: string, id: number, plan: Plan | null): Promise<LookedAt> {
  const whole = await ws.modelTable(key);
  const columns = plan?.form.table === key ? await visibleColumns(ws, plan, account, whole.columns) : whole.columns;
  const table = { ...whole, columns };
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
