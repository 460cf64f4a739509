import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test, vi } from 'vitest';
import type { Connection } from './client';
import { closeDatabase, openDatabase } from './connection';
import { isSlow, tookByItself } from './disk';
import { onDisk } from './later';
import { setSetting, setting } from './settings';
import { Together } from './together';

/** Whom the disk keeps waiting: each is let go by hand. */
const { waiting } = vi.hoisted(() => ({ waiting: [] as { done: () => void; fail: (e: Error) => void }[] }));
vi.mock('node:fs/promises', async (original) => {
  const real = await original<typeof import('node:fs/promises')>();
  return {
    ...real,
    async open(...asked: Parameters<typeof real.open>) {
      const file = await real.open(...asked);
      const datasync = (): Promise<void> => new Promise((done, fail) => waiting.push({ done, fail }));
      return { datasync, close: () => file.close() };
    },
  };
});

const folder = mkdtempSync(join(tmpdir(), 'brisk-disk-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
async function slowDisk(name: string) {
  const db = await openDatabase(join(folder, `${name}.sqlite`));
  const pool = db.client as { acquireConnection(): Promise<Connection>; releaseConnection(c: Connection): Promise<void> };
  const connection = await pool.acquireConnection();
  await pool.releaseConnection(connection);
  tookByItself(connection, 20);
  return { db, connection, together: new Together(db) };
}
/** How many wait for the disk, as soon as somebody does. */
const waits = (n: number): Promise<void> => vi.waitFor(() => expect(waiting).toHaveLength(n));
const synchronous = async (own: { raw(sql: string): PromiseLike<unknown> }): Promise<number> =>
  ((await own.raw('PRAGMA synchronous')) as [{ synchronous: number }])[0].synchronous;

describe('a disk that is slow', () => {
  test('is waited for aside; the next are written meanwhile, and nobody is answered before his own is safe', async () => {
    const { db, connection, together } = await slowDisk('aside');
    const answered: string[] = [];
    const save = async (key: string): Promise<void> => {
      await together.write((own) => setSetting(own, key, 1));
      answered.push(key);
    };
    const all = [save('a')];
    await waits(1);
    all.push(save('b'));
    await vi.waitFor(async () => expect(await setting(db, 'b')).toBe(1));
    all.push(save('c'));
    await vi.waitFor(async () => expect(await setting(db, 'c')).toBe(1));
    // b and c were written after this had begun: they wait for the next, together
    expect([waiting.length, answered]).toEqual([1, []]);
    waiting.shift()?.done();
    await waits(1);
    expect(answered).toEqual(['a']);
    waiting.shift()?.done();
    await Promise.all(all);
    expect([answered, waiting.length]).toEqual([['a', 'b', 'c'], 0]);
    // it took as long as it was kept waiting; where it takes no time SQLite does it by itself
    expect(isSlow(connection)).toBe(true);
    tookByItself(connection, 0.1);
    expect(await together.write(synchronous)).toBe(2);
    await closeDatabase(db);
  });

  test('that does not take what was written: whoever waits is told, the next is written', async () => {
    const { db, together } = await slowDisk('fails');
    const saved = together.write((own) => setSetting(own, 'a', 1));
    await waits(1);
    waiting.shift()?.fail(Object.assign(new Error('no'), { code: 'EIO' }));
    await expect(saved).rejects.toMatchObject({ code: 'EIO' });
    const next = together.write((own) => setSetting(own, 'b', 1));
    await waits(1);
    waiting.shift()?.done();
    await next;
    const safe = onDisk(db);
    await waits(1);
    waiting.shift()?.done();
    await safe;
    await closeDatabase(db);
  });
});
