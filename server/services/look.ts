import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { linkingRows, rowById, rowsByIds } from '../database/rows';
import { columnsToLookAt, tablesInForms } from './access';
import { tableFor, tablesFor } from './owners';
import { maySeeAll } from './rights';
import type { Account } from '../database/accounts';
import { notFound } from './errors';
import { linkedTexts, readingOf, rowTexts } from './tables';
import type { Workspace } from './workspace';

/** A row looked at closely: all its columns, the rows it links to, and the rows that link to it. */
export type LookedAt = Answer<typeof contract.tables.look>;

const CHILDREN = 50;

/**
 * A row with what it links to and what links to it. Whoever only enters records may look at rows that a form offers them or is
 * saved in, and not at what the form hides from them.
 */
export async function lookAt(ws: Workspace, account: Account, key: string, id: number): Promise<LookedAt> {
  const whole = await tableFor(ws, account, key);
  const table = { ...whole, columns: await columnsToLookAt(ws, account, whole) };
  const found = await rowById(ws.db, table, id);
  if (!found) throw notFound('This row');
  const links = await linkingRows(ws.db, await tablesFor(ws, account), key, id, CHILDREN, (t) => readingOf(ws, t));
  // what belongs to it is told of where a form reads it
  const told = maySeeAll(account) ? null : await tablesInForms(ws, account);
  const children = await Promise.all(
    links
      .filter((l) => !told || told.has(l.table))
      .map(async ({ table: child, column, count, ids }) => {
        const other = await tableFor(ws, account, child);
        const texts = await rowTexts(ws, other, await rowsByIds(ws.db, other, ids), { who: account });
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
    text: (await rowTexts(ws, whole, [found.row], { who: account })).get(id) ?? `row ${id}`,
    row: found.row,
    linked: await linkedTexts(ws, table.columns, [found.row], account),
    children,
  };
}
