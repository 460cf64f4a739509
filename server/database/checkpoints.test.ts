import { execFile } from 'node:child_process';
import { mkdtempSync, openSync, readSync, rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { afterAll, expect, test, vi } from 'vitest';
import { checkpointsAside } from './checkpoints';
import { type Database, closeDatabase, openDatabase } from './connection';

const folder = mkdtempSync(join(tmpdir(), 'brisk-checkpoints-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const shared = new Map<string, number>();
/** Pages in the log, and how many of them are in the file. What is read for that is not closed: see `checkpointsAside`. */
const logOf = (file: string): { length: number; inFile: number } => {
  const open = shared.get(file) ?? openSync(`${file}-shm`, 'r');
  shared.set(file, open);
  const head = Buffer.alloc(100);
  readSync(open, head, 0, 100, 0);
  return { length: head.readUInt32LE(16), inFile: head.readUInt32LE(96) };
};
async function write(db: Database, rows: number): Promise<void> {
  for (let i = 0; i < rows; i++) await db.raw('INSERT INTO much (x) VALUES (zeroblob(3000))');
}
/**
 * Writes until the log is long, and waits until the thread has all of that in the file; gives how long it is. In one transaction: brought
 * into the file in the midst of many, the log would begin anew with the next, and the few pages after that wait for more.
 */
async function writtenAside(db: Database, file: string): Promise<number> {
  await db.transaction((t) => write(t, 1500));
  await vi.waitFor(() => expect(logOf(file)).toMatchObject({ inFile: logOf(file).length }), 20_000);
  const { length } = logOf(file);
  expect(length).toBeGreaterThan(1000);
  return length;
}
async function opened(name: string): Promise<{ db: Database; file: string }> {
  const file = join(folder, name);
  const db = await openDatabase(file);
  await db.raw('CREATE TABLE much (x BLOB)');
  return { db, file };
}

test('what is written is brought into the file by a thread, not by who writes it; the log begins anew after it', async () => {
  const { db, file } = await opened('aside.sqlite');
  const end = await checkpointsAside(db, file);
  await vi.waitFor(() => expect(logOf(file).inFile).toBe(0));
  const length = await writtenAside(db, file);
  // all of it is there: what is written next begins anew
  await write(db, 1);
  expect(logOf(file).length).toBeLessThan(length);
  await end();
  expect(await db('much').count('* as n')).toEqual([{ n: expect.any(Number) as number }]);
  await closeDatabase(db);
}, 60_000);

test('however much is written without a pause, the log does not grow for ever', async () => {
  const { db, file } = await opened('busy.sqlite');
  const end = await checkpointsAside(db, file);
  let longest = 0;
  for (let i = 0; i < 150; i++) {
    await write(db, 100);
    // requests come in between
    await new Promise((resolve) => setImmediate(resolve));
    longest = Math.max(longest, logOf(file).length);
  }
  await end();
  await closeDatabase(db);
  // some 15,000 pages were written
  expect(longest).toBeLessThan(12_000);
}, 60_000);

test('ended, whoever writes brings it into the file as SQLite does by itself', async () => {
  const { db, file } = await opened('ended.sqlite');
  await (
    await checkpointsAside(db, file)
  )();
  expect(await db.raw('PRAGMA wal_autocheckpoint')).toEqual([{ wal_autocheckpoint: 1000 }]);
  await write(db, 1500);
  expect(logOf(file).length).toBeLessThan(1500);
  await closeDatabase(db);
});

test('whoever writes keeps other processes from writing, however long, also when the thread has ended', async () => {
  const { db, file } = await opened('locked.sqlite');
  const driver = createRequire(import.meta.url).resolve('better-sqlite3');
  const script = `
    const db = new (require(${JSON.stringify(driver)}))(${JSON.stringify(file)}, { timeout: 0 });
    try { db.prepare('BEGIN IMMEDIATE').run(); console.log('began'); } catch (e) { console.log(e.code); }`;
  const other = (): Promise<string> => promisify(execFile)(process.execPath, ['-e', script]).then((r) => r.stdout.trim());
  const end = await checkpointsAside(db, file);
  await writtenAside(db, file);
  expect(await other()).toBe('began');
  let ended: Promise<void> | null = null;
  await db.transaction(async (own) => {
    await write(own, 1);
    // the thread looks at the log some times meanwhile
    await new Promise((resolve) => setTimeout(resolve, 400));
    expect(await other()).toBe('SQLITE_BUSY');
    // the thread ends at once; that SQLite does it by itself is set when the connection is free
    ended = end();
    await new Promise((resolve) => setTimeout(resolve, 200));
    expect(await other()).toBe('SQLITE_BUSY');
  });
  await ended;
  await closeDatabase(db);
}, 60_000);
