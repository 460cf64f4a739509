import { beforeAll, beforeEach, describe, expect, onTestFinished, test, vi } from 'vitest';
import type { Datum, Row } from '../../core/values/types.ts';
import type { Over } from '../../core/engine/backfill.ts';
import { parseForm } from '../../core/form/schemas.ts';
import { allRows } from '../database/rows';
import { dropSomeOfBackfill } from '../database/backfills';
import { nextNumber } from '../database/series';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { previewBackfill } from './backfillPreview';
import { backfillOffer, backfillPage, forgetBackfill } from './backfillView';
import { applyBackfill, undoBackfill } from './backfillWrite';
import { recordHistory, saveEntry } from './entries';
import { openForEntry } from './opening';
import { draftOf, saveDraft } from './forms';
import { publish } from './publishing';
import { Cancelled } from './jobs';
import { saveSubsets } from './structure';

let t: TestWorkspace;
const rowsOf = async (table: string): Promise<Row[]> => allRows(t.ws.db, await t.ws.modelTable(table));
const preview = (form: string, fields: string[], over: Over = 'filled', subset: string | null = null) =>
  previewBackfill(t.ws, t.maud, form, { fields, over, subset });
const changes = async (form: string, id: number) => (await backfillPage(t.ws, form, id, { show: 'changes', offset: 0, limit: 500 })).rows;
let unique = 0;
async function change(form: string, id: number, values: Record<string, Datum>): Promise<void> {
  const { record, version } = await openForEntry(t.ws, t.ida, form, id);
  const edits = Object.entries(values).map(([field, value]) => ({ kind: 'set' as const, field, value }));
  await saveEntry(t.ws, t.ida, form, id, { version, edits, revision: record!.revision, request: `backfill ${++unique}` });
}
async function publishWith(form: string, field: string, value: object): Promise<void> {
  const { draft, revision } = await draftOf(t.ws, form);
  const changed = { ...draft, fields: { ...draft.fields, [field]: { ...draft.fields[field]!, value } } } as typeof draft;
  await saveDraft(t.ws, t.maud, form, changed, revision);
  await publish(t.ws, t.maud, form, null);
}

