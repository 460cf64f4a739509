import type { AnswerOf } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import fc from 'fast-check';
import { beforeAll, describe, expect, test } from 'vitest';
import { compileForm } from '../../core/engine/compile.ts';
import { recordOfTold } from '../../core/engine/told.ts';
import { DataCache } from '../../core/engine/cache.ts';
import { type Entry, openEntry } from '../../core/engine/entry.ts';
import type { Edit } from '../../core/engine/state.ts';
import { verify } from '../../core/engine/verify.ts';
import type { Row } from '../../core/values/types.ts';
import { allRows } from '../database/rows';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { recordHistory, saveEntry, trySaving } from './entries';
import { openForEntry } from './opening';
import { listRecords } from './views';
import { publishedForm } from './forms';
import { NOBODY } from './owners';
import { answerWants } from './wants';

let t: TestWorkspace;
let rows: Record<string, Row[]>;
let unique = 0;
const request = (): string => `entries test ${++unique}`;
const set = (field: string, value: unknown): Edit => ({ kind: 'set', field, value }) as Edit;
const named = (table: string, name: string): number => rows[table]?.find((r) => r.name === name)?.id as number;
const recordCount = async (): Promise<number> => (await t.ws.db('data_lots').count({ n: '*' }))[0]!.n as number;

beforeAll(async () => {
  t = await demoWorkspace();
  rows = {};
  for (const key of ['families', 'genera', 'species', 'regions', 'sites', 'plots', 'stores', 'shelves', 'boxes'])
    rows[key] = await allRows(t.ws.db, await t.ws.modelTable(key));
});

/** The entry as a browser has it: opened from one answer of the server, wanting nothing more. */
async function screen(id: number | null = null): Promise<{ entry: Entry; version: number; revision: number | null }> {
  // as it travels, and is read by whoever asked
  const opened = JSON.parse(JSON.stringify(await openForEntry(t.ws, t.ida, 'lot_intake', id))) as AnswerOf<typeof contract.entries.open>;
  const tables = new Map(opened.tables.map((x) => [x.key, x]));
  const lists = new Map(opened.lists.map((x) => [x.key, x]));
  const plan = compileForm(opened.form, tables, lists, new Map(opened.feeds.map((f) => [f.key, f])));
  const cache = new DataCache();
  cache.supply(opened.answered, () => null);
  const entry = openEntry(
    plan,
    { ...opened.context, mode: opened.record ? 'edit' : 'new' },
    cache,
    opened.record && recordOfTold(opened.record),
  );
  return { entry, version: opened.version, revision: opened.record?.revision ?? null };
}
const good = (): Edit[] => {
  const site = rows.sites?.find((s) => s.active) as Row;
  return [set('species', named('species', 'Quercus robur')), set('region', site.region), set('site', site.id), set('quantity_g', 5)];
};
const save = (edits: readonly Edit[], id: number | null = null, revision: number | null = null, key = request()) =>
  saveEntry(t.ws, t.ida, 'lot_intake', id, { version: 1, edits, revision, request: key });

describe('opening', () => {
  test('one answer has all that an entry wants', async () => {
    const { entry } = await screen();
    expect(entry.wants).toEqual([]);
    expect(entry.value('collector')).toBe(t.ida.person);
    expect(entry.value('collected_on')).toBe('2026-03-10');
    expect(entry.plan.problems).toEqual([]);
  });

  test('a form that is not published, a record that is not there', async () => {
    expect(await refusal(openForEntry(t.ws, t.ida, 'nosuch', null))).toMatchObject({ status: 404 });
    expect(await refusal(openForEntry(t.ws, t.ida, 'lot_intake', 99_999))).toMatchObject({ status: 404, code: 'notFound' });
  });
});

describe('what saving would say', () => {
  const would = async (edits: readonly Edit[], record: number | null = null, step: string | null = null) =>
    trySaving(t.ws, t.ida, (await publishedForm(t.ws, 'lot_intake')).plan, {
      edits,
      record,
      step,
      opened: { parent: null, url: {} },
      now: t.ws.clock.now(),
    });
  test('is what then happens: the same is refused with the same words, the same is stored; nothing is written by asking', async () => {
    const refused = [...good(), set('quantity_g', -1)];
    const before = await recordCount();
    const { issues } = await would(refused);
    const really = await refusal(save(refused));
    expect(issues.length).toBeGreaterThan(0);
    expect(Object.fromEntries(issues.map((i) => [i.address, i.message]))).toEqual((really?.details as { issues: object }).issues);
    const told = await would([...good(), set('tsw_g', 2.5)]);
    expect([told.issues, await recordCount()]).toEqual([[], before]);
    const saved = await save([...good(), set('tsw_g', 2.5)]);
    for (const [field, [from, to]] of Object.entries(told.changes)) expect([field, from, to]).toEqual([field, null, saved.values[field]]);
    expect(told.changes.seeds).toEqual([null, 2000]);
    // a record, as if it stood elsewhere
    const changed = await would([set('tsw_g', 5)], saved.id, 'released');
    expect(changed.changes.tsw_g).toEqual([2.5, 5]);
    expect((await screen(saved.id)).entry.value('tsw_g')).toBe(2.5);
  });
});

