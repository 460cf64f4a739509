import { join } from 'node:path';
import BetterSqlite from 'better-sqlite3';
import { describe, expect, inject, test } from 'vitest';
import { ON_SERVER } from '../testing/databases';
import { FIXED, demoFile, emptyDatabase } from '../testing/workspace';
import { Workspace } from '../services/workspace';
import { publishedForm } from '../services/forms';
import { Kept } from './changes';
import { type Database, changesOf, closeDatabase, openDatabase } from './connection';
import { sqlColumnsOf } from './columns';
import { type CopyTold, copyToServer } from './copy';
import { readModel } from './model';
import { beginRetyping, isOfRetyping, isRetyping } from './retyping';
import { allRows, entryRows, gridRows, insertRow, rowsByIds } from './rows';
import { ensureSearchIndex } from './searchIndex';
import { setSetting, setting } from './settings';
import { selected } from './statement';

/* What a server has of its own: processes beside each other that hear of each other, the copy of a file into it; and what both take. */

const stamp = { at: '2026-03-10T09:30:00', account: null, form: null, formVersion: null };

describe.skipIf(!ON_SERVER)('processes on one database of a server', () => {
  const two = async (): Promise<[Database, Database]> => {
    const url = await emptyDatabase();
    return [await openDatabase(url), await openDatabase(url)];
  };

  test('hear what the others have written, and know it before they decide anything', async () => {
    const [one, other] = await two();
    const [here, there] = [new Kept(changesOf(one)), new Kept(changesOf(other))];
    const told: string[] = [];
    changesOf(other).onForeign((tables) => told.push(tables === 'all' ? 'all' : [...tables].join()));
    const a = (kept: Kept, db: Database): Promise<unknown> => kept.get('a', ['workspace'], () => setting(db, 'a'));
    for (let n = 1; n <= 4; n++) {
      const writes = n % 2 ? one : other;
      await setSetting(writes, 'a', n);
      await expect.poll(async () => [await a(here, one), await a(there, other)], { interval: 5 }).toEqual([n, n]);
    }
    expect(told).toContain('workspace');
    // whoever begins to write need not wait until the notice has come
    await setSetting(one, 'a', 'newer');
    await other.transaction(async () => expect(changesOf(other).stampOf(['workspace'])).toBeGreaterThan(0));
    expect(await a(there, other)).toBe('newer');
    await closeDatabase(one);
    await closeDatabase(other);
  });

  test('write one after the other: what two read and then change is changed twice', async () => {
    const [one, other] = await two();
    await setSetting(one, 'n', 0);
    const add = (db: Database): Promise<void> =>
      db.transaction(async (t) => {
        const n = (await setting(t, 'n')) as number;
        await new Promise((resolve) => setTimeout(resolve, 5));
        await setSetting(t, 'n', n + 1);
      });
    await Promise.all(Array.from({ length: 10 }, (_, i) => add(i % 2 ? one : other)));
    expect(await setting(one, 'n')).toBe(10);
    await closeDatabase(one);
    await closeDatabase(other);
  });

  test('what fails is undone, and the next may write', async () => {
    const [one, other] = await two();
    await expect(one.transaction((t) => setSetting(t, 'a', 1).then(() => Promise.reject(new Error('no'))))).rejects.toThrow('no');
    await expect(one.raw('INSERT INTO nowhere VALUES (1)')).rejects.toThrow(/nowhere/);
    await setSetting(other, 'a', 2);
    expect(await setting(one, 'a')).toBe(2);
    await closeDatabase(one);
    await closeDatabase(other);
  });

  test('statements stay prepared, and a table may get other columns meanwhile: here, in the transaction itself, or elsewhere', async () => {
    const [one, other] = await two();
    const prepared = async (db: Database): Promise<number> =>
      ((await db.raw("SELECT count(*)::int AS n FROM pg_prepared_statements WHERE statement LIKE '%workspace%'")) as { n: number }[])[0]!.n;
    const all = (db: Database) => selected(db, 'SELECT * FROM workspace WHERE key = ?', ['a']);
    const columns = async (db: Database): Promise<number> => Object.keys((await all(db))[0]!).length;
    await setSetting(one, 'a', 1);
    const before = await columns(one);
    expect(await columns(other)).toBe(before);
    expect(await columns(one)).toBe(before);
    expect(await prepared(one)).toBe(1);
    await one.transaction(async (db) => {
      await all(db);
      await db.schema.alterTable('workspace', (t) => void t.integer('more'));
      expect(await columns(db)).toBe(before + 1);
    });
    // at once, before any notice can have come
    expect(await columns(other)).toBe(before + 1);
    expect(await columns(one)).toBe(before + 1);
    await other.schema.alterTable('workspace', (t) => void t.integer('still'));
    await one.transaction(async (db) => {
      await setSetting(db, 'a', 2);
      expect(await columns(db)).toBe(before + 2);
    });
    // those of columns that are no more are let go
    await expect.poll(async () => [await columns(other), await prepared(other)], { interval: 5 }).toEqual([before + 2, 1]);
    await closeDatabase(one);
    await closeDatabase(other);
  });

  test('a row put in under a number of its own is not in the way of those that come', async () => {
    const ws = new Workspace(await openDatabase(await emptyDatabase()), FIXED);
    const people = await ws.modelTable('people');
    await ws.db('data_people').insert({ id: 40, name: 'Ida' });
    expect(await insertRow(ws.db, people, { name: 'Tom' }, stamp)).toBe(41);
    await ws.close();
  });
});

