import fc from 'fast-check';
import { beforeEach, describe, expect, test } from 'vitest';
import { type Column } from '../../core/model/tables.ts';
import { columnSchema } from '../../core/model/schemas.ts';
import { canonical } from '../../core/values/decimal.ts';
import { foldText } from '../../core/values/text.ts';
import type { Datum } from '../../core/values/types.ts';
import { NOW, type TestWorkspace, bareWorkspace } from '../testing/workspace';
import { createTable } from './model';
import { renameColumnSql, renameTableSql } from './rename';
import { ensureSearchIndex } from './searchIndex';
import {
  allRows,
  countWithout,
  gridRows,
  insertRow,
  insertRows,
  lastOf,
  neighbourOf,
  revisionsOf,
  rowsHolding,
  rowsSpelled,
  setColumn,
  updateRows,
  usualIn,
} from './rows';
import { indexesOf } from './schema';

/* Rows as the database holds them: many written by one statement, found by what they hold. */

let t: TestWorkspace;
const STAMP = { at: NOW, account: null, form: null, formVersion: null };
const column = (key: string, type: Column['type'], target: string | null = null): Column => columnSchema.parse({ key, label: key, type, target }); // prettier-ignore
/** One column of each kind of storing; some are named like words of SQL and of the functions that write many rows. */
const COLUMNS = [column('name', 'text'), column('value', 'number'), column('key', 'yesno'), column('several', 'choices'), column('day', 'date'), column('holder', 'link', 'people')]; // prettier-ignore
const HELD: Readonly<Record<string, fc.Arbitrary<Datum>>> = {
  name: fc.option(fc.string({ unit: 'grapheme', minLength: 1 }).map((s) => s.replaceAll('\0', 'x'))),
  value: fc.option(fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e15, max: 1e15 }).map((n) => canonical(n) + 0)),
  key: fc.option(fc.boolean()),
  several: fc.option(fc.uniqueArray(fc.string({ minLength: 1, maxLength: 5 }).map((s) => s.replaceAll('\0', 'x')), { minLength: 1, maxLength: 3 })),
  day: fc.option(fc.constantFrom('2026-03-01', '1999-12-31')),
  holder: fc.constantFrom(null, 1, 2),
}; // prettier-ignore
const values = fc.record(HELD);

beforeEach(async () => {
  t = await bareWorkspace();
  await t.ws.db.transaction((db) => createTable(db, { key: 'things', label: 'Things', shown: 'name', columns: COLUMNS }));
  t.ws.modelChanged();
});
const table = () => t.ws.modelTable('things');
const insert = async (of: Readonly<Record<string, Datum>>): Promise<number> => insertRow(t.ws.db, await table(), of, STAMP);

describe('many rows written by one statement', () => {
  test('get their numbers in the order in which they were given, and hold what was given, whichever columns each names', async () => {
    const model = await table();
    const some = fc.record(HELD, { requiredKeys: [] }) as fc.Arbitrary<Record<string, Datum>>;
    await fc.assert(
      fc.asyncProperty(fc.array(some, { minLength: 1, maxLength: 12 }), async (rows) => {
        const before = (await t.ws.wholeTable(model)).length;
        const ids = await insertRows(t.ws.db, model, rows, STAMP);
        expect(ids).toEqual([...ids].sort((a, b) => a - b));
        const all = await allRows(t.ws.db, model);
        const none = Object.fromEntries(COLUMNS.map((c) => [c.key, null]));
        expect(ids.map((id) => all.find((r) => r.id === id))).toEqual(rows.map((r, i) => ({ ...none, ...r, id: ids[i] })));
        expect(new Set(ids).size).toBe(rows.length);
        // what is kept of the table knows them
        expect(await t.ws.wholeTable(model)).toEqual(all);
        expect(all.length).toBe(before + rows.length);
      }),
      { numRuns: 40 },
    );
  });
  test('hold what they were given, each its own, with folded text; the others are left alone', async () => {
    const model = await table();
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(values, fc.option(values)), { minLength: 1, maxLength: 12 }), async (rows) => {
        await t.ws.db('data_things').delete();
        const ids: number[] = [];
        for (const [first] of rows) ids.push(await insert(first));
        // some change all of it, some a part, some nothing
        const changes = rows.flatMap(([, next], i) => {
          if (!next) return [];
          const part = Object.fromEntries(Object.entries(next).filter((_, at) => (at + i) % 3 > 0));
          return [{ id: ids[i]!, values: part }];
        });
        await updateRows(t.ws.db, model, changes, { ...STAMP, at: '2026-04-01T00:00:00' });
        const now = new Map((await allRows(t.ws.db, model)).map((r) => [r.id, r]));
        const revisions = await revisionsOf(t.ws.db, 'things', ids);
        rows.forEach(([first], i) => {
          const change = changes.find((c) => c.id === ids[i]);
          expect(now.get(ids[i]!)).toEqual({ id: ids[i], ...first, ...change?.values });
          expect(revisions.get(ids[i]!)).toBe(change ? 2 : 1);
        });
        const stored = (await t.ws.db('data_things').select('name', 'name__fold')) as { name: string | null; name__fold: string | null }[];
        for (const { name, name__fold } of stored) expect(name__fold).toBe(name === null ? null : foldText(name));
      }),
      { numRuns: 25 },
    );
  });

  test('more than one statement holds are all written', async () => {
    const ids: number[] = [];
    for (let i = 0; i < 1201; i++) ids.push(await insert({ name: `row ${i}`, value: i }));
    await setColumn(t.ws.db, 'things', COLUMNS[1]!, ids.map((id, i) => ({ id, value: i * 2 })), 'revise'); // prettier-ignore
    expect((await allRows(t.ws.db, await table())).map((r) => r.value)).toEqual(ids.map((_, i) => i * 2));
    expect(new Set((await revisionsOf(t.ws.db, 'things', ids)).values())).toEqual(new Set([2]));
    await setColumn(t.ws.db, 'things', COLUMNS[0]!, [{ id: ids[0]!, value: null }], 'silently');
    expect((await revisionsOf(t.ws.db, 'things', ids)).get(ids[0]!)).toBe(2);
  });
});