describe('saving', () => {
  test('what is stored is what the entry computed, with origins and history', async () => {
    const saved = await save([...good(), set('tsw_g', 2.5), set('purity', 'mixed'), set('remark', 'husks')]);
    expect(saved.values).toMatchObject({
      seeds: 2000,
      storage_c: 2,
      family: named('families', 'Fagaceae'),
      remark: 'husks',
      collector: t.ida.person,
    });
    const { entry } = await screen(saved.id);
    expect(entry.state('storage_c').origin).toEqual({ kind: 'stored', was: { kind: 'prefill' } });
    expect(entry.state('genus').origin).toEqual({ kind: 'stored', was: { kind: 'filledUp', from: 'species' } });
    expect(entry.state('remark').origin).toEqual({ kind: 'stored', was: { kind: 'typed' } });
    const history = await recordHistory(t.ws, t.maud, 'lot_intake', saved.id);
    expect(history).toHaveLength(1);
    expect(history[0]).toMatchObject({ kind: 'created', by: 'Ida Fenn' });
    expect(history[0]?.changes.quantity_g).toEqual([null, 5]);
    expect(history[0]?.origins).toMatchObject({
      quantity_g: 'typed',
      species: 'chosen',
      genus: 'filledUp',
      seeds: 'calculation',
      storage_c: 'prefill',
    });
  });

  test('a field that hiding clears is stored empty', async () => {
    const saved = await save([...good(), set('purity', 'mixed'), set('remark', 'husks'), set('purity', 'clean')]);
    expect(saved.values.remark).toBe(null);
  });

  test('nothing is written when anything is refused', async () => {
    const before = await recordCount();
    const site = rows.sites?.find((s) => s.active) as Row;
    const full = rows.boxes?.find((b) => b.free === 0) as Row;
    const shelf = rows.shelves?.find((s) => s.id === full.shelf) as Row;
    const cases: [string, Edit[], string][] = [
      ['nothing at all', [], 'species'],
      ['a box without room', [...good(), set('store', shelf.store), set('shelf', shelf.id), set('box', full.id)], 'box'],
      ['a plot of another site', [...good(), set('plot', rows.plots?.find((p) => p.site !== site.id && p.site !== null)?.id)], 'plot'],
      ['a habitat nobody wrote', [...good(), set('habitat', 'Lava field')], 'habitat'],
      ['an infinite number', [...good(), set('quantity_g', Infinity)], 'quantity_g'],
      ['a list for a number', [...good(), set('quantity_g', [1])], 'quantity_g'],
      ['a negative id', [...good(), set('site', -1)], 'site'],
      ['a locked description', [...good(), set('description', 'mine')], 'description'],
    ];
    for (const [name, edits, field] of cases) {
      const { status, details } = await refusal(save(edits));
      expect(status, name).toBe(422);
      expect(Object.keys(details.issues as object), name).toContain(field);
    }
    expect(await recordCount()).toBe(before);
  });

  test('the same request is saved once, whoever sends it again', async () => {
    const key = request();
    const first = await save(good(), null, null, key);
    const before = await recordCount();
    expect(await save(good(), null, null, key)).toEqual(first);
    expect(await recordCount()).toBe(before);
  });

  test('an older revision is a conflict with what stands, and nothing is written', async () => {
    const { id } = await save(good());
    const changed = await save([set('quantity_g', 7)], id, 1);
    expect(changed.revision).toBe(2);
    const conflict = await refusal(save([set('quantity_g', 8)], id, 1));
    expect(conflict).toMatchObject({ status: 409, details: { current: { revision: 2 } } });
    const { entry } = await screen(id);
    expect(entry.value('quantity_g')).toBe(7);
  });

  test('a retired species stays on the record that has it, but cannot be chosen anew', async () => {
    const page = await listRecords(t.ws, t.maud, 'lot_intake', { search: '', sort: 'id', descending: false, offset: 0, limit: 500 });
    const retired = new Set((rows.species ?? []).filter((s) => s.active === false).map((s) => s.id));
    // a lot with a status: some of the demo's have none, which is another mistake
    const old = page.rows.map((r) => r.row).find((r) => retired.has(r.species as number) && r.status !== null)!;
    const { entry, revision } = await screen(old.id);
    expect(entry.state('species')).toMatchObject({ value: old.species, gone: true });
    const saved = await save([set('quantity_g', 3)], old.id, revision);
    expect(saved.values.species).toBe(old.species);
    const again = await refusal(save([set('species', old.species)], old.id, saved.revision));
    expect(again.details.issues).toHaveProperty('species');
  });
});

