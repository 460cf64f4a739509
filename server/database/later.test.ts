import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import BetterSqlite from 'better-sqlite3';
import { afterAll, describe, expect, test } from 'vitest';
import { type Database, closeDatabase, openDatabase } from './connection';
import { onDisk, writeLater } from './later';
import { setSetting, setting } from './settings';

const folder = mkdtempSync(join(tmpdir(), 'brisk-later-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const [NORMAL, FULL] = [1, 2];
const synced = async (db: Database): Promise<number> => ((await db.raw('PRAGMA synchronous')) as [{ synchronous: number }])[0].synchronous;

describe('what is written without waiting for the disk', () => {
  test('is written as any other; what others write meanwhile and after waits as ever', async () => {
    const file = join(folder, 'later.sqlite');
    const db = await openDatabase(file);
    const within: number[] = [];
    const after = writeLater(db, async (own) => {
      within.push(await synced(own));
      await setSetting(own, 'a', 1);
      return 'given';
    }).then(async (given) => [given, await synced(db)]);
    // asked while it is under way: it comes after, and is durable
    const other = db.transaction(async (own) => {
      await setSetting(own, 'b', 2);
      return synced(own);
    });
    expect(await after).toEqual(['given', FULL]);
    expect(await other).toBe(FULL);
    expect(within).toEqual([NORMAL]);
    await onDisk(db);
    const beside = new BetterSqlite(file, { readonly: true });
    expect(beside.prepare('SELECT count(*) AS n FROM workspace').get()).toEqual({ n: 2 });
    beside.close();
    await closeDatabase(db);
  });

  test('is undone as any other, and the next waits for the disk', async () => {
    const db = await openDatabase(join(folder, 'undone.sqlite'));
    const failing = writeLater(db, async (own) => {
      await setSetting(own, 'a', 1);
      throw new Error('no');
    });
    await expect(failing).rejects.toThrow('no');
    expect([await setting(db, 'a'), await synced(db)]).toEqual([undefined, FULL]);
    await closeDatabase(db);
  });

  test('where SQLite undoes it by itself, the next waits for the disk too', async () => {
    const db = await openDatabase(join(folder, 'by-itself.sqlite'));
    await setSetting(db, 'a', 1);
    await expect(writeLater(db, (own) => own.raw(`INSERT OR ROLLBACK INTO workspace (key, value) VALUES ('a', '2')`))).rejects.toThrow(
      'UNIQUE',
    );
    expect([await setting(db, 'a'), await synced(db)]).toEqual([1, FULL]);
    await closeDatabase(db);
  });

  test('where it cannot be begun, the next waits for the disk too', async () => {
    const file = join(folder, 'busy.sqlite');
    const db = await openDatabase(file);
    await db.raw('PRAGMA busy_timeout = 1');
    const hand = new BetterSqlite(file);
    hand.prepare('BEGIN IMMEDIATE').run();
    await expect(writeLater(db, (own) => setSetting(own, 'a', 1))).rejects.toThrow('locked');
    hand.prepare('ROLLBACK').run();
    hand.close();
    expect(await synced(db)).toBe(FULL);
    await writeLater(db, (own) => setSetting(own, 'a', 2));
    expect(await setting(db, 'a')).toBe(2);
    await closeDatabase(db);
  });

  test('in memory there is no disk to wait for', async () => {
    const db = await openDatabase(':memory:');
    await writeLater(db, (own) => setSetting(own, 'a', 1));
    await onDisk(db);
    expect(await setting(db, 'a')).toBe(1);
    await closeDatabase(db);
  });
});
