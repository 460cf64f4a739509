import type { Column } from '../../core/model/tables.ts';
import type { Datum } from '../../core/values/types.ts';
import type { Database } from '../database/connection';
import { type HistoryEntry, addHistories } from '../database/history';
import { addStaged, addStagedAnew, countStaged, doubledKeys, matchedAfter } from '../database/merging';
import { type ModelTable, ensureIndex } from '../database/model';
import { type RowStamp, updateRows } from '../database/rows';
import { Refused } from './errors';
import { asChanges } from './tables';

interface Merge {
  readonly table: ModelTable;
  readonly columns: readonly Column[];
  /** the name of the staged table */
  readonly staging: string;
  /** the column by which a staged row is one that exists; null adds all */
  readonly match: string | null;
  readonly stamp: RowStamp;
}
const PAGE = 1000;

/**
 * Puts staged rows into their table: adds those that are new, changes those that exist. Cells that are empty in the file
 * leave what stands. Call inside a transaction.
 */
export async function mergeStaged(
  db: Database,
  { table, columns, staging, match, stamp }: Merge,
  progress: (share: number) => void,
): Promise<{ added: number; changed: number }> {
  const key = columns.find((c) => c.key === match);
  if (!key) return { added: await addStaged(db, table.key, columns, staging), changed: 0 };
  await ensureIndex(db, table.key, [key]);
  await refuseDoubles(db, table, staging, key);
  const all = await countStaged(db, staging);
  let changed = 0;
  for (let last = 0; ;) {
    const page = await matchedAfter(db, table.key, columns, staging, key, last, PAGE);
    if (!page.length) break;
    const changes: { id: number; values: Record<string, Datum> }[] = [];
    const entries: HistoryEntry[] = [];
    for (const { staged, target } of page) {
      const values: Record<string, Datum> = {};
      for (const c of columns)
        if (staged[c.key] !== null && JSON.stringify(staged[c.key]) !== JSON.stringify(target[c.key]))
          values[c.key] = staged[c.key] ?? null;
      if (!Object.keys(values).length) continue;
      changes.push({ id: target.id, values });
      entries.push({ table: table.key, row: target.id, kind: 'changed', stamp, changes: asChanges(target, values) });
    }
    await updateRows(db, table, changes, stamp);
    await addHistories(db, entries);
    changed += changes.length;
    last = page.at(-1)?.staged.id ?? last;
    progress(all ? last / all : 1);
  }
  return { added: await addStagedAnew(db, table.key, columns, staging, key), changed };
}

/** A key must name one line and one row: otherwise it could not be said which is changed by which. */
async function refuseDoubles(db: Database, table: ModelTable, staging: string, key: Column): Promise<void> {
  const doubled = await doubledKeys(db, table.key, staging, key);
  const quoted = (texts: readonly string[]): string => texts.map((t) => `“${t}”`).join(', ');
  if (doubled.staged.length)
    throw new Refused(
      422,
      'import',
      `The file has several lines for one ${key.label}: ${quoted(doubled.staged)}. Nothing was imported.`,
      {},
    );
  if (doubled.there.length)
    throw new Refused(
      422,
      'import',
      `${table.label} has several rows of one ${key.label}: ${quoted(doubled.there)}, so the file cannot say which to change.`,
      {},
    );
}