describe('a prefill whose source has moved', () => {
  let lots: Row[];
  let species: Row;
  let of: Row[];
  beforeAll(async () => {
    t = await demoWorkspace();
    const [first, ...more] = (await rowsOf('lots')).slice(0, 6);
    const { family, genus, species: of, storage_c } = first!;
    await t.ws.db('data_lots').whereIn('id', more.map((l) => l.id)).update({ family, genus, species: of, storage_c } as object); // prettier-ignore
  });
  beforeEach(async () => {
    lots = await rowsOf('lots');
    const counts = new Map<Datum, number>();
    for (const l of lots) counts.set(l.species ?? null, (counts.get(l.species ?? null) ?? 0) + 1);
    const most = [...counts].sort((a, b) => b[1] - a[1])[0]![0];
    species = (await rowsOf('species')).find((s) => s.id === most)!;
    of = lots.filter((l) => l.species === species.id);
  });

  test('is offered with its formula; nothing moves, nothing is proposed', async () => {
    const offer = await backfillOffer(t.ws, 'lot_intake');
    expect(offer.fields.find((f) => f.field === 'storage_c')).toEqual({
      field: 'storage_c',
      label: expect.any(String),
      lines: null,
      kind: 'prefill',
      formula: 'species.storage_c',
    });
    const view = await preview('lot_intake', ['storage_c']);
    expect(view).toMatchObject({ looked: lots.length, state: 'previewed', records: { proposed: 0, refused: 0 } });
  });

  test('is proposed, applied with history and origin, and undone as one', async () => {
    const [typed, ...others] = of;
    await change('lot_intake', typed!.id, { storage_c: -20 });
    await t.ws.db('data_species').where({ id: species.id }).update({ storage_c: 7 });
    const view = await preview('lot_intake', ['storage_c']);
    const proposed = await changes('lot_intake', view.id);
    expect(proposed.map((r) => r.row)).toEqual(others.map((l) => l.id));
    expect(proposed[0]!.given).toMatchObject([
      { field: 'storage_c', line: null, from: others[0]!.storage_c, to: 7, asked: true },
    ] as object[]);
    expect(await rowsOf('lots')).toEqual(lots.map((l) => (l.id === typed!.id ? { ...l, storage_c: -20 } : l)));

    const applied = await applyBackfill(t.ws, t.maud, 'lot_intake', view.id);
    expect(applied).toMatchObject({ state: 'applied', records: { written: others.length, proposed: 0, skipped: 0 } });
    const after = await rowsOf('lots');
    expect(after).toEqual(
      lots.map((l) => (l.id === typed!.id ? { ...l, storage_c: -20 } : l.species === species.id ? { ...l, storage_c: 7 } : l)),
    );
    const history = (await recordHistory(t.ws, t.maud, 'lot_intake', others[0]!.id)) as { reason: string; changes: object }[];
    expect(history[0]).toMatchObject({
      reason: expect.stringMatching(/^Backfill \d+: /),
      changes: { storage_c: [others[0]!.storage_c, 7] },
    });
    expect((await openForEntry(t.ws, t.ida, 'lot_intake', others[0]!.id)).record!.origins.storage_c).toEqual({ kind: 'prefill' });

    await undoBackfill(t.ws, t.maud, 'lot_intake', view.id);
    expect(await rowsOf('lots')).toEqual(lots.map((l) => (l.id === typed!.id ? { ...l, storage_c: -20 } : l)));
    expect(await refusal(applyBackfill(t.ws, t.maud, 'lot_intake', view.id))).toMatchObject({ status: 409, code: 'undone' });
  });

  test('replaces what was typed only when all is asked for, and what was changed meanwhile not at all', async () => {
    await t.ws.db('data_species').where({ id: species.id }).update({ storage_c: 9 });
    const typed = of.find((l) => l.storage_c === -20)!;
    const view = await preview('lot_intake', ['storage_c'], 'all');
    expect((await changes('lot_intake', view.id)).map((r) => r.row)).toEqual(of.map((l) => l.id));
    await change('lot_intake', of[1]!.id, { germination_days: 77 });
    const applied = await applyBackfill(t.ws, t.maud, 'lot_intake', view.id);
    expect(applied.records).toMatchObject({ written: of.length - 1, skipped: 1 });
    const skipped = await backfillPage(t.ws, 'lot_intake', view.id, { show: 'skipped', offset: 0, limit: 10 });
    expect(skipped.rows).toEqual([
      expect.objectContaining({ row: of[1]!.id, problem: expect.stringContaining('changed this record since') }),
    ]);
    expect((await rowsOf('lots')).find((l) => l.id === typed.id)!.storage_c).toBe(9);
    // undone, but for what a person changed after it was applied
    await change('lot_intake', of[2]!.id, { germination_days: 78 });
    const undone = await undoBackfill(t.ws, t.maud, 'lot_intake', view.id);
    expect(undone.records).toMatchObject({ putBack: of.length - 2, skipped: 2 });
    expect((await rowsOf('lots')).find((l) => l.id === of[2]!.id)!.storage_c).toBe(9);
    expect((await rowsOf('lots')).find((l) => l.id === typed.id)!.storage_c).toBe(-20);
  });

  test('is proposed for the records of a subset alone', async () => {
    await saveSubsets(t.ws, 'lots', [{ key: 'heavy', label: 'Heavy', condition: 'choice.quantity_g > 20 AND choice.species.active' }]);
    await t.ws.db('data_species').update({ storage_c: 3 });
    const active = new Set((await rowsOf('species')).filter((s) => s.active).map((s) => s.id));
    const heavy = lots.filter((l) => Number(l.quantity_g) > 20 && active.has(l.species as number));
    const view = await preview('lot_intake', ['storage_c'], 'all', 'heavy');
    expect(view.looked).toBe(heavy.length);
    expect((await changes('lot_intake', view.id)).map((r) => r.row)).toEqual(heavy.filter((l) => l.storage_c !== 3).map((l) => l.id));
  });

  test('a preview that is cancelled leaves nothing; a new one forgets the last', async () => {
    const job = { at: (progress: number) => { if (progress > 0.1) throw new Cancelled(); } }; // prettier-ignore
    const before = await t.ws.db('backfills').count({ n: '*' });
    await expect(
      previewBackfill(t.ws, t.maud, 'lot_intake', { fields: ['storage_c'], over: 'all', subset: null }, { at: (p) => job.at(p + 0.2) }),
    ).rejects.toThrow(Cancelled);
    expect(await t.ws.db('backfills').count({ n: '*' })).toEqual(before);
    const first = await preview('lot_intake', ['storage_c'], 'all');
    const second = await preview('lot_intake', ['storage_c'], 'all');
    expect(await refusal(backfillPage(t.ws, 'lot_intake', first.id, { show: 'changes', offset: 0, limit: 1 }))).toMatchObject({
      status: 404,
    });
    await forgetBackfill(t.ws, 'lot_intake', second.id);
    expect((await t.ws.db('backfill_rows').where({ backfill_id: second.id })).length).toBe(0);
  });
});

