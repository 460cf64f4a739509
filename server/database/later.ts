import { type Connection, notSyncedNext } from './client';
import type { Database } from './connection';
import { dialectOf } from './dialect';
import { isSlow, synced } from './disk';

/*
 * Transactions that end without waiting for the disk: a thread of Node's brings them there, so that nobody waits for it but who is to be
 * told that his own is safe. https://www.sqlite.org/pragma.html#pragma_synchronous
 */

interface Pool {
  acquireConnection(): Promise<Connection>;
  releaseConnection(connection: Connection): Promise<void>;
}

/**
 * A transaction that is not durable by itself where that is slow just now, or where nobody waits for it. Gives what `work` gave as soon as it
 * is written, and with it a promise of its being on the disk, which throws where that does not take it. On a server a transaction is durable
 * when it ends.
 */
export async function writeAhead<T>(
  db: Database,
  work: (db: Database) => Promise<T>,
  isWaitedFor = true,
): Promise<{ readonly gave: T; readonly safe: Promise<void> }> {
  if (dialectOf(db).name !== 'sqlite') return { gave: await db.transaction(work), safe: Promise.resolve() };
  const pool = db.client as Pool;
  const connection = await pool.acquireConnection();
  try {
    const isAside = !isWaitedFor || isSlow(connection);
    if (isAside) notSyncedNext(connection);
    const gave = await db.transaction(work, { connection });
    return { gave, safe: isAside ? synced(connection) : Promise.resolve() };
  } finally {
    await pool.releaseConnection(connection);
  }
}

/**
 * For what may be lost when the machine fails, as long as all that came before it is there: batches of long work. Nobody waits for the disk;
 * see `onDisk`.
 */
export async function writeLater<T>(db: Database, work: (db: Database) => Promise<T>): Promise<T> {
  const { gave, safe } = await writeAhead(db, work, false);
  // where it fails whoever waits next for the disk is told
  safe.catch(() => undefined);
  return gave;
}

/** Waits until all that was written so is durable. Throws where the disk does not take it. */
export async function onDisk(db: Database): Promise<void> {
  if (dialectOf(db).name !== 'sqlite') return;
  const pool = db.client as Pool;
  const connection = await pool.acquireConnection();
  const safe = synced(connection);
  await pool.releaseConnection(connection);
  await safe;
}
