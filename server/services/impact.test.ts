import fc from 'fast-check';
import { beforeAll, beforeEach, describe, expect, test } from 'vitest';
import type { Field, Form } from '../../core/form/definition.ts';
import { addressOf } from '../../core/engine/state.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import { allRows } from '../database/rows';
import { impactRows } from '../database/impacts';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { previewBackfill } from './backfillPreview';
import { applyBackfill } from './backfillWrite';
import { draftOf, saveDraft } from './forms';
import { publish } from './publishing';
import { findImpact } from './impact';
import { impactCsv, impactPage, lastImpact } from './impactView';
import { Cancelled } from './jobs';

/* What a draft would do to records that exist, held against what then really happens to them. */

let t: TestWorkspace;
beforeAll(async () => {
  t = await demoWorkspace();
}, 60_000);
// a draft that has what is published, and nobody has looked
beforeEach(async () => {
  await t.ws.db('impact_rows').delete();
  await t.ws.db('impacts').delete();
  for (const form of ['lot_intake', 'seed_request']) {
    const { draft, published } = await draftOf(t.ws, form);
    if (JSON.stringify(draft) !== JSON.stringify(published)) await change(form, () => published!);
  }
});

async function change(form: string, to: (form: Form) => Form): Promise<void> {
  const { draft, revision } = await draftOf(t.ws, form);
  await saveDraft(t.ws, t.maud, form, to(draft), revision);
}
const withField = (key: string, part: Partial<Field> | ((field: Field) => Partial<Field>)) => (form: Form): Form => {
  const field = form.fields[key]!;
  return { ...form, fields: { ...form.fields, [key]: { ...field, ...(typeof part === 'function' ? part(field) : part) } } };
}; // prettier-ignore
const filled = (kind: 'prefill' | 'calculation' | 'default', formula: string) => ({ value: { kind, formula } }) as Partial<Field>;
const find = (form: string) => findImpact(t.ws, t.maud, form);
const counted = async (form: string): Promise<Record<string, number>> =>
  Object.fromEntries((await find(form)).counts.map((c) => [`${c.field} ${c.kind}`, c.records]));
const rowsOf = async (table: string): Promise<Row[]> => allRows(t.ws.db, await t.ws.modelTable(table));