test('what is asked for with figures and characters that no row has is found nowhere, and is no error', async () => {
  const ws = new Workspace(await openDatabase(await emptyDatabase()), FIXED);
  const people = await ws.modelTable('people');
  await insertRow(ws.db, people, { name: 'Ida', email: 'ida@marrowfen.example' }, stamp);
  await ensureSearchIndex(ws.db, people);
  const found = async (search: string, isIndexed: boolean): Promise<number> =>
    (await gridRows(ws.db, people, { search, sort: null, descending: false, offset: 0, limit: 5 }, isIndexed)).total;
  for (const isIndexed of [true, false]) {
    expect(await found('ida', isIndexed)).toBe(1);
    for (const odd of ['ida\0', '\0\0\0', '%da', 'i_a', '\\ida', 'i"d\'a', '\ud800ida']) expect(await found(odd, isIndexed), odd).toBe(0);
  }
  expect(await entryRows(ws.db, people, { ids: [Number.MAX_SAFE_INTEGER, -1] })).toEqual([]);
  expect(await rowsByIds(ws.db, people, [1, 2 ** 40])).toHaveLength(1);
  await ws.close();
});

describe.skipIf(!ON_SERVER)('a workspace in a file', () => {
  test('is copied whole into a server, which goes on with it', async () => {
    const file = await demoFile();
    const url = await emptyDatabase();
    // a server ended while a column became another, and while a search index was filled
    const left = await openDatabase(file);
    const species = (await readModel(left)).find((one) => one.key === 'species')!;
    const column = species.columns.find((c) => c.key === species.shown)!;
    await left.transaction((db) => beginRetyping(db, 'species', column, { ...column, type: 'longtext' }));
    await left.raw('CREATE TABLE filling_species (upto INTEGER NOT NULL)');
    await closeDatabase(left);
    const told: CopyTold[] = [];
    await copyToServer(file, url, (one) => told.push(one));
    const [before, after] = [new Workspace(await openDatabase(file), FIXED), new Workspace(await openDatabase(url), FIXED)];
    for (const table of await before.modelTables()) {
      const rows = await allRows(before.db, table);
      expect(await allRows(after.db, await after.modelTable(table.key)), table.key).toEqual(rows);
      expect(told.find((t) => t.table === `data_${table.key}`)?.rows).toBe(rows.length);
    }
    expect((await publishedForm(after, 'lot_intake')).form).toEqual((await publishedForm(before, 'lot_intake')).form);
    // rows get the numbers after those there are, and links are held
    expect(await isRetyping(after.db, 'species')).toBe(false);
    expect((await sqlColumnsOf(after.db, 'species')).filter(isOfRetyping)).toEqual([]);
    const regions = await after.modelTable('regions');
    const last = (await allRows(after.db, regions)).at(-1)!.id;
    expect(await insertRow(after.db, regions, { name: 'New' }, stamp)).toBe(last + 1);
    await expect(after.db('data_species').insert({ genus: 999_999 })).rejects.toThrow(/foreign key/);
    await before.close();
    await after.close();
    // what is not empty is left alone
    await expect(copyToServer(file, url, () => undefined)).rejects.toThrow(/not empty/);
  });

  test('of which a row cannot be written leaves nothing behind', async () => {
    const file = join(inject('demoFolder'), `broken-${process.pid}.sqlite`);
    const made = new Workspace(await openDatabase(file), FIXED);
    await insertRow(made.db, await made.modelTable('people'), { name: 'Ida' }, stamp);
    await made.close();
    const hand = new BetterSqlite(file);
    // a server's texts hold no NUL
    hand.prepare('UPDATE data_people SET email = ?').run('a\0b');
    hand.close();
    const url = await emptyDatabase();
    await expect(copyToServer(file, url, () => undefined)).rejects.toThrow(/Rows of data_people from 1 on cannot be written/);
    const db = await openDatabase(url);
    expect(await db('data_people')).toEqual([]);
    await closeDatabase(db);
  });
});
