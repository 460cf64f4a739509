import fc from 'fast-check';
import { beforeAll, describe, expect, test } from 'vitest';
import type { Edit } from '../../core/engine/state.ts';
import type { Form } from '../../core/form/definition.ts';
import { type Rehearsal } from '../../core/form/rehearsal.ts';
import { rehearsalSchema } from '../../core/form/rehearsalSchemas.ts';
import { allRows } from '../database/rows';
import { type TestWorkspace, NOW, demoWorkspace, refusal } from '../testing/workspace';
import { bringInForm, formFile } from './formFiles';
import { draftOf, saveDraft } from './forms';
import { publish } from './publishing';
import { addRehearsal, changeRehearsal, rehearsalOf, rehearsalsOf, removeRehearsal, requireGreen, runRehearsals } from './rehearsals';

/* Rehearsals over the demo's tables: rows by name, as a person, on a record, on the draft; kept from what was tried. */

let t: TestWorkspace;
beforeAll(async () => {
  t = await demoWorkspace();
});
const rehearsal = (label: string, steps: Rehearsal['steps'], more: Partial<Rehearsal> = {}): Rehearsal =>
  rehearsalSchema.parse({ label, at: NOW, as: 'Ida Fenn', steps, ...more });
async function run(form: string, r: Rehearsal) {
  const id = await addRehearsal(t.ws, t.maud, form, r);
  const { results } = await runRehearsals(t.ws, form, { ids: [id] });
  await removeRehearsal(t.ws, form, id);
  return results[0]!;
}
async function change(form: string, to: (form: Form) => Form): Promise<void> {
  const { draft, revision } = await draftOf(t.ws, form);
  await saveDraft(t.ws, t.maud, form, to(draft), revision);
}
const tried = (edits: readonly Edit[], more: object = {}) => ({ label: 'Kept', edits, record: null, parent: null, person: t.ida.person, mode: 'edit' as const, step: null, url: {}, at: NOW, ...more }); // prettier-ignore

describe('a rehearsal over the demo', () => {
  test('a common oak, species first', async () => {
    const result = await run(
      'lot_intake',
      rehearsal('A common oak, species first', [
        { do: 'set', field: 'species', to: 'Quercus robur' },
        { expect: 'value', field: 'genus', is: 'Quercus' },
        { expect: 'value', field: 'collector', is: 'Ida Fenn' },
        { expect: 'value', field: 'collected_on', is: '2026-03-10' },
        { do: 'set', field: 'region', to: 'North Marrow' },
        { expect: 'offered', field: 'site', choice: 'Far Dunes', is: false },
        { expect: 'state', field: 'permit', state: 'shown', is: false },
        { do: 'set', field: 'purity', to: 'Some chaff' },
        { expect: 'value', field: 'purity', is: 'chaff' },
        { expect: 'state', field: 'remark', state: 'shown', is: true },
        { expect: 'saving', refused: ['Site is required.', 'Quantity, g is required.'] },
      ]),
    );
    expect(result.steps.filter((s) => !s.ok)).toEqual([]);
    expect(result.ok).toBe(true);
  });

  test('what is otherwise is told with what there is; what it cannot name, too', async () => {
    const result = await run(
      'lot_intake',
      rehearsal('Wrong', [
        { do: 'set', field: 'species', to: 'Quercus robur' },
        { expect: 'value', field: 'genus', is: 'Betula' },
        { do: 'set', field: 'site', to: 'Atlantis' },
        { expect: 'saving', refused: [] },
      ]),
    );
    expect(result.steps.map((s) => s.ok)).toEqual([true, false, false, false]);
    expect(result.steps[1]!.found).toEqual({ expect: 'value', field: 'genus', is: 'Quercus' });
    expect(result.steps[2]!.problem).toContain('Atlantis');
    expect(await run('lot_intake', rehearsal('Nobody', [], { as: 'Nobody At All' }))).toMatchObject({ ok: false, problem: expect.stringContaining('Nobody At All') }); // prettier-ignore
    expect(await run('lot_intake', rehearsal('No record', [], { record: 'MF-1' }))).toMatchObject({ ok: false, problem: expect.stringContaining('MF-1') }); // prettier-ignore
  });

  test('on a record, at a step, as whom it is: what may be filled follows', async () => {
    const lot = (await allRows(t.ws.db, await t.ws.modelTable('lots')))[0]!;
    const steps: Rehearsal['steps'] = [{ expect: 'state', field: 'quarantine_from', state: 'shown', is: true }];
    const as = (name: string) => run('lot_intake', rehearsal(name, steps, { as: name, record: String(lot.code), step: 'in quarantine' }));
    expect((await as('Nell Carr')).ok).toBe(true);
    expect((await as('Ida Fenn')).ok).toBe(false);
  });
});

test('those of the demo come out as expected', async () => {
  const { results } = await runRehearsals(t.ws, 'lot_intake', {});
  expect(results).toHaveLength(4);
  expect(results.filter((r) => !r.ok).map((r) => [r.problem, ...r.steps.filter((s) => !s.ok)])).toEqual([]);
  expect((await runRehearsals(t.ws, 'lot_intake', { version: 1 })).results.every((r) => r.ok)).toBe(true);
});