test('what is forgotten is found by nobody from then on, and goes a little at a time', async () => {
  t = await demoWorkspace();
  await t.ws.db('data_species').update({ storage_c: 4 });
  const { id } = await preview('lot_intake', ['storage_c'], 'all');
  const row = { backfill_id: id, row_id: 1, state: 'proposed', revision: 1, line_revisions: '{}', given: '[]' };
  for (let i = 0; i < 150; i++) await t.ws.db('backfill_rows').insert(Array.from({ length: 50 }, () => row));
  const rows = async (): Promise<number> => Number(((await t.ws.db('backfill_rows').count({ n: '*' })) as { n: number }[])[0]!.n);
  // of very many a few go at once
  const before = await rows();
  expect(await dropSomeOfBackfill(t.ws.db, id)).toBe(false);
  const left = await rows();
  const atOnce = before - left;
  expect([before > 7500, atOnce > 0, left > 5 * atOnce]).toEqual([true, true, true]);
  // a clock on which every step takes longer than half a turn: on a fast machine several would go in one
  let ms = performance.now();
  const clock = vi.spyOn(performance, 'now').mockImplementation(() => (ms += 3));
  onTestFinished(() => clock.mockRestore());
  let isForgotten = false;
  const forgetting = forgetBackfill(t.ws, 'lot_intake', id).then(() => (isForgotten = true));
  // a turn of the event loop, as somebody's request has it
  const turn = (): Promise<void> => new Promise((resolve) => setImmediate(resolve));
  // by itself: what is asked below takes longer than a server needs to forget all
  let turns = 0;
  const counting = (async () => {
    for (; !isForgotten; turns++) await turn();
  })();
  while (!isForgotten) {
    await turn();
    if ((await t.ws.db('backfills').where({ id, state: 'previewed' })).length) continue;
    expect(await refusal(backfillPage(t.ws, 'lot_intake', id, { show: 'changes', offset: 0, limit: 1 }))).toMatchObject({ status: 404 });
    expect(await refusal(applyBackfill(t.ws, t.maud, 'lot_intake', id))).toMatchObject({ status: 404 });
    expect((await backfillOffer(t.ws, 'lot_intake')).earlier.map((b) => b.id)).not.toContain(id);
  }
  await Promise.all([forgetting, counting]);
  expect(await rows()).toBe(0);
  // others had their turn in between; the first and the last of them are not counted
  expect(turns).toBeGreaterThanOrEqual(Math.floor(left / atOnce) - 2);
});

test('one that a server which stopped had not forgotten to its end goes with the next preview; one that is applied stays', async () => {
  t = await demoWorkspace();
  await t.ws.db('data_species').update({ storage_c: 4 });
  const applied = await preview('lot_intake', ['storage_c'], 'all');
  await applyBackfill(t.ws, t.maud, 'lot_intake', applied.id);
  await t.ws.db('data_species').update({ storage_c: 5 });
  const left = await preview('lot_intake', ['storage_c'], 'all');
  await t.ws.db('backfills').where({ id: left.id }).update({ state: 'dropped' });
  const next = await preview('lot_intake', ['storage_c'], 'all');
  expect(((await t.ws.db('backfills').orderBy('id')) as { id: number }[]).map((b) => b.id)).toEqual([applied.id, next.id]);
  expect(await t.ws.db('backfill_rows').where({ backfill_id: left.id })).toEqual([]);
  expect(await refusal(forgetBackfill(t.ws, 'lot_intake', applied.id))).toMatchObject({ status: 409 });
});

