import fc from 'fast-check';
import { expect, test } from 'vitest';
import { narrowRows, narrowingOf } from '../../core/choices/narrowing.ts';
import { searchRows, sortRows } from '../../core/choices/order.ts';
import { type Column, shapesOf } from '../../core/model/tables.ts';
import { columnSchema } from '../../core/model/schemas.ts';
import type { Env } from '../../core/formula/env.ts';
import { isDatum } from '../../core/formula/errors.ts';
import { formula } from '../../core/formula/formula.ts';
import { type Binding, type Scope } from '../../core/formula/scope.ts';
import * as T from '../../core/values/typing.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import { openDatabase } from './connection';
import { distinctRows } from '../../core/engine/candidates.ts';
import { DistinctLookup, Lookup } from './lookups';
import { type ModelTable, createTable, ensureIndex } from './model';
import { allRows, insertRow, updateRow } from './rows';
import { ensureSearchIndex } from './searchIndex';
import { ON_SERVER } from '../testing/databases';
import { planOf } from '../testing/plans';
import { emptyDatabase } from '../testing/workspace';

const column = (key: string, type: string, target: string | null = null): Column => columnSchema.parse({ key, label: key, type, target });
const PARENT: ModelTable = { key: 'places', label: 'Places', shown: 'name', columns: [column('name', 'text'), column('size', 'number')] };
const CHILD: ModelTable = {
  key: 'things',
  label: 'Things',
  shown: 'name',
  columns: [
    column('name', 'text'),
    column('note', 'text'),
    column('n', 'number'),
    column('day', 'date'),
    column('active', 'yesno'),
    column('place', 'link', 'places'),
    column('near', 'links', 'places'),
  ],
};
const STAMP = { at: '2026-03-10T09:00:00', account: null, form: null, formVersion: null };

/** Texts that lead astray: cases beyond ASCII, combining marks, odd white space, "" beside empty. */
const TEXTS: Datum[] = [
  'heath',
  'Heath',
  'heath ',
  ' heath',
  'he\u00a0ath',
  'Größe',
  'GRÖSSE',
  'grösse',
  'Étang',
  'e\u0301tang',
  'ΣΊΣΥΦΟΣ',
  'σίσυφος',
  'ﬁr',
  'İ',
  'i',
  'ı',
  '',
  '𝒜',
  '\uffee',
  '😀',
  null,
];
const NUMBERS: Datum[] = [0, 0.1, 0.3, -0.1, 1e-7, 2.5, 100, 999999999999999, -1e15, null];
const DAYS: Datum[] = ['0001-01-01', '2024-02-29', '2026-03-10', '9999-12-31', null];
const YES: Datum[] = [true, false, null];

const FIELDS: readonly (readonly [string, T.Type, Datum[]])[] = [
  ['word', T.TEXT, TEXTS],
  ['number', T.NUMBER, NUMBERS],
  ['date', T.DATE, DAYS],
  ['yes', T.YESNO, YES],
  ['place', T.rowOf('places'), [1, 2, 3, null]],
  ['many', T.listOf(T.rowOf('places')), [[1], [2, 3], [3, 1, 2], null]],
];
function scope(): Scope {
  const tables = shapesOf(new Map([PARENT, CHILD].map((t) => [t.key, { ...t, rows: 0, large: true }])));
  const bindings = new Map<string, Binding>();
  FIELDS.forEach(([name, type], slot) => bindings.set(name, { name, label: name, type, source: { kind: 'slot', slot } }));
  bindings.set('choice', { name: 'choice', label: 'choice', type: T.rowOf('things'), source: { kind: 'candidate' } });
  return { bindings, tables };
}

