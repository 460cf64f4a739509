import { mkdtempSync, readdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Unzipped, strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { beforeAll, describe, expect, test } from 'vitest';
import { PLAIN_VIEW } from '../../core/choices/views.ts';
import { holdsFiles } from '../../core/values/kinds/index.ts';
import { columnSchema } from '../../core/model/schemas.ts';
import { createTable } from '../database/model';
import { allRows, insertRow, restoreRows, setColumn, updateRow } from '../database/rows';
import { NOW, type TestWorkspace, bareWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { bringInWorkspace } from './archiveIn';
import { workspaceArchive } from './archiveOut';
import { draftOf, publishedOrNull, saveDraft } from './forms';
import { UNWATCHED } from './jobs';
import { rehearsalsOf, runRehearsals } from './rehearsals';
import { workspaceSettings } from './settings';
import { keepView, viewsOf } from './views';
import type { Workspace } from './workspace';

/* A whole workspace out as an archive, and into another that is empty. */

const folder = mkdtempSync(join(tmpdir(), 'brisk-acorn-archive-'));
let files = 0;
function fileOf(bytes: Uint8Array): string {
  const path = join(folder, `${++files}.zip`);
  writeFileSync(path, bytes);
  return path;
}
async function archived(ws: Workspace): Promise<Uint8Array> {
  const chunks: Uint8Array[] = [];
  for await (const chunk of workspaceArchive(ws)) chunks.push(chunk);
  return Buffer.concat(chunks);
}
let demo: TestWorkspace;
let archive: Uint8Array;
beforeAll(async () => {
  demo = await demoWorkspace();
  const { draft, revision } = await draftOf(demo.ws, 'bench_task');
  await saveDraft(demo.ws, demo.maud, 'bench_task', { ...draft, label: 'Bench task, ahead' }, revision);
  const view = { ...PLAIN_VIEW, where: 'choice.quantity_g > 20', group: { column: 'status', by: 'value' as const } };
  await keepView(demo.ws, demo.maud, 'lot_intake', { label: 'Heavy lots', shared: true, usual: true, view });
  await keepView(demo.ws, demo.maud, 'lot_intake', { label: 'Only mine', shared: false, usual: false, view });
  archive = await archived(demo.ws);
});
const changed = (change: (entries: Unzipped) => void): string => {
  const entries = unzipSync(archive);
  change(entries);
  return fileOf(zipSync(entries));
};
const json = (entries: Unzipped, name: string) => JSON.parse(strFromU8(entries[name]!)) as Record<string, unknown>;

describe('an archive', () => {
  test('is open files: a data package with the lists, feeds, forms and rehearsals beside it, and no secret', () => {
    const entries = unzipSync(archive);
    const names = Object.keys(entries);
    expect(names).toEqual(expect.arrayContaining(['workspace.json', 'datapackage.json', 'species.csv', 'lots.csv', 'forms/lot_intake.json', 'drafts/bench_task.json'])); // prettier-ignore
    expect(names.filter((n) => n.startsWith('drafts/'))).toEqual(['drafts/bench_task.json']);
    expect(json(entries, 'forms/lot_intake.json').rehearsals).toHaveLength(4);
    expect(JSON.stringify(names)).not.toMatch(/account|session|secret/);
    expect(names.filter((n) => n.endsWith('.json')).map((n) => strFromU8(entries[n]!)).join('')).not.toMatch(/password|hash of/); // prettier-ignore
  });

  test('comes into an empty workspace as it was: rows with their numbers, lists, feeds, forms, drafts; its rehearsals pass', async () => {
    const to = await bareWorkspace();
    const stamp = { at: NOW, account: null, form: null, formVersion: null };
    const own = await to.ws.modelTable('people');
    // one is found by name alone, one by the e-mail address
    await updateRow(to.ws.db, own, to.maud.person, 1, { name: 'Maud Alder', email: 'else@marrowfen.example' }, stamp);
    await updateRow(to.ws.db, own, to.ida.person, 1, { name: 'Ida Fenn' }, stamp);
    const done = await bringInWorkspace(to.ws, to.maud, fileOf(archive), UNWATCHED);
    expect(done.notes).toEqual(['3 values named files, which do not travel in an archive: they are empty.']);
    expect(done.forms).toBeGreaterThan(2);
    const people = new Map((await allRows(to.ws.db, await to.ws.modelTable('people'))).map((r) => [r.id, r.name]));
    const before = new Map((await allRows(demo.ws.db, await demo.ws.modelTable('people'))).map((r) => [r.id, r.name]));
    // whoever was here by the same name is one person still
    for (const name of ['Maud Alder', 'Ida Fenn']) expect([...people.values()].filter((n) => n === name)).toHaveLength(1);
    for (const name of before.values()) expect([...people.values()]).toContain(name);
    for (const table of await demo.ws.modelTables()) {
      if (table.key === 'people') continue;
      const own = await to.ws.modelTable(table.key);
      expect(own).toMatchObject({ label: table.label, shown: table.shown, columns: table.columns });
      // people by their names, and no files
      const named = (rows: Awaited<ReturnType<typeof allRows>>, who: ReadonlyMap<number, unknown>) =>
        rows.map((r) => {
          const told: Record<string, unknown> = { ...r };
          for (const c of table.columns) {
            if (c.type === 'person') told[c.key] = who.get(Number(r[c.key])) ?? null;
            if (holdsFiles(c.type)) told[c.key] = null;
          }
          return told;
        });
      expect(named(await allRows(to.ws.db, own), people)).toEqual(named(await allRows(demo.ws.db, table), before));
    }
    expect([...(await to.ws.lists()).values()]).toEqual([...(await demo.ws.lists()).values()]);
    expect([...(await to.ws.feeds()).values()]).toEqual([...(await demo.ws.feeds()).values()]);
    expect(await workspaceSettings(to.ws)).toEqual(await workspaceSettings(demo.ws));
    for (const key of ['lot_intake', 'bench_task', 'seed_request']) {
      expect((await publishedOrNull(to.ws, key))?.form).toEqual((await publishedOrNull(demo.ws, key))?.form);
      expect((await draftOf(to.ws, key)).draft).toEqual((await draftOf(demo.ws, key)).draft);
    }
    expect((await rehearsalsOf(to.ws, 'lot_intake')).map((r) => r.rehearsal.label)).toHaveLength(4);
    const { results } = await runRehearsals(to.ws, 'lot_intake', {});
    expect(results.map((r) => [r.ok, r.problem])).toEqual([[true, null], [true, null], [true, null], [true, null]]); // prettier-ignore
    const views = (await viewsOf(to.ws, to.maud, 'lot_intake')).views;
    expect(views).toMatchObject([{ label: 'Heavy lots', shared: true, usual: true, view: { where: 'choice.quantity_g > 20' } }]);
    // and out again: the same tables
    const again = unzipSync(await archived(to.ws));
    const first = unzipSync(archive);
    expect(strFromU8(again['species.csv']!)).toBe(strFromU8(first['species.csv']!));
    expect(json(again, 'workspace.json').forms).toEqual(json(first, 'workspace.json').forms);
  });

  test('of more rows and people than one statement or one transaction takes comes in whole, with links among themselves', async () => {
    const [from, to] = [await bareWorkspace(), await bareWorkspace()];
    const columns = [
      columnSchema.parse({ key: 'n', label: 'N', type: 'number' }),
      columnSchema.parse({ key: 'earlier', label: 'Earlier', type: 'link', target: 'steps' }),
      columnSchema.parse({ key: 'who', label: 'Who', type: 'person' }),
    ];
    await from.ws.db.transaction((db) => createTable(db, { key: 'steps', label: 'Steps', shown: 'n', columns }));
    from.ws.modelChanged();
    const stamp = { at: NOW, account: null, form: null, formVersion: null };
    const people = await from.ws.modelTable('people');
    const added: number[] = [];
    for (let i = 0; i < 700; i++) added.push(await insertRow(from.ws.db, people, { name: `Person ${i}`, email: `p${i}@fen.example` }, stamp));
    const rows = Array.from({ length: 1500 }, (_, i) => ({ id: 2 * i + 1, n: i / 8, earlier: i % 3 ? 2 * ((i * 11) % 1500) + 1 : null, who: added[i % 700]! }));
    await restoreRows(from.ws.db, await from.ws.modelTable('steps'), rows.map((r) => ({ ...r, earlier: null })), stamp);
    // some lead to rows that come later
    await setColumn(from.ws.db, 'steps', columns[1]!, rows.map(({ id, earlier }) => ({ id, value: earlier })), 'silently');
    // half of them are here already, by their addresses, in another order and under other numbers
    const own = await to.ws.modelTable('people');
    for (let i = 699; i >= 0; i -= 2) await insertRow(to.ws.db, own, { name: `Somebody ${i}`, email: `P${i}@fen.example` }, stamp);
    const held = await allRows(to.ws.db, own);
    const path = fileOf(await archived(from.ws));
    const done = await bringInWorkspace(to.ws, to.maud, path, UNWATCHED);
    expect(done).toMatchObject({ tables: 1, notes: [] });
    const here = await allRows(to.ws.db, own);
    expect(here).toHaveLength(held.length + 350);
    const address = new Map(here.map((r) => [r.id, String(r.email).toLowerCase()]));
    const came = await allRows(to.ws.db, await to.ws.modelTable('steps'));
    expect(came.map((r) => ({ ...r, who: address.get(Number(r.who)) }))).toEqual(rows.map((r) => ({ ...r, who: `p${added.indexOf(r.who)}@fen.example` })));
    // nothing of what was unpacked is left, and the next row has a number of its own
    expect(readdirSync(folder).filter((f) => join(folder, f).startsWith(`${path}.`))).toEqual([]);
    expect(await insertRow(to.ws.db, await to.ws.modelTable('steps'), { n: 1 }, stamp)).toBeGreaterThan(2999);
  }); // prettier-ignore

  test('is refused where something here is called so, and touches nothing', async () => {
    const rows = await demo.ws.rowCount('species');
    const refused = await refusal(bringInWorkspace(demo.ws, demo.maud, fileOf(archive), UNWATCHED));
    expect(refused).toMatchObject({ status: 422, code: 'taken' });
    expect(refused.message).toContain('This workspace has already the table “');
    expect(await demo.ws.rowCount('species')).toBe(rows);
  });
});

describe('an archive that is broken brings nothing', () => {
  const cases: Record<string, [(e: Unzipped) => void, RegExp]> = {
    'no workspace': [(e) => void delete e['workspace.json'], /no workspace\.json/],
    'a form that is missing': [(e) => void delete e['forms/lot_intake.json'], /no “forms\/lot_intake\.json”/],
    'what is no JSON': [(e) => void (e['forms/lot_intake.json'] = strToU8('{')), /not valid JSON/],
    'a form that is none': [(e) => void (e['forms/lot_intake.json'] = strToU8('{"brisk":"form","format":1,"form":{}}')), /does not fit: form\./],
    'a table twice': [(e) => { const w = json(e, 'workspace.json') as { tables: object[] }; w.tables.push(w.tables[1]!); e['workspace.json'] = strToU8(JSON.stringify(w)); }, /names a table twice/],
    'a value that does not fit': [(e) => void (e['species.csv'] = strToU8(strFromU8(e['species.csv']!).replace(/^(1,.*),-?\d+,/m, '$1,cold,'))), /species\.csv”, line \d+/],
    'a link to nowhere': [(e) => void (e['genera.csv'] = strToU8(strFromU8(e['genera.csv']!).replace(/^(\d+,[^,\n]*,[^,\n]*),\d+/m, '$1,99999'))), /cannot be brought in: a link leads/],
    'a number twice': [(e) => { const t = strFromU8(e['families.csv']!); e['families.csv'] = strToU8(`${t}${t.split('\n')[1]!}\n`); }, /stands there twice/],
    'a row without a number': [(e) => void (e['families.csv'] = strToU8(strFromU8(e['families.csv']!).replace(/^1,/m, 'one,'))), /is no number of a row/],
  }; // prettier-ignore
  test.each(Object.entries(cases))('%s', async (_, [change, said]) => {
    const to = await bareWorkspace();
    const refused = await refusal(bringInWorkspace(to.ws, to.maud, changed(change), UNWATCHED));
    expect(refused.message).toMatch(said);
    expect((await to.ws.modelTables()).map((t) => t.key)).toEqual(['people']);
    expect([...(await to.ws.lists()).keys(), ...(await to.ws.feeds()).keys()]).toEqual([]);
  });
});