describe('a new rule of the form', () => {
  beforeAll(async () => {
    t = await demoWorkspace();
  });

  test('numbers of a series go to the records that have none, one each; the first in comes first', async () => {
    const lots = await rowsOf('lots');
    const without = lots.slice(0, 4);
    await t.ws.db('data_lots').whereIn('id', without.map((l) => l.id)).update({ code: null, code__fold: null }); // prettier-ignore
    const first = await nextNumber(t.ws.db, 'lots 2026');
    const view = await preview('lot_intake', ['code'], 'empty');
    const code = (n: number): string => `MF-2026-${String(n).padStart(4, '0')}`;
    expect((await changes('lot_intake', view.id)).map((r) => [r.row, r.given[0]!.to])).toEqual(
      without.map((l, i) => [l.id, code(first + i)]),
    );
    expect(await nextNumber(t.ws.db, 'lots 2026')).toBe(first);
    await applyBackfill(t.ws, t.maud, 'lot_intake', view.id);
    expect(await nextNumber(t.ws.db, 'lots 2026')).toBe(first + without.length);
  });

  test('“me” is whoever entered the record', async () => {
    const lots = await rowsOf('lots');
    const accounts = new Map(((await t.ws.db('accounts')) as { id: number; person_id: number }[]).map((a) => [a.id, a.person_id]));
    const creators = new Map(
      ((await t.ws.db('data_lots').select('id', '_created_by')) as { id: number; _created_by: number }[]).map((r) => [
        r.id,
        accounts.get(r._created_by) ?? null,
      ]),
    );
    await t.ws.db('data_lots').update({ collector: null });
    const view = await preview('lot_intake', ['collector'], 'empty');
    const given = await changes('lot_intake', view.id);
    expect(given.length).toBe(lots.filter((l) => creators.get(l.id) !== null).length);
    for (const r of given) expect(r.given[0]!.to).toBe(creators.get(r.row));
  });

  test('what somebody entered last is that person’s own', async () => {
    const accounts = (await t.ws.db('accounts').whereIn('person_id', [t.maud.person, t.ida.person])) as { id: number; person_id: number }[];
    const [one, two] = accounts.map((a) => a.id) as [number, number];
    const lots = await rowsOf('lots');
    const half = lots.slice(0, 4).map((l) => l.id);
    await t.ws.db('data_lots').update({ _created_by: two, code: 'of two', code__fold: 'OF TWO' });
    await t.ws.db('data_lots').whereIn('id', half).update({ _created_by: one, code: 'of one', code__fold: 'OF ONE' });
    await publishWith('lot_intake', 'code', { kind: 'default', formula: 'last.code' });
    const first = lots[0]!.id;
    await t.ws.db('data_lots').whereIn('id', [first, lots.at(-2)!.id]).update({ code: null, code__fold: null }); // prettier-ignore
    const given = await changes('lot_intake', (await preview('lot_intake', ['code'], 'empty')).id);
    expect(given.map((r) => [r.row, r.given[0]!.to])).toEqual([
      [first, 'of one'],
      [lots.at(-2)!.id, 'of two'],
    ]);
  });

  test('a value that is hidden, and given nothing, is no reason to change its record', async () => {
    await t.ws.db('data_lots').update({ remark: 'left over', remark__fold: 'LEFT OVER' });
    await publishWith('lot_intake', 'remark', { kind: 'default', formula: '"none"' });
    // where it is shown it is filled; where it is hidden, it would be cleared by a save, but nobody asked for that
    expect((await preview('lot_intake', ['remark'], 'empty')).records).toMatchObject({ proposed: 0, refused: 0 });
  });

  test('a value that does not fit, and a choice that is not offered, are said and not written', async () => {
    await publishWith('lot_intake', 'purity', { kind: 'default', formula: '"sparkling"' });
    const view = await preview('lot_intake', ['purity'], 'all');
    expect(view.records).toMatchObject({ proposed: 0, refused: view.looked });
    const { rows } = await backfillPage(t.ws, 'lot_intake', view.id, { show: 'refused', offset: 0, limit: 3 });
    expect(rows[0]).toMatchObject({ problem: expect.stringContaining('not one of this record’s choices') });
    await publishWith('lot_intake', 'tsw_g', { kind: 'calculation', formula: '1 / (quantity_g - quantity_g)' });
    const divided = await preview('lot_intake', ['tsw_g'], 'all');
    expect(divided.records).toMatchObject({ proposed: 0, refused: divided.looked });
  });

  test('what a published version no longer gives is not applied', async () => {
    await t.ws.db('data_species').update({ germination_days: 11 });
    const view = await preview('lot_intake', ['germination_days'], 'all');
    expect(view.records.proposed).toBeGreaterThan(0);
    await publishWith('lot_intake', 'germination_days', { kind: 'prefill', formula: '12' });
    expect(await refusal(applyBackfill(t.ws, t.maud, 'lot_intake', view.id))).toMatchObject({ status: 409, code: 'changedMeanwhile' });
    expect(await refusal(preview('lot_intake', ['species']))).toMatchObject({ status: 422 });
    expect(await refusal(preview('lot_intake', []))).toMatchObject({ status: 422 });
  });
});