describe('what a draft does to the records that exist', () => {
  test('a draft that changes nothing does nothing, although the data has moved meanwhile', async () => {
    await t.ws.db('data_species').update({ storage_c: 40 });
    const view = await find('lot_intake');
    expect(view).toMatchObject({ counts: [], changing: 0, current: true, fields: [] });
    expect(view.looked).toBe((await rowsOf('lots')).length);
  });

  test('“me” is whoever entered a record, with what their account is', async () => {
    await t.ws.db('data_lots').update({ _created_by: t.maud.id });
    await t.ws.db('data_lots').where('id', '<=', 3).update({ _created_by: t.ida.id });
    await change('lot_intake', withField('storage_c', filled('prefill', 'IF("clerk" IN (me.roles), 11, 12)')));
    const view = await find('lot_intake');
    const page = await impactPage(t.ws, 'lot_intake', view.id, { field: 'storage_c', kind: 'change', offset: 0, limit: 500 });
    const given = new Map(page.rows.map((r) => [r.row, r.to]));
    expect([given.get(1), given.get(3), given.get(4)]).toEqual([11, 11, 12]);
  });

  test('values that would change are told with what is stored and what both versions give', async () => {
    await change('lot_intake', withField('storage_c', filled('prefill', 'species.storage_c - 1')));
    const view = await find('lot_intake');
    const lots = await rowsOf('lots');
    expect(view.fields).toContain('storage_c');
    const page = await impactPage(t.ws, 'lot_intake', view.id, { field: 'storage_c', kind: 'change', offset: 0, limit: 500 });
    expect(page.rows.length).toBeGreaterThan(0);
    const species = new Map((await rowsOf('species')).map((s) => [s.id, s]));
    for (const r of page.rows) {
      const lot = lots.find((l) => l.id === r.row)!;
      const gives = species.get(lot.species as number)!.storage_c as number;
      expect(r).toMatchObject({ from: lot.storage_c, published: gives, to: gives - 1, text: lot.code });
    }
    // nothing was done to them
    expect(await rowsOf('lots')).toEqual(lots);
    // what was found can be looked at, although the draft has a mistake by now
    await change('lot_intake', withField('seeds', filled('calculation', 'quantity_g /')));
    expect((await impactPage(t.ws, 'lot_intake', view.id, { field: 'storage_c', kind: 'change', offset: 0, limit: 500 })).rows).toEqual(
      page.rows,
    );
  });

  test('a choice that is no longer offered, a field that would be asked for, a check that would refuse and one that would warn', async () => {
    const [lot] = await rowsOf('lots');
    const site = (await rowsOf('sites')).find((s) => s.id === lot!.site)!;
    await t.ws.db('data_lots').where({ id: lot!.id }).update({ purity: null, quantity_g: 3 });
    await change('lot_intake', (form) => {
      const narrowed = withField('site', (f) => ({ source: { ...f.source!, where: `choice.region = region AND choice.active AND choice.name <> "${String(site.name)}"` } }) as Partial<Field>); // prettier-ignore
      const asked = withField('purity', { required: 'quantity_g = 3' });
      const judged = withField('quantity_g', (f) => ({
        checks: [
          ...f.checks,
          { when: 'quantity_g < 4', message: 'That is little: {quantity_g}', severity: 'error' },
          { when: 'quantity_g < 5', message: 'Weigh it again', severity: 'warning' },
        ],
      }));
      return judged(asked(narrowed(form)));
    });
    const view = await find('lot_intake');
    const of = async (kind: 'notOffered' | 'required' | 'error' | 'warning') =>
      (await impactPage(t.ws, 'lot_intake', view.id, { kind, offset: 0, limit: 500 })).rows.filter((r) => r.row === lot!.id);
    expect(await of('notOffered')).toMatchObject([{ field: 'site', from: lot!.site, text: lot!.code }] as object[]);
    expect(await of('required')).toMatchObject([{ field: 'purity' }]);
    expect(await of('error')).toMatchObject([{ field: 'quantity_g', message: 'That is little: 3' }]);
    expect(await of('warning')).toMatchObject([{ field: 'quantity_g', message: 'Weigh it again' }]);
    // every lot of that site is told of
    const there = (await rowsOf('lots')).filter((l) => l.site === lot!.site).length;
    expect((await counted('lot_intake'))['site notOffered']).toBe(there);
  });

  test('a field that would be hidden and emptied is told as what the next save changes', async () => {
    await change('lot_intake', withField('germination_days', { shown: 'FALSE', hiddenValue: 'clear' }));
    const counts = await counted('lot_intake');
    expect(counts['germination_days next']).toBe((await rowsOf('lots')).filter((l) => l.germination_days !== null).length);
    expect(counts['germination_days change']).toBeUndefined();
  });

  test('who would see a record, and who no longer', async () => {
    await t.ws.db('data_lots').update({ checked_by: null });
    const [first, second] = await rowsOf('lots');
    const tom = (await t.ws.db('data_people').where({ name: 'Tom Reed' }).first('id')) as { id: number };
    await t.ws.db('data_lots').whereIn('id', [first!.id, second!.id]).update({ collector: tom.id, _created_by: null });
    await change('lot_intake', (form) => ({ ...form, owners: { fields: ['collector'], creator: false, also: { roles: [], teams: [] } as never } })); // prettier-ignore
    const view = await find('lot_intake');
    const page = await impactPage(t.ws, 'lot_intake', view.id, { kind: 'unseen', offset: 0, limit: 500 });
    const said = page.rows.find((r) => r.row === first!.id)!;
    expect(said.message).toContain('Ida Fenn');
    expect(said.message).not.toContain('Tom Reed');
    // who builds sees everything, before and after
    expect(said.message).not.toContain('Maud Alder');
  });

  test('it is kept until the draft is changed, is written out as CSV, and is asked for again by nobody else’s number', async () => {
    await change('lot_intake', withField('germination_days', filled('prefill', 'species.germination_days + 1')));
    expect(await lastImpact(t.ws, 'lot_intake')).toBeNull();
    const view = await find('lot_intake');
    expect(await lastImpact(t.ws, 'lot_intake')).toMatchObject({ id: view.id, current: true });
    let csv = '';
    for await (const piece of impactCsv(t.ws, 'lot_intake', view.id)) csv += piece;
    const lines = csv.trimEnd().split('\n');
    expect(lines).toHaveLength(1 + (await impactRows(t.ws.db, view.id, { limit: 10_000 })).length);
    expect(lines[1]).toMatch(/^MF-\d{4}-\d+,\d+,Germination[^,]*,,would change,\d+,\d+,\d+,$/);
    await change('lot_intake', withField('germination_days', filled('prefill', 'species.germination_days + 2')));
    expect(await lastImpact(t.ws, 'lot_intake')).toMatchObject({ id: view.id, current: false });
    expect(await refusal(impactPage(t.ws, 'seed_request', view.id, { offset: 0, limit: 5 }))).toMatchObject({ status: 404 });
    const again = await find('lot_intake');
    expect(await refusal(impactPage(t.ws, 'lot_intake', view.id, { offset: 0, limit: 5 }))).toMatchObject({ status: 404 });
    expect(again.id).not.toBe(view.id);
  });

  test('what was found is read in its order, all of it or of one kind, with what else was found between', async () => {
    const at = { form_key: 'lot_intake', version: 1, draft_revision: 1, fields: '[]', at: '2026-03-10T09:00:00', done: true };
    for (const id of [901, 902]) await t.ws.db('impacts').insert({ id, ...at });
    const kinds = ['change', 'warning', 'error'] as const;
    const found = '[null,null,1,2,3,null,null]';
    for (let i = 0; i < 30; i++)
      await t.ws.db('impact_rows').insert({ impact_id: 901 + (i % 2), row_id: 100 - i, field: `f${i % 4}`, kind: kinds[i % 3]!, found });
    const rows = async (query: object) => (await impactRows(t.ws.aside, 901, { limit: 100, ...query })).map((r) => r.row);
    const all = Array.from({ length: 15 }, (_, i) => 100 - 2 * i);
    expect(await rows({})).toEqual(all);
    expect(await rows({ offset: 4, limit: 3 })).toEqual(all.slice(4, 7));
    const kind = all.filter((row) => (100 - row) % 3 === 1);
    expect(await rows({ kind: 'warning' })).toEqual(kind);
    expect(await rows({ field: 'f2', kind: 'warning' })).toEqual(kind.filter((row) => (100 - row) % 4 === 2));
    const [first, second] = await impactRows(t.ws.aside, 901, { limit: 2 });
    expect(await rows({ after: first!.id, limit: 1 })).toEqual([second!.row]);
  });

  test('two who look at the same time both see it; what a server that stopped left behind goes after a day', async () => {
    await change('lot_intake', withField('storage_c', filled('prefill', 'species.storage_c - 4')));
    const left = (at: string) => t.ws.db('impacts').insert({ form_key: 'lot_intake', version: 1, draft_revision: 1, fields: '[]', at });
    await left('2026-03-08T09:00:00');
    await left('2026-03-10T09:00:00');
    const both = await Promise.all([find('lot_intake'), find('lot_intake')]);
    expect(both.map((v) => v.changing > 0)).toEqual([true, true]);
    const kept = (await t.ws.db('impacts').orderBy('id')) as { at: string; done: number }[];
    expect(kept.filter((k) => !k.done).map((k) => k.at)).toEqual(['2026-03-10T09:00:00']);
    // what both found is there until somebody looks again
    expect(kept.filter((k) => k.done)).toHaveLength(2);
    await find('lot_intake');
    expect(await t.ws.db('impacts').where({ done: true })).toHaveLength(1);
  });

  test('a draft with mistakes is refused with them; cancelled, nothing is left', async () => {
    await change('lot_intake', withField('storage_c', filled('prefill', 'no_such_name')));
    expect(await refusal(find('lot_intake'))).toMatchObject({ status: 422, code: 'problems' });
    await change('lot_intake', withField('storage_c', filled('prefill', 'species.storage_c - 3')));
    const stop = new AbortController();
    const job = {
      signal: stop.signal,
      at(): void {
        throw new Cancelled();
      },
    };
    await expect(findImpact(t.ws, t.maud, 'lot_intake', job)).rejects.toBeInstanceOf(Cancelled);
    expect(await t.ws.db('impacts')).toEqual([]);
    expect(await t.ws.db('impact_rows')).toEqual([]);
  });
});

