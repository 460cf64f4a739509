import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import BetterSqlite from 'better-sqlite3';
import fc from 'fast-check';
import { afterAll, describe, expect, test } from 'vitest';
import { Kept } from './changes';
import { type Database, changesOf, closeDatabase, noteOthers, openDatabase, openToRead } from './connection';
import { setSetting, setting } from './settings';
import { execute, selected } from './statement';
import { Together } from './together';
import { ON_SERVER } from '../testing/databases';
import { emptyDatabase } from '../testing/workspace';

const folder = mkdtempSync(join(tmpdir(), 'brisk-together-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const turn = (): Promise<void> => new Promise((resolve) => setImmediate(resolve));

describe('what is written together', () => {
  test('is there when it is answered; what fails is undone alone', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.record({ fails: fc.boolean(), rows: fc.integer({ min: 1, max: 3 }), waits: fc.boolean() }), { minLength: 1, maxLength: 30 }), async (asked) => {
        const db = await openDatabase(await emptyDatabase());
        const together = new Together(db);
        const answers = await Promise.allSettled(
          asked.map(async ({ fails, rows, waits }, n) => {
            // some come while others are written
            if (waits) await turn();
            return together.write(async (own) => {
              for (let i = 0; i < rows; i++) await setSetting(own, `${n} ${i}`, n);
              if (waits) await Promise.resolve();
              if (fails) throw new Error(`no ${n}`);
              return n;
            });
          }),
        );
        for (const [n, { fails, rows }] of asked.entries()) {
          expect(answers[n]).toMatchObject(fails ? { status: 'rejected', reason: { message: `no ${n}` } } : { status: 'fulfilled', value: n });
          for (let i = 0; i < rows; i++) expect(await setting(db, `${n} ${i}`)).toBe(fails ? undefined : n);
        }
        await closeDatabase(db);
      }),
      { numRuns: 60 },
    ); // prettier-ignore
  });

  test('a transaction that cannot be committed fails all who were in it, and the next is done', async () => {
    const db = await openDatabase(await emptyDatabase());
    await db.raw('CREATE TABLE child (id INTEGER PRIMARY KEY, parent TEXT REFERENCES workspace (key) DEFERRABLE INITIALLY DEFERRED)');
    const together = new Together(db);
    const both = await Promise.allSettled([
      together.write((own) => setSetting(own, 'a', 1)),
      together.write((own) => execute(own, 'INSERT INTO child (id, parent) VALUES (1, ?)', ['nobody'])),
    ]);
    expect(both.map((b) => b.status)).toEqual(['rejected', 'rejected']);
    expect(await setting(db, 'a')).toBeUndefined();
    await together.write((own) => setSetting(own, 'b', 2));
    expect(await setting(db, 'b')).toBe(2);
    await closeDatabase(db);
  });

  // of a database in memory there is one connection only
  const inFile = async (): Promise<Database> => openDatabase(ON_SERVER ? await emptyDatabase() : join(folder, `${Math.random()}.sqlite`));
  test('what only reads does not wait for a transaction that is open, and sees what was there before; what writes waits', async () => {
    const db = await inFile();
    await setSetting(db, 'a', 0);
    let inside: Database | null = null;
    let go = (): void => undefined;
    const open = db.transaction(async (own) => {
      inside = own;
      await setSetting(own, 'a', 1);
      await new Promise<void>((resolve) => (go = resolve));
    });
    while (!inside) await turn();
    const read = async (): Promise<unknown[]> => [
      await setting(db, 'a'),
      (await selected(db, `SELECT value FROM workspace WHERE key = ?`, ['a'])).map((row) => JSON.parse(String(row.value)) as unknown)[0],
      await db('workspace')
        .count({ n: '*' })
        .then(([row]) => Number(row?.n)),
    ];
    expect(await read()).toEqual([0, 0, 1]);
    // inside, what was written is there
    expect(await setting(inside, 'a')).toBe(1);
    let isWritten = false;
    const writing = setSetting(db, 'a', 2).then(() => (isWritten = true));
    await turn();
    expect(isWritten).toBe(false);
    go();
    await Promise.all([open, writing]);
    expect(await read()).toEqual([2, 2, 1]);
    await expect(execute(inside, 'SELECT 1', [])).rejects.toThrow('The transaction has ended.');
    await closeDatabase(db);
  });
  test('a column that is added is read by whoever reads beside a transaction', async () => {
    const db = await inFile();
    const beside = async (change: (own: Database) => Promise<unknown>): Promise<unknown> => {
      let there: unknown;
      await db.transaction(async (own) => {
        await change(own);
        there = await db('workspace').select('*');
      });
      return there;
    };
    await setSetting(db, 'a', 0);
    const before = (await beside((own) => setSetting(own, 'b', 0))) as object[];
    expect(before).toHaveLength(1);
    await db.schema.alterTable('workspace', (table) => void table.text('more').defaultTo('x'));
    const after = (await beside((own) => setSetting(own, 'c', 0))) as object[];
    expect(after).toHaveLength(2);
    expect(after[0]).toMatchObject({ more: 'x' });
    await closeDatabase(db);
  });
});

