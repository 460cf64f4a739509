import { afterEach, beforeEach, expect, test } from 'vitest';
import type { Entry } from '../../core/engine/entry.ts';
import { wantsNeeded } from '../../core/engine/needed.ts';
import { type TestWorkspace, demoWorkspace } from '../testing/workspace';
import { publishedForm } from './forms';
import { ManyEntries, type ReadRecord, type StraightWay, readRecords } from './manyEntries';
import { EVERY, recordPages } from './parts';

/* Records that were read in part, for the straight way, and those of them that it leaves to an entry. */

let t: TestWorkspace;
beforeEach(async () => {
  t = await demoWorkspace();
});
afterEach(() => t.ws.close());

/** What an entry holds of a record, read in any way. */
function* held(entry: Entry): Generator<void, readonly unknown[]> {
  while (wantsNeeded(entry).length) yield;
  return ['quantity_g', 'species', 'purity', 'code'].map((field) => entry.value(field));
}
async function many(straight: StraightWay<readonly unknown[]> | null): Promise<ManyEntries<readonly unknown[]>> {
  const { plan } = await publishedForm(t.ws, 'lot_intake');
  return ManyEntries.of(t.ws, plan, held, { straight });
}
async function read(of: ManyEntries<readonly unknown[]>): Promise<ReadRecord[]> {
  const found: ReadRecord[] = [];
  for await (const page of recordPages(t.ws, 'lots', EVERY, () => of.columns))
    found.push(...(await readRecords(t.ws, of.plan, page, of.columns === undefined)));
  return found;
}
const columns = new Set(['quantity_g']);

test('what is left to an entry is read as a whole, whatever was read before', async () => {
  const whole = await many(null);
  const all = await read(whole);
  expect(all.every((r) => r.isWhole && 'purity' in r.record.values)).toBe(true);
  const expected = (await whole.run(all)).map((d) => d?.outcome);
  const some = await many({ columns, tell: ({ values }) => (Number(values.id) % 3 ? null : ['told', values.quantity_g]) });
  const partly = await read(some);
  expect(partly.every((r) => !r.isWhole && !('purity' in r.record.values))).toBe(true);
  const done = await some.run(partly);
  const outcomes = all.map(({ row: { row } }, i) => (row.id % 3 ? expected[i] : ['told', row.quantity_g]));
  expect(done.map((d) => d?.outcome)).toEqual(outcomes);
  expect(done.map((d) => d?.isWhole)).toEqual(all.map(({ row: { row } }) => row.id % 3 !== 0));
});

test('one that is gone by then is left out, and one that was changed is as it is by then', async () => {
  // one that nothing else links to
  const { id: _, ...lot } = (await t.ws.db('data_lots').first()) as Record<string, unknown>;
  await t.ws.db('data_lots').insert({ ...lot, code: 'MF-2026-9999' });
  const some = await many({ columns, tell: () => null });
  const partly = await read(some);
  const [first, last] = [partly[0] as ReadRecord, partly.at(-1) as ReadRecord];
  await t.ws.db('data_lots').where({ id: last.row.row.id }).delete();
  await t.ws.db('data_lots').where({ id: first.row.row.id }).update({ quantity_g: 17.25, _revision: 9 });
  const done = await some.run(partly);
  expect(done.at(-1)).toBeNull();
  expect([done[0]?.row.revision, done[0]?.outcome[0]]).toEqual([9, 17.25]);
  expect(done.slice(0, -1).every((d) => d !== null)).toBe(true);
  // nothing is noted of the one that is gone
  some.goOn(done);
});

test('where hardly any is told straight, records are read as a whole at once', async () => {
  const none = await many({ columns, tell: () => null });
  const partly = await read(none);
  for (let tried = 0; tried <= 1000; tried += partly.length) await none.run(partly);
  expect(none.columns).toBeUndefined();
  expect((await read(none)).every((r) => r.isWhole)).toBe(true);
});