/** Ways to change fills of a form, each sound in it: some change values, some only look so. */
const CHANGES: Readonly<Record<string, readonly ((form: Form) => Form)[]>> = {
  lot_intake: [
    withField('storage_c', filled('prefill', 'IF(species.storage_c > 0, species.storage_c - 1, species.storage_c)')),
    withField('germination_days', filled('prefill', 'COALESCE(species.germination_days, 0) + LEN(remark)')),
    withField('germination_days', filled('prefill', 'species.germination_days + 0')),
    withField('seeds', filled('calculation', 'ROUND(quantity_g / tsw_g * 1000 * 0.9, 0)')),
    withField('description', filled('calculation', 'UPPER(species.name) & " " & site.name')),
    withField('habitat', filled('prefill', 'IF(storage_c > 0, plot.habitat, "")')),
    withField('storage_c', { shown: 'germination_days > 20', hiddenValue: 'clear' }),
    withField('site', (f) => ({ source: { ...f.source!, where: 'choice.region = region' } }) as Partial<Field>),
    withField('remark', filled('default', '"from " & site.name')),
  ],
  seed_request: [
    withField('fee', filled('calculation', 'VALUEMAP(fees, method) + 1')),
    withField('discount', filled('prefill', 'IF(partner.kind = "school", 40, 5)')),
    (form) => ({ ...form, maps: Object.fromEntries(Object.entries(form.maps).map(([k, m]) => [k, { ...m, lines: m.lines.map((l) => ({ ...l, value: typeof l.value === 'number' ? l.value * 2 : l.value })) }])) }),
    (form) => ({ ...form, lines: { ...form.lines, packets: { ...form.lines.packets!, fields: { ...form.lines.packets!.fields, line_total: { ...form.lines.packets!.fields.line_total!, ...filled('calculation', 'packets * price * 2') } } } } }),
    withField('attention', filled('prefill', 'UPPER(address.attention)')),
    withField('to_pay', filled('calculation', 'subtotal + COALESCE(fee, 0)')),
  ],
}; // prettier-ignore

