import { beforeEach, describe, expect, test } from 'vitest';
import { compileForm } from '../../core/engine/compile.ts';
import { renameField, withModelRenamed } from '../../core/engine/rename.ts';
import { noteText } from '../../core/model/noted.ts';
import { addField, changeField } from '../../core/form/edit.ts';
import type { Plan } from '../../core/engine/plan.ts';
import { insertVersion } from '../database/forms';
import { NOW, type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { definitionsInUse, draftOf, publishedForm, saveDraft, versionsWithForms } from './forms';
import { publish } from './publishing';
import { renameColumn, renameTable } from './renaming';
import { saveSubsets } from './structure';
import { notedOf, writeOriginTexts } from '../database/origins';

let t: TestWorkspace;
beforeEach(async () => {
  t = await demoWorkspace();
});
const compiled = async (key: string): Promise<Plan> =>
  compileForm((await draftOf(t.ws, key)).draft, await t.ws.tables(), await t.ws.lists(), await t.ws.feeds());
/** What a form does, told without names: which cell reads which, and what each formula reads. */
const workings = (plan: Plan): unknown => ({
  dependents: plan.dependents,
  across: plan.across,
  drivers: plan.drivers,
  picks: plan.picks.length,
  slots: plan.written.map((w) => [w.part, w.formula.slots, w.formula.lists, w.formula.items]),
});
const errors = (plan: Plan): string[] => plan.problems.filter((p) => p.severity === 'error').map((p) => p.message);

describe('another name for a field', () => {
  test('of any form of the demo leaves it working as before; and back again it is the same form', async () => {
    for (const key of ['lot_intake', 'germination_test', 'seed_request', 'bench_task']) {
      const plan = await compiled(key);
      const [tables, lists, feeds] = [await t.ws.tables(), await t.ws.lists(), await t.ws.feeds()];
      for (const path of [...plan.slots.keys(), ...plan.lines.map((l) => l.key)]) {
        const own = path.split('.').at(-1) ?? '';
        const to = `renamed_${own}`.slice(0, 60);
        const form = renameField(plan, path, to);
        expect(JSON.stringify(form), `${key} ${path}`).not.toMatch(new RegExp(`"field":"${own}"`));
        const after = compileForm(form, tables, lists, feeds);
        expect(errors(after), `${key} ${path}`).toEqual(errors(plan));
        expect(workings(after), `${key} ${path}`).toEqual(workings(plan));
        const back = path.includes('.') ? `${path.split('.')[0]}.${to}` : to;
        expect(renameField(after, back, own)).toEqual(plan.form);
      }
    }
  });
  test('that is taken, reserved or no name is refused; the same name changes nothing', async () => {
    const plan = await compiled('seed_request');
    const [lines] = plan.lines;
    expect(() => renameField(plan, 'partner', lines!.key)).toThrow(/already/);
    expect(() => renameField(plan, `${lines!.key}.packets`, 'price')).toThrow(/already/);
    // the price of a packet follows from the request: a field of lines of that name would hide it
    const outer = [...plan.slots.keys()].find((p) => !p.includes('.') && plan.written.some((w) => w.path.startsWith(`${lines!.key}.`) && w.formula.slots.includes(plan.slots.get(p)!))); // prettier-ignore
    expect(() => renameField(plan, `${lines!.key}.packets`, outer!)).toThrow(/would come to mean another field/);
    expect(() => renameField(plan, 'partner', 'choice')).toThrow(/word of the formula language/);
    expect(() => renameField(plan, 'partner', 'A b')).toThrow(/cannot be a name/);
    expect(renameField(plan, 'partner', 'partner')).toEqual(plan.form);
  });
  test('goes into every hole of a text, and not into texts that only look alike', async () => {
    const plan = await compiled('lot_intake');
    const [section] = plan.form.pages[0]!.sections;
    const { form: added, key } = addField(plan.form, section!.id, 'Told', 'text');
    const text = 'TEMPLATE("quantity_g {quantity_g} of ""quantity_g"" {quantity_g, number} quantity_g") & "quantity_g"';
    const form = changeField(added, key, { column: null, value: { kind: 'calculation', formula: text, always: false } });
    const fresh = compileForm(form, await t.ws.tables(), await t.ws.lists(), await t.ws.feeds());
    expect(renameField(fresh, 'quantity_g', 'weight').fields.told?.value?.formula).toBe(
      'TEMPLATE("quantity_g {weight} of ""quantity_g"" {weight, number} quantity_g") & "quantity_g"',
    );
  });
  test('is published with what was noted of its values', async () => {
    const { draft, revision } = await draftOf(t.ws, 'lot_intake');
    const rows = (await t.ws.db('data_lots').where({ _form: 'lot_intake' }).select('id')) as { id: number }[];
    const ids = rows.map((r) => r.id);
    const before = await notedOf(t.ws.db, 'lots', ids);
    expect([...before.values()].some((o) => 'quantity_g' in o.origins)).toBe(true);
    const renamed = renameField(await compiled('lot_intake'), 'quantity_g', 'weight');
    await saveDraft(t.ws, t.maud, 'lot_intake', renamed, revision);
    await publish(t.ws, t.maud, 'lot_intake', revision + 1);
    const after = await notedOf(t.ws.db, 'lots', ids);
    for (const [id, { origins }] of before) {
      const { quantity_g: _, ...rest } = origins;
      expect(after.get(id)?.origins).toEqual({ ...rest, ...(origins.quantity_g ? { weight: origins.quantity_g } : {}) });
    }
    expect(draft.fields.quantity_g?.column).toBe(renamed.fields.weight?.column);
  });
  test('of a line goes with what was noted of its lines, now and by versions before', async () => {
    const { revision } = await draftOf(t.ws, 'seed_request');
    const requests = (await t.ws.db('data_requests').orderBy('id').limit(2).select('id')) as { id: number }[];
    const [now, before] = requests.map((r) => r.id) as [number, number];
    await t.ws.db('data_requests').whereIn('id', [now, before]).update({ _form: 'seed_request' });
    const typed = { kind: 'typed' } as const;
    await writeOriginTexts(t.ws.db, 'requests', [
      [now, noteText({ partner: typed }, [{ lines: [7, 8], origins: { 'packets.packets': typed } }])],
      [before, JSON.stringify({ partner: typed, 'packets.packets#9': typed, 'packets.price#9': { kind: 'prefill' } })],
    ]);
    await saveDraft(t.ws, t.maud, 'seed_request', renameField(await compiled('seed_request'), 'packets.packets', 'bags'), revision);
    await publish(t.ws, t.maud, 'seed_request', revision + 1);
    const noted = await notedOf(t.ws.db, 'requests', [now, before]);
    expect(noted.get(now)).toEqual({ origins: { partner: typed }, lines: new Map([7, 8].map((line) => [line, { 'packets.bags': typed }])) }); // prettier-ignore
    expect(noted.get(before)).toEqual({ origins: { partner: typed }, lines: new Map([[9, { 'packets.bags': typed, 'packets.price': { kind: 'prefill' } }]]) }); // prettier-ignore
  });
});

describe('another name for a column or a table', () => {
  test('of the demo: every form and every version goes on as before', async () => {
    const [tables, lists, feeds] = [await t.ws.tables(), await t.ws.lists(), await t.ws.feeds()];
    for (const { form } of await definitionsInUse(t.ws)) {
      const plan = compileForm(form, tables, lists, feeds);
      for (const table of tables.values())
        for (const { key: from } of table.columns) {
          // formulas that nobody wrote ask for these by name
          if (table.key === 'people' && from === 'team') continue;
          const to = `renamed_${from}`.slice(0, 60);
          const fresh = withModelRenamed(plan, { kind: 'column', table: table.key, from, to });
          const columns = table.columns.map((c) => (c.key === from ? { ...c, key: to } : c));
          const shown = table.shown === from ? to : table.shown;
          const subsets = table.subsets?.map((s) => ({ ...s, condition: s.condition.replaceAll(`.${from}`, `.${to}`) }));
          const after = compileForm(fresh, new Map(tables).set(table.key, { ...table, columns, shown, subsets }), lists, feeds);
          expect(errors(after), `${form.key} ${table.key}.${from}`).toEqual(errors(plan));
          expect(workings(after), `${form.key} ${table.key}.${from}`).toEqual(workings(plan));
        }
    }
  });

  test('a column: in SQL with its folded text and indexes, in subsets, drafts, versions and history; and back again', async () => {
    await saveSubsets(t.ws, 'species', [{ key: 'hardy', label: 'Hardy', condition: 'choice.storage_c < 0 AND NOT ISBLANK(choice.name)' }]);
    const version = (await publishedForm(t.ws, 'lot_intake')).form;
    const species = (await t.ws.modelTable('species')).columns;
    const before = (await t.ws.db('data_species').orderBy('id')) as { name: string; name__fold: string }[];
    expect(await renameColumn(t.ws, t.maud, 'species', 'name', 'latin')).toBeGreaterThan(0);
    const table = await t.ws.modelTable('species');
    expect(table.columns.map((c) => c.key)).toEqual(species.map((c) => (c.key === 'name' ? 'latin' : c.key)));
    expect(table.shown).toBe('latin');
    expect(table.subsets?.[0]?.condition).toBe('choice.storage_c < 0 AND NOT ISBLANK(choice.latin)');
    const after = (await t.ws.db('data_species').orderBy('id')) as { latin: string; latin__fold: string }[];
    expect(after.map((r) => [r.latin, r.latin__fold])).toEqual(before.map((r) => [r.name, r.name__fold]));
    const renamed = await publishedForm(t.ws, 'lot_intake');
    expect(errors(renamed.plan)).toEqual([]);
    expect(JSON.stringify(renamed.form.fields.species?.source)).toContain('"show":"latin"');
    expect(errors(await compiled('lot_intake'))).toEqual([]);
    await renameColumn(t.ws, t.maud, 'species', 'latin', 'name');
    expect((await publishedForm(t.ws, 'lot_intake')).form).toEqual(version);
    expect(await t.ws.db('data_species').orderBy('id')).toEqual(before);
  });

  test('what happened to a record is still told by the name that the column has', async () => {
    const [line] = (await t.ws.db('history').where({ table_key: 'lots' }).whereRaw(`instr(changes, '"quantity_g"') > 0`).limit(1)) as { row_id: number; changes: string }[]; // prettier-ignore
    const was = (JSON.parse(line!.changes) as Record<string, unknown>).quantity_g;
    await renameColumn(t.ws, t.maud, 'lots', 'quantity_g', 'grams');
    const lines = (await t.ws.db('history').where({ table_key: 'lots', row_id: line!.row_id })) as { changes: string }[];
    const told = lines.map((l) => JSON.parse(l.changes) as Record<string, unknown>);
    expect(told.some((c) => JSON.stringify(c.grams) === JSON.stringify(was))).toBe(true);
    expect(told.every((c) => !('quantity_g' in c))).toBe(true);
  });

  test('a table: links of others lead to it, its records keep what was noted; and back again', async () => {
    const origins = await notedOf(t.ws.db, 'lots', [1, 2, 3]);
    const inUse = async () => (await definitionsInUse(t.ws)).map(({ form, which }) => ({ form, which }));
    const forms = await inUse();
    await renameTable(t.ws, t.maud, 'species', 'taxa');
    await renameTable(t.ws, t.maud, 'lots', 'accessions');
    const tables = await t.ws.tables();
    expect(tables.has('species')).toBe(false);
    expect(tables.get('accessions')?.columns.find((c) => c.key === 'species')?.target).toBe('taxa');
    expect((await publishedForm(t.ws, 'lot_intake')).form.table).toBe('accessions');
    for (const { form } of await definitionsInUse(t.ws)) expect(errors(compileForm(form, tables, await t.ws.lists(), await t.ws.feeds()))).toEqual([]); // prettier-ignore
    expect(await notedOf(t.ws.db, 'accessions', [1, 2, 3])).toEqual(origins);
    // a link to a row that is not there is refused still
    await expect(t.ws.db('data_accessions').insert({ species: 999_999, _created_at: 'x', _changed_at: 'x' })).rejects.toThrow(
      /foreign key/i,
    );
    await renameTable(t.ws, t.maud, 'taxa', 'species');
    await renameTable(t.ws, t.maud, 'accessions', 'lots');
    expect(await inUse()).toEqual(forms);
  });

  test('in each of many versions, however its letters are written there', async () => {
    const { draft } = await draftOf(t.ws, 'lot_intake');
    // a table that nothing else in the form names
    const named = JSON.stringify(draft);
    const table = (await t.ws.modelTables()).find((m) => !named.includes(m.key) && m.key !== 'people' && m.shown !== null)!;
    const written = `PICK("${table.key.replace(/^./, (c) => c.toUpperCase())}", choice.id = 1).${table.shown}`;
    const added = addField(draft, draft.pages[0]!.sections[0]!.id, 'First known', 'text');
    const key = Object.keys(added.form.fields).find((k) => !(k in draft.fields))!;
    const form = changeField(added.form, key, { column: null, value: { kind: 'calculation', formula: written, always: false } });
    const shouted = JSON.stringify(form).replace('choice.id = 1', 'choice.id = 2');
    for (const other of ['lot_intake', 'bench_task'])
      for (let number = 2; number <= 46; number++)
        await insertVersion(t.ws.db, { form: other, number, definition: JSON.stringify({ ...JSON.parse(shouted), label: `Version ${number}` }), note: '' }, { at: NOW, account: null });
    const told = await versionsWithForms(t.ws, 'lot_intake', 30);
    expect(told.map((v) => v.number)).toEqual(Array.from({ length: 30 }, (_, i) => 46 - i));
    expect(told.map((v) => v.form.label)).toEqual(told.map((v) => `Version ${v.number}`));
    expect(await versionsWithForms(t.ws, 'lot_intake', 100)).toHaveLength(46);
    await renameTable(t.ws, t.maud, table.key, 'another');
    const after = await versionsWithForms(t.ws, 'lot_intake', 100);
    expect(after.map((v) => v.number)).toEqual(Array.from({ length: 46 }, (_, i) => 46 - i));
    for (const { form: was } of after.slice(0, -1)) expect(was.fields[key]?.value).toMatchObject({ formula: `PICK("another", choice.id = 2).${table.shown}` });
    const texts = (await t.ws.db('form_versions').where({ form_key: 'bench_task' }).where('number', '>', 1)) as { definition: string }[];
    expect(texts).toHaveLength(45);
    for (const { definition } of texts) expect(definition).toContain('PICK(\\"another\\", choice.id = 2)');
  }); // prettier-ignore

  test('names that are taken or no names, and what the application itself reads, are refused', async () => {
    expect(await refusal(renameColumn(t.ws, t.maud, 'species', 'name', 'genus'))).toMatchObject({ status: 422 });
    expect(await refusal(renameColumn(t.ws, t.maud, 'species', 'name', 'Not a name'))).toMatchObject({ status: 422 });
    expect(await refusal(renameColumn(t.ws, t.maud, 'species', 'nothing', 'thing'))).toMatchObject({ status: 404 });
    expect(await refusal(renameColumn(t.ws, t.maud, 'people', 'email', 'mail'))).toMatchObject({ status: 409 });
    expect(await refusal(renameTable(t.ws, t.maud, 'people', 'staff'))).toMatchObject({ status: 409 });
    expect(await refusal(renameTable(t.ws, t.maud, 'species', 'lots'))).toMatchObject({ status: 422 });
    expect(await renameTable(t.ws, t.maud, 'species', 'species')).toBe(0);
  });
});
