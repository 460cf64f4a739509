import { beforeAll, describe, expect, test } from 'vitest';
import type { Datum } from '../../core/values/types.ts';
import type { Account } from '../database/accounts';
import { accountByEmail } from '../database/accounts';
import { notedOf } from '../database/origins';
import { allRows, rowById } from '../database/rows';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { recordHistory } from './entries';
import { Cancelled } from './jobs';
import { saveRows, tryRows } from './manyRows';
import { changeRecords, deleteRecords, restoreRecords, undoChanges } from './recordsAtOnce';

/* Rows of a sheet, and records at once: each through its form; what one is refused for keeps no other from it. */

let t: TestWorkspace;
let nell: Account;
beforeAll(async () => {
  t = await demoWorkspace();
  nell = (await accountByEmail(t.ws.db, 'nell@marrowfen.example'))!;
});
const lots = async () => allRows(t.ws.db, await t.ws.modelTable('lots'));
const COLUMNS = ['species', 'region', 'site', 'collected_on', 'quantity_g', null] as const;
const requestOf = (i: number): string => `many-request-${i}`;

describe('rows of a sheet', () => {
  test('choices are found by what they show; the rest fills in; what is wrong is told at its field', async () => {
    const { rows, version } = await tryRows(t.ws, t.ida, 'lot_intake', {
      columns: COLUMNS,
      rows: [
        ['Quercus robur', 'North Marrow', 'Bittern Reach', '2026-03-01', '12.5', 'a note'],
        ['quercus ROBUR ', '', '', '1.3.2026', '3', ''],
        ['Quercus nonsensica', 'North Marrow', 'Bittern Reach', '2026-03-01', '12', ''],
        ['Quercus robur', 'South Marrow', 'Bittern Reach', '2026-03-01', 'much', ''],
      ],
    }); // prettier-ignore
    const [good, loose, unknown, both] = rows;
    expect(good!.wrong).toEqual([]);
    expect(good!.values.quantity_g).toBe(12.5);
    expect(good!.filled).toEqual(expect.arrayContaining(['genus', 'family', 'storage_c', 'collector']));
    expect(good!.edits.map((e) => e.field)).toEqual(['species', 'region', 'site', 'collected_on', 'quantity_g']);
    expect(loose!.values.species).toBe(good!.values.species);
    expect(loose!.values.collected_on).toBe('2026-03-01');
    // what it lacks is told as the form tells it
    expect(loose!.wrong.map((w) => w.field)).toContain('site');
    expect(unknown!.wrong[0]).toMatchObject({ field: 'species', text: 'Quercus nonsensica' });
    expect(both!.wrong.map((w) => w.field)).toEqual(expect.arrayContaining(['quantity_g']));
    expect(both!.wrong.some((w) => w.field === 'site' || w.field === 'region')).toBe(true);

    const before = (await lots()).length;
    const saved = await saveRows(t.ws, t.ida, 'lot_intake', {
      version,
      rows: rows.map((r, i) => ({ edits: r.edits, request: requestOf(i) })),
    });
    expect(saved.rows.map((r) => r.id !== null)).toEqual([true, false, false, false]);
    expect(saved.rows[1]!.wrong.length).toBeGreaterThan(0);
    expect((await lots()).length).toBe(before + 1);
    const stored = (await lots()).find((l) => l.id === saved.rows[0]!.id)!;
    for (const [key, value] of Object.entries(good!.values)) if (key in stored && key !== 'code') expect(stored[key]).toEqual(value);
    // sent again, it is not saved again
    const again = await saveRows(t.ws, t.ida, 'lot_intake', { version, rows: [{ edits: good!.edits, request: requestOf(0) }] });
    expect(again.rows[0]!.id).toBe(saved.rows[0]!.id);
    expect((await lots()).length).toBe(before + 1);
  });
  test('each record takes its own number of a series', async () => {
    const row = ['Quercus robur', 'North Marrow', 'Bittern Reach', '2026-03-01', '1', ''];
    const { rows, version } = await tryRows(t.ws, t.ida, 'lot_intake', { columns: COLUMNS, rows: [row, row, row] });
    const saved = await saveRows(t.ws, t.ida, 'lot_intake', {
      version,
      rows: rows.map((r, i) => ({ edits: r.edits, request: requestOf(10 + i) })),
    });
    const codes = (await lots()).filter((l) => saved.rows.some((r) => r.id === l.id)).map((l) => l.code);
    expect(new Set(codes).size).toBe(3);
  });
  test('a column that is no field is refused; cancelled, it stops', async () => {
    expect((await refusal(tryRows(t.ws, t.ida, 'lot_intake', { columns: ['nothing'], rows: [['x']] }))).status).toBe(422);
    const stopped = tryRows(t.ws, t.ida, 'lot_intake', { columns: ['species'], rows: [['x'], ['y']] }, {
      at: (progress) => {
        if (progress > 0) throw new Cancelled();
      },
    }); // prettier-ignore
    await expect(stopped).rejects.toThrow(Cancelled);
  });
});

