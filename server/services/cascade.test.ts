import fc from 'fast-check';
import { beforeAll, expect, test } from 'vitest';
import { DataCache } from '../../core/engine/cache.ts';
import { compileForm } from '../../core/engine/compile.ts';
import { type Entry, openEntry } from '../../core/engine/entry.ts';
import type { Edit } from '../../core/engine/state.ts';
import { verify } from '../../core/engine/verify.ts';
import type { Row } from '../../core/values/types.ts';
import { allRows } from '../database/rows';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { saveEntry } from './entries';
import { draftOf, saveDraft } from './forms';
import { publish } from './publishing';
import { settleEntry } from './wants';

/* Store › shelf › box with the shelf left out, in memory and asked of the database, and what the server lets be saved. */

let t: TestWorkspace;
let rows: Record<'stores' | 'shelves' | 'boxes', Row[]>;
beforeAll(async () => {
  t = await demoWorkspace();
  const { draft, revision } = await draftOf(t.ws, 'lot_intake');
  const source = (key: string, more: object): object => ({ ...draft.fields[key], source: { ...draft.fields[key]?.source, waiting: 'all', single: 'leave', fillUp: true, ...more } }); // prettier-ignore
  const fields = { ...draft.fields, store: source('store', { where: null, fillUp: false }), shelf: source('shelf', {}), box: source('box', {}) }; // prettier-ignore
  const saved = await saveDraft(t.ws, t.maud, 'lot_intake', { ...draft, fields } as typeof draft, revision);
  await publish(t.ws, t.maud, 'lot_intake', saved);
  rows = { stores: [], shelves: [], boxes: [] };
  for (const key of ['stores', 'shelves', 'boxes'] as const) rows[key] = await allRows(t.ws.db, await t.ws.modelTable(key));
});
const set = (field: string, value: unknown): Edit => ({ kind: 'set', field, value }) as Edit;

/** An entry whose lists are asked of the database, as for tables too large to be sent. */
async function opened(large: boolean): Promise<Entry> {
  const { draft } = await draftOf(t.ws, 'lot_intake');
  const tables = new Map([...(await t.ws.tables())].map(([k, x]) => [k, { ...x, large: large && k in rows }]));
  const plan = compileForm(draft, tables, await t.ws.lists(), await t.ws.feeds());
  const entry = openEntry(plan, { mode: 'new', today: '2026-03-10', now: '2026-03-10T09:00:00', me: 1 }, new DataCache());
  await settleEntry(t.ws, entry, { person: 1, roles: [] });
  return entry;
}
const storeOf = (shelf: unknown): unknown => rows.shelves.find((s) => s.id === shelf)?.store;

test('a box is offered of the store alone while no shelf is chosen, the same in memory and by SQL', async () => {
  const [memory, large] = [await opened(false), await opened(true)];
  for (const store of rows.stores) {
    for (const entry of [memory, large]) {
      entry.apply([{ kind: 'clear', field: 'box' }, { kind: 'clear', field: 'shelf' }, set('store', store.id)]);
      await settleEntry(t.ws, entry, { person: 1, roles: [] });
    }
    const wanted = rows.boxes.filter((b) => storeOf(b.shelf) === store.id && (b.free as number) > 0);
    expect(
      memory
        .offer('box')
        ?.rows?.map((r) => r.id)
        .sort(),
    ).toEqual(wanted.map((r) => r.id).sort());
    expect(large.offer('box')?.total).toBe(wanted.length);
  }
});

test('whatever is chosen first, what is saved can be true together', async () => {
  const choice = fc.oneof(
    fc.nat(3).map((i) => ['store', i] as const),
    fc.nat(23).map((i) => ['shelf', i] as const),
    fc.nat(200).map((i) => ['box', i] as const),
  );
  await fc.assert(
    fc.asyncProperty(fc.boolean(), fc.array(choice, { maxLength: 5 }), async (large, choices) => {
      const entry = await opened(large);
      for (const [field, i] of choices) {
        const all = rows[`${field === 'store' ? 'store' : field === 'shelf' ? 'shelve' : 'boxe'}s`];
        entry.apply([set(field, all[i % all.length]?.id)]);
        await settleEntry(t.ws, entry, { person: 1, roles: [] });
      }
      const [store, shelf, box] = ['store', 'shelf', 'box'].map((k) => entry.value(k));
      if (verify(entry).some((x) => ['store', 'shelf', 'box'].includes(x.field) && x.code === 'notOffered')) return;
      const ofBox = rows.boxes.find((b) => b.id === box)?.shelf ?? null;
      if (shelf !== null && ofBox !== null) expect(ofBox).toBe(shelf);
      if (store !== null && (shelf ?? ofBox) !== null) expect(storeOf(shelf ?? ofBox)).toBe(store);
    }),
    { numRuns: 40 },
  );
});

test('the server refuses a combination that cannot exist', async () => {
  const [store] = rows.stores;
  const elsewhere = rows.boxes.find((b) => storeOf(b.shelf) !== store?.id && (b.free as number) > 0);
  const [species] = (await allRows(t.ws.db, await t.ws.modelTable('species'))).filter((s) => s.active);
  const site = (await allRows(t.ws.db, await t.ws.modelTable('sites'))).find((s) => s.active);
  const edits = [set('species', species?.id), set('region', site?.region), set('site', site?.id), set('quantity_g', 5), set('store', store?.id), set('box', elsewhere?.id)]; // prettier-ignore
  const { status, details } = await refusal(saveEntry(t.ws, t.ida, 'lot_intake', null, { version: 2, edits, revision: null, request: 'cascade test 1' })); // prettier-ignore
  expect([status, Object.keys(details.issues as object)]).toEqual([422, ['box']]);
});