test('whatever a clerk does, what the server saves is what the screen shows', async () => {
  const pick = (table: string): fc.Arbitrary<number> => fc.constantFrom(...(rows[table] ?? []).map((r) => r.id));
  const edit: fc.Arbitrary<Edit> = fc.oneof(
    fc
      .constantFrom('family', 'genus', 'species', 'region', 'site', 'plot', 'quantity_g', 'purity', 'collector', 'storage_c')
      .map((field): Edit => ({ kind: 'clear', field })),
    fc.constantFrom('storage_c', 'germination_days').map((field): Edit => ({ kind: 'takeSuggestion', field })),
    pick('families').map((v) => set('family', v)),
    pick('genera').map((v) => set('genus', v)),
    pick('species').map((v) => set('species', v)),
    pick('regions').map((v) => set('region', v)),
    pick('sites').map((v) => set('site', v)),
    pick('stores').map((v) => set('store', v)),
    fc.integer({ min: 1, max: 99_999 }).map((n) => set('quantity_g', n / 100)),
    fc.integer({ min: 1, max: 9_999 }).map((n) => set('tsw_g', n / 1000)),
    fc.integer({ min: -30, max: 10 }).map((n) => set('storage_c', n)),
    fc.constantFrom('clean', 'chaff', 'mixed').map((v) => set('purity', v)),
  );
  /** what a list offers now, chosen as a clerk would: whatever else was done, the entry can be saved after it */
  const complete = (entry: Entry): void => {
    for (const key of ['species', 'region', 'site']) {
      const offer = entry.offer(key);
      const state = entry.state(key);
      if ((state.value === null || state.gone) && offer?.rows?.length) entry.apply([set(key, offer.rows[0]!.id)]);
    }
    if (entry.value('quantity_g') === null) entry.apply([set('quantity_g', 1)]);
    for (const { key } of entry.plan.fields) if (entry.state(key).gone) entry.apply([{ kind: 'clear', field: key }]);
  };
  let saved = 0;
  await fc.assert(
    fc.asyncProperty(fc.array(edit, { maxLength: 12 }), async (edits) => {
      const { entry } = await screen();
      for (const e of edits) entry.apply([e]);
      complete(entry);
      if (verify(entry).length) {
        expect((await refusal(save(entry.log))).status).toBe(422);
        return;
      }
      const shown = Object.fromEntries(
        entry.plan.fields
          .filter((f) => f.definition.column && !entry.isWithheld(f.key))
          .map((f) => [f.definition.column, entry.value(f.key)]),
      );
      expect((await save(entry.log)).values).toEqual(shown);
      saved++;
    }),
    { numRuns: 60 },
  );
  expect(saved).toBeGreaterThan(10);
});

test('wants: what is asked wrongly fails with a reason and stops nothing else', async () => {
  const { entry } = await screen();
  const answers = await answerWants(
    t.ws,
    entry.plan,
    [
      { kind: 'table', table: 'regions' },
      { kind: 'table', table: 'nosuch' },
      { kind: 'count', field: 'quantity_g', params: [], open: [] },
      { kind: 'count', field: 'genus', params: [], open: [] },
      { kind: 'page', field: 'genus', params: [named('families', 'Fagaceae')], open: [], search: 'qu', offset: 0, limit: 10 },
      { kind: 'row', table: 'genera', id: 99_999 },
    ],
    NOBODY,
  );
  expect(answers.map((a) => a.answer.kind)).toEqual(['table', 'failed', 'failed', 'failed', 'page', 'row']);
  expect(answers[4]?.answer).toMatchObject({ rows: [{ name: 'Quercus' }], more: false });
  expect(answers[5]?.answer).toEqual({ kind: 'row', row: null });
  const many = Array.from({ length: 500 }, () => ({ kind: 'table', table: 'regions' }) as const);
  expect((await refusal(answerWants(t.ws, entry.plan, many, NOBODY))).status).toBe(413);
});
