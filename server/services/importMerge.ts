import type { Column } from '../../core/model/tables.ts';
import type { Datum } from '../../core/values/types.ts';
import type { Database } from '../database/connection';
import { type HistoryEntry, addHistories } from '../database/history';
import {
  addStaged,
  addStagedAnew,
  countStaged,
  doubledKeys,
  existingStaged,
  freshStaged,
  lastRow,
  linkRows,
  linkStaged,
  matchedAfter,
  rowsAfter,
} from '../database/merging';
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
  /** links to the table itself, by column and staged row: a row that is there, or a staged one with a minus */
  readonly within: ReadonlyMap<string, ReadonlyMap<number, number>>;
}
const PAGE = 1000;

/**
 * Puts staged rows into their table: adds those that are new, then changes those that exist (first the new ones, since what exists
 * may link to them). Cells that are empty in the file leave what stands. Call inside a transaction.
 */
export async function mergeStaged(
  db: Database,
  { table, columns, staging, match, stamp, within }: Merge,
  progress: (share: number) => void,
): Promise<{ added: number; changed: number }> {
  const key = columns.find((c) => c.key === match) ?? null;
  if (key) {
    await ensureIndex(db, table.key, [key]);
    await refuseDoubles(db, table, staging, key);
  }
  const before = await lastRow(db, table.key);
  const fresh = within.size ? await freshStaged(db, table.key, staging, key) : [];
  const added = await (key ? addStagedAnew(db, table.key, columns, staging, key) : addStaged(db, table.key, columns, staging));
  if (within.size) await linkWithin(db, { table, staging, key, within, before, fresh });
  if (!key) return { added, changed: 0 };
  const all = await countStaged(db, staging);
  let changed = 0;
  for (let last = 0; ;) {
    const page = await matchedAfter(db, table.key, columns, staging, key, { after: last, upTo: before }, PAGE);
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
  return { added, changed };
}

/** Sets links between rows that came together, or to rows that were there: in what was added, and as what changes the others. */
async function linkWithin(
  db: Database,
  at: Pick<Merge, 'table' | 'staging' | 'within'> & { key: Column | null; before: number; fresh: readonly number[] },
): Promise<void> {
  const { table, staging, key, before } = at;
  const made = await rowsAfter(db, table.key, before);
  const idOf = new Map(at.fresh.map((staged, i): [number, number] => [staged, made[i] as number]));
  const news = new Set(at.fresh);
  if (key) for (const { staged, target } of await existingStaged(db, table.key, staging, key, before)) idOf.set(staged, target);
  for (const [column, links] of at.within) {
    const staged = new Map<number, number>();
    const rows = new Map<number, number>();
    for (const [row, to] of links) {
      const target = to > 0 ? to : idOf.get(-to);
      if (target === undefined) continue;
      staged.set(row, target);
      if (news.has(row)) rows.set(idOf.get(row) as number, target);
    }
    await linkStaged(db, staging, column, staged);
    await linkRows(db, table.key, column, rows);
  }
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