test('one that is kept from random use passes on the same draft', async () => {
  const lots = await allRows(t.ws.db, await t.ws.modelTable('lots'));
  const ids = async (table: string) => (await allRows(t.ws.db, await t.ws.modelTable(table))).map((r) => r.id);
  const pick = async (field: string, table: string) => fc.constantFrom(...(await ids(table))).map((value): Edit => ({ kind: 'set', field, value })); // prettier-ignore
  const edit = fc.oneof(
    await pick('species', 'species'),
    await pick('genus', 'genera'),
    await pick('region', 'regions'),
    await pick('site', 'sites'),
    await pick('store', 'stores'),
    await pick('collector', 'people'),
    fc
      .double({ min: -2, max: 900, noNaN: true })
      .map((v): Edit => ({ kind: 'set', field: 'quantity_g', value: Math.round(v * 100) / 100 })),
    fc.constantFrom('clean', 'chaff', 'mixed').map((value): Edit => ({ kind: 'set', field: 'purity', value })),
    fc.constantFrom('genus', 'species', 'site', 'storage_c').map((field): Edit => ({ kind: 'clear', field })),
  );
  const record = fc.option(fc.constantFrom(...lots.map((l) => l.id)), { nil: null });
  await fc.assert(
    fc.asyncProperty(fc.array(edit, { maxLength: 8 }), record, async (edits, id) => {
      const kept = await rehearsalOf(t.ws, 'lot_intake', tried(edits, { record: id }));
      const result = await run('lot_intake', rehearsalSchema.parse(JSON.parse(JSON.stringify(kept))));
      expect(result.steps.filter((s) => !s.ok).map((s) => [kept.steps[s.step], s.found, s.problem])).toEqual([]);
      expect([result.problem, result.ok]).toEqual([null, true]);
      // nothing of the database is in it but what people know
      expect(JSON.stringify(kept)).not.toContain('\uE0A7');
    }),
    { numRuns: 25, seed: 35 },
  );
}, 120_000);

test('rows that share a name are told apart by their number', async () => {
  const first = (await allRows(t.ws.db, await t.ws.modelTable('species')))[0]!;
  const [id] = (await t.ws.db('data_species').insert({ ...(await t.ws.db('data_species').where({ id: first.id }).first()), id: 99_001 })) as number[]; // prettier-ignore
  const kept = await rehearsalOf(t.ws, 'lot_intake', tried([{ kind: 'set', field: 'species', value: id! }]));
  expect(kept.steps[0]).toEqual({ do: 'set', field: 'species', to: `${String(first.name)} (row 99001)` });
  expect((await run('lot_intake', kept)).ok).toBe(true);
  const plain = rehearsal('Plain', [{ do: 'set', field: 'species', to: String(first.name) }]);
  expect((await run('lot_intake', plain)).steps[0]!.problem).toContain(String(first.name));
  await t.ws.db('data_species').where({ id }).delete();
});

test('a form may say that it is not published while one fails; it is kept, changed, removed, and goes with the form’s file', async () => {
  for (const r of await rehearsalsOf(t.ws, 'lot_intake')) await removeRehearsal(t.ws, 'lot_intake', r.id);
  const good = rehearsal('Fine', [{ expect: 'state', field: 'species', state: 'shown', is: true }]);
  const id = await addRehearsal(t.ws, t.maud, 'lot_intake', good);
  await requireGreen(t.ws, 'lot_intake');
  const bad = rehearsal('Red', [{ expect: 'state', field: 'species', state: 'shown', is: false }]);
  await changeRehearsal(t.ws, t.maud, 'lot_intake', id, bad);
  expect((await rehearsalsOf(t.ws, 'lot_intake')).map((r) => [r.rehearsal.label, r.by])).toEqual([['Red', 'Maud Alder']]);
  // it warns unless the form says more
  await requireGreen(t.ws, 'lot_intake');
  await change('lot_intake', (f) => ({ ...f, red: 'refuse' }));
  expect(await refusal(requireGreen(t.ws, 'lot_intake'))).toMatchObject({ status: 422, code: 'rehearsals', message: expect.stringContaining('“Red”') }); // prettier-ignore
  const file = await formFile(t.ws, 'lot_intake', null);
  expect(file.rehearsals).toEqual([bad]);
  const { key } = await bringInForm(t.ws, t.maud, JSON.parse(JSON.stringify(file)));
  expect((await rehearsalsOf(t.ws, key)).map((r) => r.rehearsal)).toEqual([bad]);
  await changeRehearsal(t.ws, t.maud, 'lot_intake', id, good);
  await requireGreen(t.ws, 'lot_intake');
  await removeRehearsal(t.ws, 'lot_intake', id);
  expect(await refusal(removeRehearsal(t.ws, 'lot_intake', id))).toMatchObject({ status: 404 });
  expect(await refusal(changeRehearsal(t.ws, t.maud, 'seed_request', id, good))).toMatchObject({ status: 404 });
  expect(await refusal(runRehearsals(t.ws, 'no_such_form', {}))).toMatchObject({ status: 404 });
});

test('a field that is renamed is followed: while it is a draft, and for good when it is published', async () => {
  t = await demoWorkspace();
  await change('lot_intake', (f) => JSON.parse(JSON.stringify(f).replace(/\bquantity_g\b/g, 'weight').replace('"column":"weight"', '"column":"quantity_g"')) as Form); // prettier-ignore
  const green = async () => (await runRehearsals(t.ws, 'lot_intake', {})).results.map((r) => r.ok);
  expect(await green()).toEqual([true, true, true, true]);
  const fields = async () => JSON.stringify(await rehearsalsOf(t.ws, 'lot_intake'));
  expect(await fields()).toContain('quantity_g');
  await publish(t.ws, t.maud, 'lot_intake', null);
  expect(await fields()).not.toContain('quantity_g');
  expect(await green()).toEqual([true, true, true, true]);
});
