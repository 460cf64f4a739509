import { createRequire } from 'node:module';
import { Worker } from 'node:worker_threads';
import type { Database } from './connection';

/*
 * What is written stands in a log beside the file first, and is brought into it from time to time. SQLite does that at the end of whichever
 * transaction makes the log long enough, which then takes a hundred times as long, and with it everybody who waits. Here a thread does it.
 */

/** So many pages in the log that are not in the file yet are brought into it; and how often is looked, in ms. */
const [PAGES, EVERY] = [1000, 100];
/**
 * The log begins anew with what is written next once all of it is in the file. Of a log of so many pages all is brought into it; where others
 * write meanwhile and so few are left, by whoever writes: with nobody writing between.
 */
const [MUCH, LITTLE] = [4000, 1000];
/** A log of so many pages is brought into the file by whoever writes, however long it takes: the thread does not get on. */
const TOO_MUCH = 20_000;
/** What SQLite does by itself, where there is no thread. */
const USUAL = 1000;

/*
 * How many pages the log has, and how many of them are in the file, stands at these places of the file that those who use a database share:
 * https://www.sqlite.org/walformat.html#the_wal_index_file_format (mxFrame, nBackfill).
 *
 * It is opened once and never closed, not when the thread ends either: whoever closes a file lets go of all locks that the process has on it,
 * those of SQLite too, and another process then writes beside this one
 * (https://www.sqlite.org/howtocorrupt.html, “POSIX advisory locks canceled by a separate thread doing close()”).
 */
const THREAD = `
const { parentPort, workerData: { driver, file, pages, much, every } } = require('node:worker_threads');
const fs = require('node:fs');
const endian = require('node:os').endianness();
const Database = require(driver);
const head = Buffer.alloc(100);
const at = (place) => (endian === 'LE' ? head.readUInt32LE(place) : head.readUInt32BE(place));
let db = null;
let shared = null;
/** How long the log is, and how much of it is not in the file yet; null where there is none. */
function log() {
  shared ??= fs.openSync(file + '-shm', 'r');
  return fs.readSync(shared, head, 0, 100, 0) < 100 ? null : { length: at(16), left: at(16) - at(96) };
}
function look() {
  const now = log();
  if (!now || (now.left < pages && (now.length < much || now.left === 0))) return;
  db ??= new Database(file, { fileMustExist: true, timeout: 0 });
  const [{ busy }] = db.pragma('wal_checkpoint(PASSIVE)');
  // others wrote meanwhile
  const then = log();
  if (!busy && then) parentPort.postMessage(then);
}
setInterval(() => {
  try {
    look();
  } catch {
    // there is no log yet, or somebody has it: the next time
  }
}, every);
`;

/** Has the log of a database brought into its file by a thread; gives what ends that. */
export async function checkpointsAside(db: Database, file: string): Promise<() => Promise<void>> {
  const driver = createRequire(import.meta.url).resolve('better-sqlite3');
  const worker = new Worker(THREAD, { eval: true, trackUnmanagedFds: false, workerData: { driver, file, pages: PAGES, much: MUCH, every: EVERY }, resourceLimits: { maxOldGenerationSizeMb: 32 } }); // prettier-ignore
  worker.unref();
  // without the thread all is as it would have been
  const byItself = (): Promise<void> => db.raw(`PRAGMA wal_autocheckpoint = ${USUAL}`).then(() => undefined, () => undefined); // prettier-ignore
  worker.on('error', () => void byItself());
  worker.on('message', ({ length, left }: { length: number; left: number }) => {
    if (length >= MUCH && left < LITTLE) db.raw('PRAGMA wal_checkpoint(PASSIVE)').catch(() => undefined);
  });
  await db.raw(`PRAGMA wal_autocheckpoint = ${TOO_MUCH}`);
  return async () => {
    await worker.terminate();
    await byItself();
  };
}