describe('what is kept', () => {
  test('is read once, and anew when a table it was read from is written and committed', async () => {
    const db = await openDatabase(await emptyDatabase());
    const kept = new Kept(changesOf(db));
    let reads = 0;
    const a = (): Promise<unknown> => kept.get('a', ['workspace'], () => (reads++, setting(db, 'a')));
    expect(await Promise.all([a(), a()])).toEqual([undefined, undefined]);
    await setSetting(db, 'a', 1);
    expect(await a()).toBe(1);
    await db('sessions').delete();
    await db.transaction(async (own) => setSetting(own, 'a', 2)).then(a);
    expect(await a()).toBe(2);
    expect(reads).toBe(3);
    // what was undone was never so
    await db.transaction(async (own) => setSetting(own, 'a', 3).then(() => Promise.reject(new Error('no')))).catch(() => undefined);
    expect(await a()).toBe(2);
    expect(reads).toBe(3);
    // a table made anew under another name was written under both
    await db.raw('ALTER TABLE workspace RENAME TO other');
    await db.raw('ALTER TABLE other RENAME TO workspace');
    await a();
    expect(reads).toBe(4);
    await closeDatabase(db);
  });

  test('what fails is asked again', async () => {
    const db = await openDatabase(await emptyDatabase());
    const kept = new Kept(changesOf(db));
    await expect(kept.get('a', [], () => Promise.reject(new Error('no')))).rejects.toThrow('no');
    expect(await kept.get('a', [], () => Promise.resolve(1))).toBe(1);
    await closeDatabase(db);
  });

  test('processes on one file learn what the others have written, and by hand too', async () => {
    const file = join(folder, 'both.sqlite');
    const [one, other] = [await openDatabase(file), await openDatabase(file)];
    const [here, there] = [new Kept(changesOf(one)), new Kept(changesOf(other))];
    const told: string[] = [];
    changesOf(other).onForeign((tables) => told.push(tables === 'all' ? 'all' : [...tables].join()));
    let reads = 0;
    const a = (kept: Kept, db: Database): Promise<unknown> => kept.get('a', ['workspace'], () => (reads++, setting(db, 'a')));
    for (let n = 1; n <= 5; n++) {
      const [writes, into] = n % 2 ? [one, other] : [other, one];
      await setSetting(writes, 'a', n);
      await turn();
      expect([await a(here, one), await a(there, other)], String(n)).toEqual([n, n]);
      await turn();
      // another table is another matter
      const before = reads;
      await writes('sessions').delete();
      await into.raw('SELECT 1');
      await turn();
      expect([await a(here, one), await a(there, other)]).toEqual([n, n]);
      expect(reads).toBe(before);
    }
    const hand = new BetterSqlite(file);
    hand.prepare(`UPDATE workspace SET value = '"by hand"'`).run();
    hand.close();
    await turn();
    expect([await a(here, one), await a(there, other)]).toEqual(['by hand', 'by hand']);
    expect(told).toContain('all');
    expect(told).toContain('workspace');
    await closeDatabase(one);
    await closeDatabase(other);
  });

  test('whoever only reads a file learns what others have written; of what nobody keeps, nothing is forgotten', async () => {
    const file = join(folder, 'read.sqlite');
    const writes = await openDatabase(file);
    const reads = openToRead(file);
    await noteOthers(reads);
    const kept = new Kept(changesOf(reads));
    const told: string[] = [];
    changesOf(reads).onForeign((tables) => told.push(tables === 'all' ? 'all' : [...tables].join()));
    const look = (): void => changesOf(reads).lookNow();
    const a = (): Promise<unknown> => kept.get('a', ['workspace'], () => setting(reads, 'a'));
    expect(await a()).toBeUndefined();
    // without a turn between, as threads take what they are asked
    await setSetting(writes, 'a', 1);
    look();
    expect(await a()).toBe(1);
    const known = a();
    await writes('backfill_rows').delete();
    await writes.transaction(async (db) => void (await db('impact_rows').delete()));
    look();
    expect(a()).toBe(known);
    expect(told).toEqual(['workspace', '-']);
    const hand = new BetterSqlite(file);
    hand.prepare(`UPDATE workspace SET value = '"by hand"'`).run();
    hand.close();
    look();
    expect(await a()).toBe('by hand');
    await reads.destroy();
    await closeDatabase(writes);
  });
});
