import { open } from 'node:fs/promises';
import type BetterSqlite3 from 'better-sqlite3';
import { type Connection, notSyncedNext } from './client';
import type { Database } from './connection';
import { dialectOf } from './dialect';

/*
 * What may be lost when the machine fails, as long as all that came before it is there: rows of an import under way, batches of long work.
 * Their transactions end without waiting for the disk; a thread of Node's brings them there, so that whoever saves next, and waits for
 * the disk, need not wait for these too. https://www.sqlite.org/pragma.html#pragma_synchronous
 */

type Held = Connection & Pick<BetterSqlite3.Database, 'memory' | 'name'>;
interface Pool {
  acquireConnection(): Promise<Held>;
  releaseConnection(connection: Held): Promise<void>;
}

/** The log beside the file that a connection writes; null where there is none. */
export const logOf = ({ memory, name }: Pick<Held, 'memory' | 'name'>): string | null => (memory ? null : `${name}-wal`);

const onTheirWay = new Map<string, Promise<void>>();
/** Of the files of a database it is the one that may be opened and closed here: SQLite locks the others, and closing one lets go of that. */
async function sync(log: string): Promise<void> {
  const file = await open(log, 'r+');
  await file.datasync().finally(() => file.close());
}
/** Begins to bring a log to the disk, where that is not under way. Where it fails whoever saves next does it. */
export function beginSync(log: string | null): void {
  if (log === null || onTheirWay.has(log)) return;
  const now = sync(log)
    .catch(() => undefined)
    .finally(() => onTheirWay.delete(log));
  onTheirWay.set(log, now);
}

/** A transaction that is not durable by itself; see `onDisk`. On a server it is as any other. */
export async function writeLater<T>(db: Database, work: (db: Database) => Promise<T>): Promise<T> {
  if (dialectOf(db).name !== 'sqlite') return db.transaction(work);
  const pool = db.client as Pool;
  const connection = await pool.acquireConnection();
  try {
    notSyncedNext(connection);
    return await db.transaction(work, { connection });
  } finally {
    beginSync(logOf(connection));
    await pool.releaseConnection(connection);
  }
}

/** Waits until what was written so is durable. Throws where the disk does not take it. */
export async function onDisk(db: Database): Promise<void> {
  if (dialectOf(db).name !== 'sqlite') return;
  const pool = db.client as Pool;
  const connection = await pool.acquireConnection();
  const log = logOf(connection);
  await pool.releaseConnection(connection);
  // one that is under way may have begun before the last was written
  if (log !== null) await sync(log);
}
