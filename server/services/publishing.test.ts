import { beforeEach, describe, expect, test } from 'vitest';
import type { Form } from '../../core/form/definition.ts';
import { renameField } from '../../core/engine/rename.ts';
import { lacking } from '../../core/exchange/formFile.ts';
import { rowById } from '../database/rows';
import { setFormRights } from '../database/forms';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { saveEntry } from './entries';
import { openForEntry } from './opening';
import { bringInForm, formFile } from './formFiles';
import { copyForm, draftOf, publishedForm, saveDraft, versionsWithForms } from './forms';
import { hear, versionsFor } from './news';
import { goBack, publish } from './publishing';
import type { WorkspaceEvent } from './workspace';

/* Versions: published with a note, gone back to, copied, out and in as files, told to open windows, and saved over. */

let t: TestWorkspace;
beforeEach(async () => {
  t = await demoWorkspace();
});
async function change(form: string, to: (form: Form) => Form): Promise<void> {
  const { draft, revision } = await draftOf(t.ws, form);
  await saveDraft(t.ws, t.maud, form, to(draft), revision);
}
const labelled = (key: string, label: string) => (form: Form): Form => ({ ...form, fields: { ...form.fields, [key]: { ...form.fields[key]!, label } } }); // prettier-ignore

describe('going back to a version', () => {
  test('publishes what it was as the newest; a draft with nothing unpublished becomes it too', async () => {
    const { form: first } = await publishedForm(t.ws, 'lot_intake');
    await change('lot_intake', labelled('remark', 'What else'));
    expect(await publish(t.ws, t.maud, 'lot_intake', null, 'Asked for by the Lab')).toBe(2);
    expect(await goBack(t.ws, t.maud, 'lot_intake', 1)).toEqual({ version: 3, draftStays: false });
    const now = await draftOf(t.ws, 'lot_intake');
    expect([now.published, now.draft]).toEqual([first, first]);
    const notes = (await versionsWithForms(t.ws, 'lot_intake', 10)).map((v) => v.note);
    expect(notes).toEqual(['Back to version 1.', 'Asked for by the Lab', '']);
    expect(await refusal(goBack(t.ws, t.maud, 'lot_intake', 3))).toMatchObject({ code: 'nothingToPublish' });
    expect(await refusal(goBack(t.ws, t.maud, 'lot_intake', 9))).toMatchObject({ status: 404 });
  });

  test('leaves a draft alone that holds what is not published', async () => {
    await change('lot_intake', labelled('remark', 'What else'));
    await publish(t.ws, t.maud, 'lot_intake', null);
    await change('lot_intake', labelled('remark', 'And more'));
    const { draft } = await draftOf(t.ws, 'lot_intake');
    expect(await goBack(t.ws, t.maud, 'lot_intake', 1)).toEqual({ version: 3, draftStays: true });
    expect((await draftOf(t.ws, 'lot_intake')).draft).toEqual(draft);
  });

  test('is refused with the reasons when that version no longer fits the tables', async () => {
    await change('lot_intake', (f) => {
      const { habitat: _, ...fields } = f.fields;
      return { ...f, fields, pages: f.pages.map((p) => ({ ...p, sections: p.sections.map((s) => ({ ...s, fields: s.fields.filter((k) => k !== 'habitat') })) })) };
    }); // prettier-ignore
    await publish(t.ws, t.maud, 'lot_intake', null);
    await t.ws.db('model_columns').where({ table_key: 'plots', key: 'habitat' }).delete();
    t.ws.modelChanged();
    const { details, status } = await refusal(goBack(t.ws, t.maud, 'lot_intake', 1));
    expect(status).toBe(422);
    expect(JSON.stringify(details.problems)).toContain('habitat');
    expect((await draftOf(t.ws, 'lot_intake')).version).toBe(2);
  });
});

test('of two who publish at the same time one does, and the other is told', async () => {
  await change('lot_intake', labelled('remark', 'What else'));
  const both = await Promise.allSettled([publish(t.ws, t.maud, 'lot_intake', null), publish(t.ws, t.maud, 'lot_intake', null)]);
  expect(both.filter((b) => b.status === 'fulfilled').map((b) => b.value)).toEqual([2]);
  expect(both.find((b) => b.status === 'rejected')?.reason).toMatchObject({ status: 409, code: 'changedMeanwhile' });
});

