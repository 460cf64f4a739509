import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Unzipped, strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { beforeAll, describe, expect, test } from 'vitest';
import { PLAIN_VIEW } from '../../core/choices/views.ts';
import { holdsFiles } from '../../core/values/kinds/index.ts';
import { allRows, updateRow } from '../database/rows';
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
