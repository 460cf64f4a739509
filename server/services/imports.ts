import { isFolded } from '../../core/choices/order.ts';
import { type Column, targetOf } from '../../core/model/tables.ts';
import type { Datum } from '../../core/values/types.ts';
import { type ModelTable, adoptStaging } from '../database/model';
import type { Stored } from '../database/names';
import { type RowStamp, insertRow } from '../database/rows';
import { linkRows, linkStaged } from '../database/merging';
import { Staging, dropStaging } from '../database/staging';
import type { ImportFile } from '../imports/files';
import type { Account } from '../database/accounts';
import { Refused } from './errors';
import { mergeStaged } from './importMerge';
import type { ImportCheck, Passed } from './importPass';
import { type Goal, type ImportPlan, type LinkKeys, goalOf } from './importReaders';
import { type JobHandle, UNWATCHED } from './jobs';
import type { Workspace } from './workspace';

export type { ImportPlan, Repair } from './importReaders';

export const MAX_IMPORT_BYTES = 2_000_000_000;

/** Says what would go wrong: values that do not convert, links that match no row. Nothing is written. */
export async function checkImport(ws: Workspace, plan: ImportPlan, file: ImportFile, job: JobHandle = UNWATCHED): Promise<ImportCheck> {
  const { rows, bad, badCount, unmatched } = await ws.work.run('importPass', { plan, file: file.at, keys: new Map(), stamp: null }, job);
  return { rows, bad, badCount, unmatched };
}

export interface Imported {
  readonly table: string;
  readonly rows: number;
  readonly added: number;
  readonly changed: number;
}

/** A new row that a text names: the text stands in what its rows are known by, and in the column it was matched by. */
function namedAs(target: ModelTable, plan: ImportPlan, column: Column, text: string): Record<string, Datum> {
  const by = plan.columns.find((c) => c?.key === column.key)?.by ?? [];
  const [only] = by.length === 1 ? by : [];
  const texts = target.columns.filter((c) => isFolded(c.type) && (c.key === only || c.key === target.shown));
  return Object.fromEntries(texts.map((c) => [c.key, text]));
}

/**
 * Imports a file into a new table, or adds to (or changes) the rows of one: all of it or nothing. Refused while something
 * is unmatched or does not convert. Cancelled, it leaves nothing behind.
 */
export async function runImport(
  ws: Workspace,
  account: Account | null,
  plan: ImportPlan,
  file: ImportFile,
  job: JobHandle = UNWATCHED,
  keys: LinkKeys = new Map(),
): Promise<Imported> {
  const goal = await goalOf(ws, plan, file);
  const { table } = goal;
  const isNew = (plan.into ?? null) === null;
  if (isNew && table.shown && !goal.used.some((c) => c.key === table.shown))
    throw new Refused(422, 'values', 'The shown column must be one of the columns.', {});
  const stamp = { at: ws.clock.now(), account: account?.id ?? null, form: null, formVersion: null };
  const staging = await Staging.create(ws.db, goal.used, isNew ? table.key : null);
  let adopted = false;
  try {
    // read and packed in a thread; here it is only written
    const done = await ws.work.run(
      'importPass',
      { plan, file: file.at, keys, stamp },
      { ...job, give: (rows) => staging.write(rows as Stored[][]) },
    );
    const open = Object.values(done.unmatched).reduce((n, u) => n + u.length, 0);
    if (done.badCount || open) {
      const { bad, badCount, unmatched } = done;
      throw new Refused(422, 'import', 'Some values do not fit yet. Nothing was imported.', { bad, badCount, unmatched });
    }
    job.at(0.96, 'putting it in place');
    const placing: Placing = { ...goal, plan, staging: staging.name, stamp, pending: done.pending, within: done.within, rows: done.rows };
    const result = await ws.reshape(isNew ? [] : [table.key], 'placeImport', [placing], () => placeImport(ws, placing, job), done.rows);
    adopted = isNew;
    return { table: table.key, rows: done.rows, ...result };
  } finally {
    if (!adopted) await ws.reshape([], 'dropStaging', [staging.name], () => dropStaging(ws.db, staging.name), staging.rows);
    ws.modelChanged();
    ws.rowsChanged(table.key);
    for (const column of goal.used) if (targetOf(column)) ws.rowsChanged(targetOf(column) as string);
  }
}

export interface Placing extends Goal {
  readonly plan: ImportPlan;
  readonly staging: string;
  readonly stamp: RowStamp;
  readonly pending: Passed['pending'];
  readonly within: Passed['within'];
  readonly rows: number;
}
/** Puts the rows of a staging table where they go, in one transaction. */
export async function placeImport(
  ws: Workspace,
  { plan, table, used, staging, stamp, pending, within, rows }: Placing,
  job: JobHandle = UNWATCHED,
): Promise<{ added: number; changed: number }> {
  return ws.db.transaction(async (db) => {
    const added = new Map<string, number>();
    const links = new Map<string, Map<number, number>>();
    for (const { row, column, text } of pending) {
      const target = await ws.modelTable(targetOf(column) as string, db);
      const key = `${target.key} ${text}`;
      let id = added.get(key);
      if (id === undefined) added.set(key, (id = await insertRow(db, target, namedAs(target, plan, column, text), stamp)));
      links.set(column.key, (links.get(column.key) ?? new Map<number, number>()).set(row, id));
    }
    for (const [column, ids] of links) await linkStaged(db, staging, column, ids);
    if ((plan.into ?? null) !== null) {
      const merge = { table, columns: used, staging, match: plan.match ?? null, stamp, within };
      return mergeStaged(db, merge, (share) => job.at(0.96 + share * 0.04));
    }
    await adoptStaging(db, staging, table);
    for (const [column, ids] of within) await linkRows(db, table.key, column, ids);
    return { added: rows, changed: 0 };
  });
}