describe('records at once', () => {
  const some = async (fits: (l: Record<string, Datum>) => boolean, n: number) =>
    Promise.all((await lots()).filter(fits).slice(0, n).map(async (l) => ({ id: l.id, revision: (await rowById(t.ws.db, await t.ws.modelTable('lots'), l.id))!.revision }))); // prettier-ignore
  const rowOf = async (id: number) => (await rowById(t.ws.db, await t.ws.modelTable('lots'), id))!;

  test('one field is set with what follows from it; looked at first, nothing changes; taken back, all is as it was', async () => {
    const records = await some((l) => l.status === 'registered' && l.tsw_g !== null, 4);
    const before = await Promise.all(records.map((r) => rowOf(r.id)));
    const ask = { version: 1, records, field: 'quantity_g', value: 77, dry: true };
    const dry = await changeRecords(t.ws, nell, 'lot_intake', ask);
    expect(dry.records.every((r) => r.message === null && r.changes.quantity_g?.[1] === 77 && r.changes.seeds !== undefined)).toBe(true);
    expect(await Promise.all(records.map((r) => rowOf(r.id)))).toEqual(before);
    const done = await changeRecords(t.ws, nell, 'lot_intake', { ...ask, dry: false });
    expect((await rowOf(records[0]!.id)).row.quantity_g).toBe(77);
    const seen = done.records.map((r) => ({ id: r.id, revision: r.revision! }));
    // one of them is changed by somebody since: it stays
    await changeRecords(t.ws, nell, 'lot_intake', { ...ask, records: [seen[3]!], value: 78, dry: false });
    const back = await undoChanges(t.ws, nell, 'lot_intake', seen, undefined);
    expect(back.records.map((r) => r.message === null)).toEqual([true, true, true, false]);
    for (const b of before.slice(0, 3)) expect((await rowOf(b.row.id)).row).toEqual(b.row);
    expect((await rowOf(records[3]!.id)).row.quantity_g).toBe(78);
    expect((await recordHistory(t.ws, nell, 'lot_intake', records[0]!.id)).length).toBeGreaterThanOrEqual(2);
  });
  test('an earlier change of one record is undone where it still stands; what was changed since stays', async () => {
    const [record] = await some((l) => l.status === 'registered' && l.tsw_g !== null, 1);
    const before = (await rowOf(record!.id)).row;
    const set = async (field: string, value: Datum) =>
      changeRecords(t.ws, nell, 'lot_intake', { version: 1, records: [{ id: record!.id, revision: (await rowOf(record!.id)).revision }], field, value, dry: false }); // prettier-ignore
    await set('quantity_g', 61);
    await set('germination_days', 33);
    await set('tsw_g', 9.5);
    const history = () => recordHistory(t.ws, nell, 'lot_intake', record!.id);
    const undo = async (nth: number) => {
      const change = (await history())[nth]!.id;
      return (await undoChanges(t.ws, nell, 'lot_intake', [{ id: record!.id, revision: (await rowOf(record!.id)).revision }], change)).records[0]!; // prettier-ignore
    };
    expect((await undo(1)).message).toBeNull();
    expect((await rowOf(record!.id)).row).toMatchObject({ quantity_g: 61, germination_days: before.germination_days, tsw_g: 9.5 });
    // undone already: nothing of it stands
    expect((await undo(2)).message).toMatch(/stands any more/);
    expect((await undo(3)).message).toBeNull();
    expect((await rowOf(record!.id)).row).toMatchObject({ quantity_g: before.quantity_g, tsw_g: 9.5 });
    expect((await history()).length).toBeGreaterThanOrEqual(5);
  });
  test('what a form does not let be set is told of each record', async () => {
    const records = await some((l) => l.status === 'registered', 2);
    const { records: told } = await changeRecords(t.ws, nell, 'lot_intake', {
      version: 1,
      records,
      field: 'quantity_g',
      value: -5,
      dry: true,
    });
    expect(told.every((r) => (r.message ?? '').length > 5)).toBe(true);
    const stale = await changeRecords(t.ws, nell, 'lot_intake', { version: 1, records: [{ ...records[0]!, revision: 999 }], field: 'quantity_g', value: 5, dry: false }); // prettier-ignore
    expect(stale.records[0]!.message).toMatch(/meanwhile/);
  });
  test('deleted with its lines, and put back as it was, by whoever deleted it', async () => {
    const requests = await allRows(t.ws.db, await t.ws.modelTable('requests'));
    const lines = async () => allRows(t.ws.db, await t.ws.modelTable('request_lines'));
    const one = requests[0]!;
    const [row, linesBefore] = [await rowById(t.ws.db, await t.ws.modelTable('requests'), one.id), await lines()];
    const gone = await deleteRecords(t.ws, t.maud, 'seed_request', [{ id: one.id, revision: row!.revision }]);
    expect(gone.records[0]!.message).toBeNull();
    expect((await lines()).length).toBeLessThan(linesBefore.length);
    expect((await restoreRecords(t.ws, nell, 'seed_request', [one.id])).records[0]!.message).not.toBeNull();
    const back = await restoreRecords(t.ws, t.maud, 'seed_request', [one.id]);
    expect(back.records[0]!.message).toBeNull();
    expect((await rowById(t.ws.db, await t.ws.modelTable('requests'), one.id))!.row).toEqual(row!.row);
    expect(await lines()).toEqual(linesBefore);
    expect((await restoreRecords(t.ws, t.maud, 'seed_request', [one.id])).records[0]!.message).not.toBeNull();
    expect((await notedOf(t.ws.db, 'requests', [one.id])).get(one.id)).toBeDefined();
  });
});