test('what is told is what really happens when the same records are backfilled', async () => {
  let changed = 0;
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom('lot_intake', 'seed_request').chain((form) =>
        fc.record({
          form: fc.constant(form),
          picked: fc.uniqueArray(fc.nat(CHANGES[form]!.length - 1), { minLength: 1, maxLength: 4 }),
          // reference data that moved, and fields somebody emptied, before anybody looked
          moved: fc.boolean(),
          emptied: fc.subarray(form === 'lot_intake' ? ['storage_c', 'germination_days', 'remark'] : ['discount', 'attention', 'fee']),
        }),
      ),
      async ({ form, picked, moved, emptied }) => {
        const { draft: start } = await draftOf(t.ws, form);
        const { table } = start;
        const lineTable = start.lines.packets?.table;
        if (moved) await t.ws.db('data_species').where('id', '<', 30).update({ storage_c: -18, germination_days: 11 });
        for (const column of emptied)
          await t.ws
            .db(`data_${table}`)
            .where('id', '<', 12)
            .update({ [column]: null });
        for (const i of picked) await change(form, CHANGES[form]![i]!);
        const { version, published, draft } = await draftOf(t.ws, form);
        if (JSON.stringify(published) === JSON.stringify(draft)) return;
        const view = await find(form);
        const found = await impactRows(t.ws.db, view.id, { limit: 100_000 });
        const expected = new Map<string, Datum>();
        for (const f of found) if (f.kind === 'change' || f.kind === 'follow') expected.set(`${f.row} ${addressOf(f.field, f.line)}`, f.to);
        changed += found.filter((f) => f.kind === 'change').length;
        const refused = new Set(found.filter((f) => f.kind === 'refused').map((f) => f.row));
        await publish(t.ws, t.maud, form, null);
        const before = await rowsOf(table);
        const linesBefore = lineTable ? await rowsOf(lineTable) : [];
        if (!view.changing) return;
        const asked = { fields: view.fields, over: 'filled', subset: null, impact: view.id } as const;
        const preview = await previewBackfill(t.ws, t.maud, form, asked);
        expect(preview.looked).toBe(view.changing);
        expect(preview.records).toMatchObject({ proposed: view.changing, refused: 0 });
        const applied = await applyBackfill(t.ws, t.maud, form, preview.id);
        expect(applied.records.written).toBe(view.changing);
        expect((await draftOf(t.ws, form)).version).toBe((version ?? 0) + 1);
        // every value that was told is there, and no other value is another
        const fields = { ...draft.fields };
        const told = new Map(expected);
        const compare = (record: number, path: string, line: number | null, column: string | null, was: Row, is: Row): void => {
          if (!column) return;
          const key = `${record} ${addressOf(path, line)}`;
          const to = told.has(key) ? told.get(key) : (was[column] ?? null);
          told.delete(key);
          expect([key, is[column] ?? null]).toEqual([key, to]);
        };
        for (const is of await rowsOf(table)) {
          const was = before.find((r) => r.id === is.id)!;
          for (const [key, field] of Object.entries(fields)) compare(is.id, key, null, field.column, was, is);
        }
        const { link } = draft.lines.packets ?? { link: '' };
        for (const is of lineTable ? await rowsOf(lineTable) : []) {
          const was = linesBefore.find((r) => r.id === is.id)!;
          for (const [key, field] of Object.entries(draft.lines.packets!.fields))
            compare(is[link] as number, `packets.${key}`, is.id, field.column, was, is);
        }
        expect([...told.keys()]).toEqual([]);
        for (const row of refused) expect(before.find((r) => r.id === row)).toBeDefined();
      },
    ),
    { numRuns: 14, seed: 36 },
  );
  expect(changed).toBeGreaterThan(50);
}, 240_000);