const compare = fc.constantFrom('=', '<>', '<', '<=', '>', '>=');
const equal = fc.constantFrom('=', '<>');
const text = fc.constantFrom(
  'choice.name',
  'choice.note',
  'choice.place.name',
  'word',
  '"heath"',
  '"ÉTANG"',
  'UPPER(choice.name)',
  'TRIM(word)',
);
const number = fc.constantFrom('choice.n', 'choice.place.size', 'number', '0.3', '100', 'choice.n + 0.2', 'number * 2');
const day = fc.constantFrom('choice.day', 'date', 'DATE(2026, 3, 10)', 'date + 1');
const simple: fc.Arbitrary<string> = fc.oneof(
  fc.tuple(text, compare, text).map((x) => x.join(' ')),
  fc.tuple(number, compare, number).map((x) => x.join(' ')),
  fc.tuple(day, compare, day).map((x) => x.join(' ')),
  fc.tuple(fc.constantFrom('choice.place', 'place'), equal, fc.constantFrom('choice.place', 'place')).map((x) => x.join(' ')),
  fc
    .tuple(fc.constantFrom('choice.active', 'yes', 'TRUE'), equal, fc.constantFrom('choice.active', 'yes', 'FALSE'))
    .map((x) => x.join(' ')),
  fc.constantFrom('choice.active', 'yes', 'ISBLANK(choice.name)', 'ISBLANK(choice.place.size)', 'ISBLANK(word)', 'choice.id > 3'),
  fc.tuple(text, fc.array(text, { minLength: 1, maxLength: 3 })).map(([a, list]) => `${a} IN (${list.join(', ')})`),
  fc.tuple(number, number, number).map(([a, b, c]) => `${a} BETWEEN ${b} AND ${c}`),
  fc.tuple(fc.constantFrom('choice.place', 'place'), fc.constantFrom('choice.near', 'many')).map(([a, b]) => `${a} IN (${b})`),
  fc.tuple(text, text).map(([a, b]) => `CONTAINSANY(${a}, ${b})`),
);
const condition: fc.Arbitrary<string> = fc.letrec<{ c: string }>((tie) => ({
  c: fc.oneof(
    { depthSize: 'small' },
    simple,
    tie('c').map((c) => `NOT (${c})`),
    fc.tuple(fc.constantFrom(' AND ', ' OR '), tie('c'), tie('c')).map(([op, a, b]) => `(${a})${op}(${b})`),
    fc.tuple(tie('c'), tie('c')).map(([a, b]) => `OR(${a}, ${b})`),
  ),
})).c;

/** A server is asked over the network: some fewer. */
const RUNS = ON_SERVER ? 1_000 : 10_000;

test('narrowing, sorting and searching give the same rows in the same order in memory and by SQL', async () => {
  const db = await openDatabase(await emptyDatabase());
  await createTable(db, PARENT);
  await createTable(db, CHILD);
  const pick = <X>(list: readonly X[], i: number): X => list[i % list.length] as X;
  for (let i = 0; i < 3; i++) await insertRow(db, PARENT, { name: pick(TEXTS, i * 5), size: pick(NUMBERS, i + 1) }, STAMP);
  for (let i = 0; i < 80; i++) {
    const values = {
      name: pick(TEXTS, i),
      note: pick(TEXTS, i * 7 + 3),
      n: pick(NUMBERS, i * 3),
      day: pick(DAYS, i),
      active: pick(YES, i),
      place: pick([1, 2, 3, null], i * 5),
      near: pick([[1, 2], [3], null, [2], [1, 2, 3]] as Datum[], i * 3),
    };
    await insertRow(db, CHILD, values, STAMP);
  }
  await ensureSearchIndex(db, CHILD);
  const parents = await allRows(db, PARENT);
  const things = await allRows(db, CHILD);
  const names = scope();
  let compared = 0;
  let narrowed = 0;
  let inSql = 0;
  await fc.assert(
    fc.asyncProperty(
      condition,
      fc.tuple(...FIELDS.map(([, , values]) => fc.constantFrom(...values))),
      fc.subarray(CHILD.columns.filter((c) => c.type !== 'links') as Column[], { maxLength: 3 }),
      fc.constantFrom('', '', 'heath', 'É', 's', '😀', 'EATH ', 'öße', 'ίσυ', 'he"a'),
      async (where, values, sort, search) => {
        const compiled = formula(where, names, T.YESNO);
        expect(compiled.problems.filter((p) => p.severity === 'error')).toEqual([]);
        const narrowing = narrowingOf(compiled);
        const env: Env = {
          values, candidate: null, params: [], today: '2026-03-10', now: '2026-03-10T09:00:00', me: null, mode: 'new', url: {}, outer: null, parent: null, before: null, lines: () => [], item: () => null,
          row: (table, id) => (table === 'places' ? parents : things).find((r) => r.id === id) ?? null,
        }; // prettier-ignore
        const results = narrowing.params.map((p) => p.run(env));
        // a list whose condition cannot be computed fails as a whole; it is never narrowed
        fc.pre(results.every(isDatum));
        const params = results as Datum[];
        env.params = params;
        const searched = ['name', 'note'];
        const expected = searchRows(sortRows(narrowRows(narrowing, things, new Set(), env).rows, sort), searched, search).map(
          (r: Row) => r.id,
        );
        const lookup = new Lookup(db, CHILD, { narrowing, sort, search: searched }, env);
        const asked = { params, open: [] };
        const { rows } = await lookup.page(asked, search, 0, 1000);
        expect(
          rows.map((r) => r.id),
          where,
        ).toEqual(expected);
        // pages put together are the whole
        const first = await lookup.page(asked, search, 0, 7);
        const second = await lookup.page(asked, search, 7, 1000);
        expect([...first.rows, ...second.rows].map((r) => r.id)).toEqual(expected);
        // the search index preselects and changes nothing
        const indexed = new Lookup(db, CHILD, { narrowing, sort, search: searched }, env, true);
        expect(
          (await indexed.page(asked, search, 0, 1000)).rows.map((r) => r.id),
          `${where} / ${search}`,
        ).toEqual(expected);
        for (const id of [1, 7, 33]) {
          const meets = narrowRows(narrowing, things, new Set(), { ...env, params }).rows.some((r) => r.id === id);
          expect(await lookup.offered(asked, id), where).toBe(meets);
        }
        if (search === '') {
          expect(await lookup.count(asked)).toEqual({
            total: expected.length,
            capped: false,
            only: expected.length === 1 ? expected[0] : null,
          });
          const funnel = await lookup.funnel(asked);
          expect(funnel).toEqual({
            all: things.length,
            remaining: narrowRows(narrowing, things, new Set(), env).funnel.map((f) => f.remaining),
          });
        }
        // the distinct values of a column, narrowed and searched
        const offeredValues = new DistinctLookup(db, CHILD, { narrowing, sort: [] }, { ...env }, 'note');
        const distinct = searchRows(
          distinctRows(narrowRows(narrowing, things, new Set(), { ...env, params }).rows, 'note'),
          ['label'],
          search,
        );
        expect((await offeredValues.page(asked, search, 0, 1000)).rows, where).toEqual(distinct);
        if (search === '') {
          expect((await offeredValues.count(asked)).total).toBe(distinct.length);
          for (const text of ['heath', 'Heath', 'Größe'])
            expect(await offeredValues.offered(asked, text)).toBe(distinct.some((r) => r.value === text));
        }
        compared++;
        if (expected.length > 0 && expected.length < things.length) narrowed++;
        if (lookup.explain(asked, search).sql.includes('WHERE')) inSql++;
      },
    ),
    { numRuns: RUNS },
  );
  // guards against a generator that tests nothing
  expect(compared).toBe(RUNS);
  expect(narrowed).toBeGreaterThan(RUNS / 4);
  expect(inSql).toBeGreaterThan(RUNS / 2);
  await db.destroy();
});