test('lines are given their new price, and the totals of their record follow', async () => {
  t = await demoWorkspace();
  const before = await rowsOf('requests');
  const packets = await rowsOf('request_lines').catch(async () => rowsOf((await draftOf(t.ws, 'seed_request')).draft.lines.packets!.table));
  await t.ws.db('data_price_bands').update({ price_per_packet: 10 });
  const view = await preview('seed_request', ['packets.price']);
  expect(view.records.refused).toBe(0);
  const [one] = await changes('seed_request', view.id);
  const fields = new Set(one!.given.map((g) => `${g.field} ${g.asked}`));
  expect([...fields].sort()).toEqual(
    expect.arrayContaining(['packets.line_total false', 'packets.price true', 'subtotal false', 'to_pay false']),
  );
  await applyBackfill(t.ws, t.maud, 'seed_request', view.id);
  const { table } = (await draftOf(t.ws, 'seed_request')).draft.lines.packets!;
  const now = (await rowsOf(table)).filter((l) => l.request === one!.row);
  expect(now.length).toBeGreaterThan(0);
  for (const line of now) expect(line).toMatchObject({ price: 10, line_total: 10 * Number(line.packets) });
  const record = (await rowsOf('requests')).find((r) => r.id === one!.row)!;
  expect(record.subtotal).toBe(now.reduce((n, l) => n + Number(l.line_total), 0));
  await undoBackfill(t.ws, t.maud, 'seed_request', view.id);
  expect(await rowsOf('requests')).toEqual(before);
  expect(await rowsOf(table)).toEqual(packets);
});

test('lines alone are given something: their record stays but for its revision, and says so in its history', async () => {
  t = await demoWorkspace();
  const { draft, revision } = await draftOf(t.ws, 'seed_request');
  const packets = draft.lines.packets!;
  const fields = { ...packets.fields, note: { ...packets.fields.packets!, label: 'Note', type: 'text', column: 'bench_note', decimals: null, required: null, checks: [], value: { kind: 'default', formula: '"as asked"' } } }; // prettier-ignore
  await saveDraft(t.ws, t.maud, 'seed_request', parseForm({ ...draft, lines: { ...draft.lines, packets: { ...packets, fields, columns: [...packets.columns, 'note'] } } }), revision); // prettier-ignore
  await publish(t.ws, t.maud, 'seed_request', null);
  const before = await rowsOf('requests');
  const view = await preview('seed_request', ['packets.note'], 'empty');
  expect(view.records.proposed).toBeGreaterThan(0);
  const [one] = await changes('seed_request', view.id);
  expect(new Set(one!.given.map((g) => g.field))).toEqual(new Set(['packets.note']));
  await applyBackfill(t.ws, t.maud, 'seed_request', view.id);
  const lines = (await rowsOf(packets.table)).filter((l) => l.request === one!.row);
  expect(lines.map((l) => l.bench_note)).toEqual(lines.map(() => 'as asked'));
  expect(await rowsOf('requests')).toEqual(before);
  await undoBackfill(t.ws, t.maud, 'seed_request', view.id);
  const after = (await rowsOf(packets.table)).filter((l) => l.request === one!.row);
  expect(after.map((l) => l.bench_note)).toEqual(after.map(() => null));
});

test('where values came from was noted anew since the preview: the record is left as it is', async () => {
  t = await demoWorkspace();
  await t.ws.db('data_species').update({ germination_days: 99 });
  const view = await preview('lot_intake', ['germination_days']);
  const [one] = await changes('lot_intake', view.id);
  const run = t.ws.work.run.bind(t.ws.work);
  // as it is made ready to be written, somebody renames the field
  const renamed = async (...asked: Parameters<typeof run>): Promise<unknown> => {
    const came = await run(...asked);
    if (asked[0] === 'backfillReady')
      await t.ws.db('origins').where({ table_key: 'lots', row_id: one!.row }).update({ origins: '{"days":{"kind":"typed"}}' });
    return came;
  };
  Object.assign(t.ws.work, { run: renamed });
  const applied = await applyBackfill(t.ws, t.maud, 'lot_intake', view.id);
  Object.assign(t.ws.work, { run });
  expect(applied.records).toMatchObject({ skipped: 1, written: view.records.proposed - 1 });
  const { origins } = (await t.ws.db('origins').where({ table_key: 'lots', row_id: one!.row }).first('origins')) as { origins: string };
  expect(origins).toBe('{"days":{"kind":"typed"}}');
});