describe('an entry that was typed on a version before', () => {
  const save = async (edits: object[]) => {
    const { version } = await publishedForm(t.ws, 'bench_task');
    return (from: number) => saveEntry(t.ws, t.ida, 'bench_task', null, { version: from, edits: edits as never, revision: null, request: `typed on ${from} of ${version}` }); // prettier-ignore
  };
  test('is saved under the names fields have now, and what is no longer there is named', async () => {
    const before = (await publishedForm(t.ws, 'bench_task')).version;
    await change('bench_task', (f) => {
      const { task, rain: _, ...others } = f.fields;
      const renamed = JSON.parse(JSON.stringify({ ...f, fields: {} }).replaceAll('"task"', '"work"')) as Form;
      const formulas = JSON.parse(JSON.stringify(others).replace(/\btask\b(?!_)/g, 'work')) as Form['fields'];
      const fields = { work: { ...task!, column: 'task' }, ...formulas };
      return { ...renamed, fields, rules: [], pages: renamed.pages.map((p) => ({ ...p, sections: p.sections.map((s) => ({ ...s, fields: s.fields.filter((k) => k !== 'rain') })) })) };
    }); // prettier-ignore
    await publish(t.ws, t.maud, 'bench_task', null);
    const saved = await (await save([{ kind: 'set', field: 'task', value: 'Sow the fen sedge' }, { kind: 'set', field: 'rain', value: 3 }]))(before); // prettier-ignore
    expect(saved).toMatchObject({ lost: [expect.stringMatching(/rain/i)], version: before + 1 });
    const row = await rowById(t.ws.db, await t.ws.modelTable((await draftOf(t.ws, 'bench_task')).draft.table), saved.id);
    expect(row!.row.task).toBe('Sow the fen sedge');
  });
  test('on a version nobody knows is judged as it is', async () => {
    const saved = await (await save([{ kind: 'set', field: 'task', value: 'Look at the trays' }]))(77);
    expect(saved.lost).toBeUndefined();
  });
});

describe('a link made before a field was renamed', () => {
  test('fills the field in under its name now; what the form never had is not taken for one', async () => {
    const { plan } = await publishedForm(t.ws, 'bench_task');
    const open = (url: Record<string, string>) => openForEntry(t.ws, t.ida, 'bench_task', null, { parent: null, url });
    expect((await open({ bench: 'B4', nothing: '1' })).renamed).toEqual({});
    await change('bench_task', () => renameField(plan, 'bench', 'bench_no'));
    await publish(t.ws, t.maud, 'bench_task', null);
    await change('bench_task', (f) => ({ ...f, label: 'Bench work' }));
    await publish(t.ws, t.maud, 'bench_task', null);
    expect((await open({ bench: 'B4', nothing: '1', __proto__x: '2' })).renamed).toEqual({ bench: 'bench_no' });
    // what is given by its name of now is not given twice
    expect((await open({ bench: 'B4', bench_no: 'B5' })).renamed).toEqual({});
  });
});

