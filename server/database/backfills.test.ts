import { expect, test } from 'vitest';
import type { Given } from '../../core/engine/backfill.ts';
import { CALCULATED } from '../../core/form/fills/index.ts';
import { demoWorkspace } from '../testing/workspace';
import { closeDatabase } from './connection';
import { addBackfill, addBackfillRecords, backfillRecords, packedRecord } from './backfills';

const usual: Given = { field: 'seeds', line: null, place: null, from: null, to: 12.5, origin: CALCULATED, was: null, asked: true };
const others: readonly Given[] = [
  { ...usual, asked: false },
  { ...usual, was: { kind: 'typed' } },
  { ...usual, origin: { kind: 'prefill' }, from: 'a', to: null },
  { ...usual, field: 'packets.price', line: 7, place: 2 },
];

test('what a record is given is read as it was kept, the usual and the rest, and as it was kept before', async () => {
  const { ws, maud } = await demoWorkspace();
  const asked = { fields: ['seeds'], over: 'empty' as const, subset: null };
  const id = await addBackfill(ws.db, { form: 'lot_intake', version: 1, asked, at: ws.clock.now(), account: maud.id });
  const kept = (row: number, given: readonly Given[]) =>
    packedRecord({ row, state: 'proposed', revision: 1, lineRevisions: {}, given, series: [], problem: null });
  await addBackfillRecords(ws.db, id, [kept(1, [usual, ...others]), kept(2, [])]);
  const before = JSON.stringify([usual, ...others].map((g) => [g.field, g.line, g.place, g.from, g.to, g.origin, g.was, g.asked ? 1 : 0]));
  await ws.db('backfill_rows').where({ backfill_id: id, row_id: 2 }).update({ given: before });

  const read = await backfillRecords(ws.db, id, { states: ['proposed'], after: 0, limit: 10 });
  expect(read.map((r) => r.row)).toEqual([1, 2]);
  for (const { given } of read) expect(given).toEqual([usual, ...others]);
  const [{ given }] = (await ws.db('backfill_rows').where({ backfill_id: id, row_id: 1 }).select('given')) as [{ given: string }];
  expect(given.length).toBeLessThan(before.length);
  await closeDatabase(ws.db);
});