test('the first page of a narrowed, sorted lookup is read through an index, without a sort', async () => {
  const db = await openDatabase(await emptyDatabase());
  await createTable(db, PARENT);
  await createTable(db, CHILD);
  const byKey = (key: string): Column => CHILD.columns.find((c) => c.key === key) as Column;
  await ensureIndex(db, 'things', [byKey('place'), byKey('name')]);
  const compiled = formula('choice.place = place', scope(), T.YESNO);
  const env = {
    values: [],
    candidate: null,
    params: [],
    today: '',
    now: '',
    me: null,
    mode: 'new',
    url: {},
    row: () => null,
  } as unknown as Env;
  const lookup = new Lookup(db, CHILD, { narrowing: narrowingOf(compiled), sort: [byKey('name')], search: ['name'] }, env);
  const { sql, bindings } = lookup.explain({ params: [1], open: [] }, '');
  const plan = await planOf(db, sql, bindings);
  expect(plan).toMatch(/using (index )?nx_things_place_name__fold/i);
  expect(plan).not.toMatch(/TEMP B-TREE|Sort/);
  await db.destroy();
});

test('the search index follows what is added, changed and deleted, and serves a search for any part', async () => {
  const db = await openDatabase(await emptyDatabase());
  await createTable(db, PARENT);
  await ensureSearchIndex(db, PARENT);
  const ids: number[] = [];
  for (const name of ['Adder Carr', 'Kelter Bog', 'Black Tarn']) ids.push(await insertRow(db, PARENT, { name }, STAMP));
  await updateRow(db, PARENT, ids[1]!, 1, { name: 'Quaking Moss' }, STAMP);
  await db('data_places').where({ id: ids[2] }).delete();
  const env = {
    values: [],
    candidate: null,
    params: [],
    today: '',
    now: '',
    me: null,
    mode: 'new',
    url: {},
    row: () => null,
  } as unknown as Env;
  const lookup = new Lookup(db, PARENT, { narrowing: null, sort: [PARENT.columns[0]!], search: ['name'] }, env, true);
  const found = async (text: string): Promise<unknown[]> =>
    (await lookup.page({ params: [], open: [] }, text, 0, 10)).rows.map((r) => r.name);
  expect(await found('king m')).toEqual(['Quaking Moss']);
  expect(await found('kelter')).toEqual([]);
  expect(await found('tarn')).toEqual([]);
  expect(await found('a')).toEqual(['Adder Carr', 'Quaking Moss']);
  const { sql, bindings } = lookup.explain({ params: [], open: [] }, 'king');
  // SQLite finds the rows by their numbers, which the index gives; a server has an index of another kind, which is in the statement
  if (ON_SERVER) expect(sql).toContain('LIKE ?');
  else expect(await planOf(db, sql, bindings)).toMatch(/SEARCH t USING INTEGER PRIMARY KEY/);
  await ensureIndex(db, 'places', [PARENT.columns[0]!]);
  expect(await found('que')).toEqual([]);
  expect(await found('QUA')).toEqual(['Quaking Moss']);
  await db.destroy();
});