describe('rows found by what they hold', () => {
  test('a value, or one among several; texts spelled so; neighbours; those without', async () => {
    const [a, b, c] = [await insert({ name: 'Fen', several: ['x', 'y'] }), await insert({ name: 'fen', several: ['y'] }), await insert({})];
    expect(await rowsHolding(t.ws.db, 'things', COLUMNS[3]!, 'y')).toEqual([{ id: a, value: ['x', 'y'] }, { id: b, value: ['y'] }]); // prettier-ignore
    expect(await rowsHolding(t.ws.db, 'things', COLUMNS[0]!, 'Fen')).toEqual([{ id: a, value: 'Fen' }]);
    expect(await rowsSpelled(t.ws.db, 'things', 'name', ['fen', 'FEN'])).toEqual([{ id: b, text: 'fen' }]);
    expect([
      await neighbourOf(t.ws.db, { key: 'things' }, b!, 'before'),
      await neighbourOf(t.ws.db, { key: 'things' }, c!, 'after'),
    ]).toEqual([a, null]);
    expect(await countWithout(t.ws.db, 'things', 'name')).toBe(1);
  });
  test('what an account saved last, with a value where one is named; what it uses, and what all use', async () => {
    const by = async (account: number, holder: number | null): Promise<number> =>
      insertRow(t.ws.db, await table(), { holder }, { ...STAMP, account });
    const ids = [await by(1, 1), await by(1, 2), await by(2, 1), await by(2, 1), await by(1, null)];
    const model = await table();
    expect((await lastOf(t.ws.db, model, 1, null))?.id).toBe(ids[4]);
    expect((await lastOf(t.ws.db, model, 1, { column: COLUMNS[5]!, value: 1 }))?.id).toBe(ids[0]);
    expect(await lastOf(t.ws.db, model, 3, null)).toBe(null);
    expect(await usualIn(t.ws.db, { key: 'things' }, 'holder', 1, 5)).toEqual([2, 1]);
    expect(await usualIn(t.ws.db, { key: 'things' }, 'holder', null, 5)).toEqual([1, 2]);
  });
});

describe('other names in SQL', () => {
  const indexes = async (of: string): Promise<string[]> => (await indexesOf(t.ws.db, of)).map((i) => i.name).sort();
  test('rows, links and indexes go with a column and a table', async () => {
    await insert({ name: 'Fen', holder: 1 });
    const before = await indexes('data_things');
    await t.ws.db.transaction((db) => renameColumnSql(db, 'things', COLUMNS[5]!, 'owner'));
    expect(await indexes('data_things')).toEqual(before.map((i) => i.replace('holder', 'owner')));
    await t.ws.db.transaction((db) => renameTableSql(db, 'things', 'stuff'));
    expect(await indexes('data_stuff')).toEqual(before.map((i) => i.replace('holder', 'owner').replace('things', 'stuff')));
    t.ws.modelChanged();
    const model = await t.ws.modelTable('stuff');
    expect(await allRows(t.ws.db, model)).toMatchObject([{ name: 'Fen', owner: 1 }]);
    await expect(insertRow(t.ws.db, model, { owner: 99 }, STAMP)).rejects.toThrow(/foreign key/i);
  });
  test('one that fails on the way changes nothing', async () => {
    const before = await indexes('data_things');
    const failing = t.ws.db.transaction(async (db) => {
      await renameTableSql(db, 'things', 'stuff');
      throw new Error('the disk is full');
    });
    await expect(failing).rejects.toThrow('the disk is full');
    expect(await indexes('data_things')).toEqual(before);
    expect((await table()).key).toBe('things');
  });
});

test('the search index of a table finds what is found without it, sorted and page by page', async () => {
  const model = await table();
  await ensureSearchIndex(t.ws.db, model);
  const text = fc.string({ unit: fc.constantFrom('a', 'B', 'é', 'ß', '"', ' ', '%'), maxLength: 8 });
  await fc.assert(
    fc.asyncProperty(fc.array(text, { maxLength: 15 }), text, fc.boolean(), async (names, search, descending) => {
      await t.ws.db('data_things').delete();
      for (const name of names) await insert({ name });
      const query = { search, sort: COLUMNS[0]!, descending, offset: 1, limit: 5 };
      const plain = await gridRows(t.ws.db, model, query);
      expect(await gridRows(t.ws.db, model, query, true)).toEqual(plain);
    }),
    { numRuns: 150 },
  );
});