describe('a form as a file', () => {
  test('comes in again under a free name, with what it is', async () => {
    const file = await formFile(t.ws, 'seed_request', null);
    expect(file.needs.tables.map((x) => x.key)).toContain('partners');
    expect(file.needs.lists.map((x) => x.key)).toContain('purposes');
    const { key, notes } = await bringInForm(t.ws, t.maud, JSON.parse(JSON.stringify(file)));
    expect(key).not.toBe('seed_request');
    expect(notes).toEqual([expect.stringContaining('already')]);
    expect((await draftOf(t.ws, key)).draft).toEqual({ ...(await draftOf(t.ws, 'seed_request')).draft, key });
    expect(await publish(t.ws, t.maud, key, null)).toBe(1);
  });

  test('says all that is missing here, and makes nothing', async () => {
    const file = await formFile(t.ws, 'germination_test', 1);
    const needs = {
      ...file.needs,
      lists: [{ key: 'colours', label: 'Colours' }],
      feeds: [{ key: 'tides', label: 'Tides', params: [], attributes: [] }],
    };
    needs.tables = [
      ...needs.tables,
      { key: 'moons', label: 'Moons', columns: [{ key: 'phase', label: 'Phase', type: 'text', target: null }] },
    ];
    needs.tables[0]!.columns.push({ key: 'no_such', label: 'No such', type: 'text', target: null });
    const before = (await t.ws.db('forms')).length;
    const { status, code, details } = await refusal(bringInForm(t.ws, t.maud, { ...file, needs }));
    expect([status, code]).toEqual([422, 'needs']);
    expect(details.missing).toEqual([
      expect.stringContaining('no column “no_such”'),
      expect.stringContaining('no table “moons”'),
      expect.stringContaining('no option list “colours”'),
      expect.stringContaining('no feed “tides”'),
    ]);
    expect((await t.ws.db('forms')).length).toBe(before);
    const elsewhere = { ...file, needs: { tables: [], lists: [], feeds: [] }, form: { ...file.form, table: 'not_here' } };
    expect((await refusal(bringInForm(t.ws, t.maud, elsewhere))).details.missing).toEqual([expect.stringContaining('not_here')]);
    for (const none of [null, 7, 'x', {}, { brisk: 'form' }, { ...file, format: 2 }, { ...file, form: {} }])
      expect(await refusal(bringInForm(t.ws, t.maud, none))).toMatchObject({ status: 422, code: 'file' });
  });

  test('a column of another type, a link to elsewhere and a feed that is asked otherwise are missing too', async () => {
    const file = await formFile(t.ws, 'lot_intake', null);
    const has = { tables: [...(await t.ws.tables()).values()], lists: [], feeds: [...(await t.ws.feeds()).values()] };
    const other = has.tables.map((table) =>
      table.key === 'species' ? { ...table, columns: table.columns.map((c) => (c.key === 'genus' ? { ...c, target: 'sites' } : c.key === 'storage_c' ? { ...c, type: 'text' as const } : c)) } : table,
    ); // prettier-ignore
    expect(lacking(file.needs, { ...has, tables: other }).join('\n')).toMatch(/species\.genus.*sites[\s\S]*species\.storage_c.*text/);
    expect(lacking(file.needs, { ...has, feeds: has.feeds.map((f) => ({ ...f, attributes: [] })) }).join('\n')).toMatch(/gives no/);
  });
});

test('a copy has the draft and the rights of its form, and no versions', async () => {
  const rights = JSON.stringify({ see: [{ roles: ['reviewer'], teams: [] }] });
  await setFormRights(t.ws.db, 'lot_intake', rights);
  const key = await copyForm(t.ws, t.maud, 'lot_intake', 'Lot intake, short');
  const { draft, version } = await draftOf(t.ws, key);
  expect([draft.label, version]).toEqual(['Lot intake, short', null]);
  const stored = (await t.ws.db('forms').where({ key }).first()) as { rights: string };
  expect(stored.rights).toBe(rights);
});

test('open windows hear of what is published where they have rights, and of nothing else', async () => {
  const heard: WorkspaceEvent[] = [];
  const end = hear(t.ws, t.ida, (e) => heard.push(e));
  expect(await versionsFor(t.ws, t.ida)).toHaveProperty('lot_intake', 1);
  await change('lot_intake', labelled('remark', 'What else'));
  await publish(t.ws, t.maud, 'lot_intake', null);
  await expect.poll(() => heard).toEqual([{ kind: 'published', form: 'lot_intake', version: 2 }]);
  const none = { see: { roles: ['administrator'], teams: [] } };
  await setFormRights(t.ws.db, 'lot_intake', JSON.stringify(Object.fromEntries(['enter', 'see', 'edit', 'delete', 'export'].map((r) => [r, none.see])))); // prettier-ignore
  expect(await versionsFor(t.ws, t.ida)).not.toHaveProperty('lot_intake');
  await goBack(t.ws, t.maud, 'lot_intake', 1);
  await new Promise((resolve) => setTimeout(resolve, 50));
  expect(heard).toHaveLength(1);
  end();
  const ends = Array.from({ length: 30 }, () => hear(t.ws, t.ida, () => undefined));
  expect(() => hear(t.ws, t.ida, () => undefined)).toThrow(/Too many windows/);
  ends.forEach((stop) => stop());
  hear(t.ws, t.ida, () => undefined)();
});
