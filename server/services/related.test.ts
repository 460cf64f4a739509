import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { beforeAll, describe, expect, test } from 'vitest';
import { type Entry, openEntry } from '../../core/engine/entry.ts';
import { parseForm } from '../../core/form/schemas.ts';
import type { Row } from '../../core/values/types.ts';
import { loadScale } from '../demo/scale';
import { threadsOf } from '../testing/threads';
import { Workspace } from './workspace';
import { openDatabase } from '../database/connection';
import { allRows } from '../database/rows';
import { FIXED, type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { beginJob, cancelJob, jobState } from './jobs';
import { changeHeld, listAnswers, saveList, valueHeld } from './lists';
import { childrenByParent, relatedTo } from './related';
import { draftOf } from './forms';
import { answerWants, settleEntry } from './wants';

let t: TestWorkspace;
beforeAll(async () => {
  t = await demoWorkspace();
});
const rows = async (table: string): Promise<Row[]> => allRows(t.ws.db, await t.ws.modelTable(table));

describe('what belongs to a record', () => {
  test('rows that link to it, the forms for a further one, its neighbours', async () => {
    const tests = await rows('germination_tests');
    const lot = tests[0]?.lot as number;
    const { groups, before, after } = await relatedTo(t.ws, t.maud, 'lot_intake', lot);
    const group = groups.find((g) => g.table === 'germination_tests');
    expect(group?.count).toBe(tests.filter((x) => x.lot === lot).length);
    expect(group?.forms).toEqual([{ form: 'germination_test', label: 'Germination test', field: 'lot' }]);
    const ids = (await rows('lots')).map((l) => l.id);
    expect([before, after]).toEqual([ids[ids.indexOf(lot) - 1] ?? null, ids[ids.indexOf(lot) + 1] ?? null]);
    expect(await refusal(relatedTo(t.ws, t.maud, 'lot_intake', 99_999))).toMatchObject({ status: 404 });
  });
  test('the lines of its own form are not listed beside it', async () => {
    const [request] = await rows('requests');
    expect((await relatedTo(t.ws, t.maud, 'seed_request', request!.id)).groups.map((g) => g.table)).not.toContain('request_lines');
  });
  test('children counted by parent, those without, those with one', async () => {
    const [genera, species] = [await rows('genera'), await rows('species')];
    const all = await childrenByParent(t.ws, 'species', 'genus', { only: 'all', offset: 0, limit: 500 });
    expect(all.parent.label).toBe('Genera');
    expect(all.rows.map((r) => [r.id, r.children]).sort()).toEqual(genera.map((g) => [g.id, species.filter((s) => s.genus === g.id).length]).sort()); // prettier-ignore
    const gaps = await childrenByParent(t.ws, 'sites', 'region', { only: 'gaps', offset: 0, limit: 50 });
    expect(gaps.rows.map((r) => r.text)).toEqual(['Outer Islands']);
    expect(await refusal(childrenByParent(t.ws, 'species', 'name', { only: 'all', offset: 0, limit: 5 }))).toMatchObject({ status: 422 });
  });
});

test('a changed value of a list is written into the records that hold the old one, with their history', async () => {
  const held = await valueHeld(t.ws, 'purposes', 'research');
  const holding = (await rows('requests')).filter((r) => r.purpose === 'research');
  expect(held).toEqual(holding.length ? [{ table: 'requests', label: 'Requests', column: 'purpose', columnLabel: 'Purpose', count: holding.length }] : []); // prettier-ignore
  const list = (await listAnswers(t.ws)).find((l) => l.key === 'purposes');
  expect(await refusal(changeHeld(t.ws, t.maud, 'purposes', 'research', 'science'))).toMatchObject({ status: 422 });
  const items = (list?.items ?? []).map((i) => (i.value === 'research' ? { ...i, value: 'science' } : i));
  await saveList(t.ws, t.maud, { key: 'purposes', label: 'Purposes', items }, list?.revision ?? 0);
  expect(await changeHeld(t.ws, t.maud, 'purposes', 'research', 'science')).toBe(holding.length);
  expect((await rows('requests')).filter((r) => r.purpose === 'science').length).toBe(holding.length);
  expect(await valueHeld(t.ws, 'purposes', 'research')).toEqual([]);
});

test('what is chosen most stands first, of what is offered', async () => {
  const lines = await rows('request_lines');
  const counts = new Map<number, number>();
  for (const l of lines) counts.set(l.species as number, (counts.get(l.species as number) ?? 0) + 1);
  const { draft, revision } = await draftOf(t.ws, 'seed_request');
  const plan = await t.ws.plan(`draft ${revision}`, draft);
  const [answered] = await answerWants(t.ws, plan, [{ kind: 'usual', field: 'packets.species', params: [], open: [] }], t.ida);
  const answer = answered?.answer as { kind: string; rows: Row[] };
  expect(answer.kind).toBe('usual');
  expect(answer.rows.length).toBeGreaterThan(0);
  expect(answer.rows.every((r) => r.active === true)).toBe(true);
  const most = answer.rows.map((r) => counts.get(r.id) ?? 0);
  expect(most).toEqual([...most].sort((a, b) => b - a));
});

/** A form over the lots whose formulas look things up; the herbarium is large enough that the database is asked. */
describe('looked up by the server', () => {
  const formula = (type: string, text: string): object => ({ label: type, type, value: { kind: 'prefill', formula: text } });
  const row = (table: string, column: string | null, more: object = {}): object => ({ label: table, type: 'link', column, source: { kind: 'rows', table, show: 'name', ...more } }); // prettier-ignore
  const fields = {
    site: row('sites', 'site', { first: 'recent' }),
    folder: row('folders', null),
    mine: formula('number', 'last.quantity_g'),
    same: formula('number', 'LAST(site).quantity_g'),
    sheet: formula('text', 'PICK(herbarium_sheets, choice.folder = folder AND choice.year > 1900, -choice.name).name'),
    sheets: formula('number', 'COUNTA(GATHER(herbarium_sheets, choice.folder = folder))'),
  };
  const open = async (): Promise<Entry> => {
    if (!(await t.ws.modelTables()).some((x) => x.key === 'herbarium_sheets')) await loadScale(t.ws, 4000);
    const pages = [{ id: 'p', label: '', sections: [{ id: 's', label: '', fields: Object.keys(fields) }] }];
    const plan = await t.ws.plan('looked up', parseForm({ key: 'looker', label: 'Looker', table: 'lots', pages, fields }));
    expect(plan.problems.filter((p) => p.severity === 'error')).toEqual([]);
    const entry = openEntry(plan, { mode: 'new', today: '2026-03-10', now: '2026-03-10T09:00:00', me: t.ida.person }, t.ws.newCache());
    await settleEntry(t.ws, entry, t.ida);
    return entry;
  };
  const choose = async (entry: Entry, field: string, value: number): Promise<void> => {
    entry.apply([{ kind: 'set', field, value }]);
    await settleEntry(t.ws, entry, t.ida);
  };

  test('my last record, and my last with the same choice, of the records I entered', async () => {
    const mine = (await t.ws.db('data_lots').where({ _created_by: t.ida.id }).orderBy('id', 'desc')) as (Row & { site: number; quantity_g: number })[]; // prettier-ignore
    expect(mine.length).toBeGreaterThan(3);
    const entry = await open();
    expect(entry.value('mine')).toBe(mine[0]?.quantity_g);
    const older = mine.find((m) => m.site !== mine[0]?.site)!;
    await choose(entry, 'site', older.site);
    expect(entry.value('same')).toBe(older.quantity_g);
    const [answered] = await answerWants(t.ws, entry.plan, [{ kind: 'usual', field: 'site', params: [], open: [] }], t.ida);
    const sites = [...new Set(mine.map((m) => m.site))].slice(0, 6);
    expect((answered?.answer as unknown as { rows: Row[] }).rows.map((r) => r.id)).toEqual(sites);
  });

  test('rows of a large table, by condition and order, as one gets them by looking through all', async () => {
    const sheets = await rows('herbarium_sheets');
    const entry = await open();
    for (const folder of [1, 7, 2500]) {
      await choose(entry, 'folder', folder);
      const inIt = sheets.filter((s) => s.folder === folder);
      const names = inIt.filter((s) => Number(s.year) > 1900).map((s) => String(s.name)).sort(); // prettier-ignore
      expect(entry.value('sheet')).toBe(names.at(-1) ?? null);
      expect(entry.value('sheets')).toBe(inIt.length);
    }
    const forged = await answerWants(t.ws, entry.plan, [{ kind: 'picked', pick: 99, params: [] }], t.ida);
    expect(forged[0]?.answer.kind).toBe('failed');
  });
});

describe('long work', () => {
  const wait = async (id: string): Promise<string> => {
    while (jobState(id, 1).state === 'running') await new Promise((resolve) => setTimeout(resolve, 5));
    return jobState(id, 1).state;
  };
  test('says how far it is and what came of it, to whoever began it alone', async () => {
    const id = beginJob('x', 1, async (job) => (job.at(0.5, 'half'), 7));
    expect(await wait(id)).toBe('done');
    expect(jobState(id, 1)).toMatchObject({ progress: 1, result: 7 });
    expect(() => jobState(id, 2)).toThrow();
  });
  test('stops when it is cancelled; a failure is told without its insides', async () => {
    const endless = beginJob('x', 1, async (job) => {
      for (;;) {
        job.at(0.1);
        await new Promise((resolve) => setTimeout(resolve, 1));
      }
    });
    cancelJob(endless, 1);
    expect(await wait(endless)).toBe('cancelled');
    const broken = beginJob('x', 1, async () => Promise.reject(new Error('a secret')));
    expect(await wait(broken)).toBe('failed');
    expect(JSON.stringify(jobState(broken, 1))).not.toContain('secret');
  });
});

test('reading aside: the same rows as the connection gives, and an error for what is no SQL; it cannot write', async () => {
  const file = join(mkdtempSync(join(tmpdir(), 'brisk-acorn-aside-')), 'x.sqlite');
  const db = await openDatabase(file);
  await db.raw('CREATE TABLE z (id INTEGER PRIMARY KEY, n TEXT)');
  await db.raw(`INSERT INTO z (n) VALUES ('a'), ('b')`);
  const { aside, work } = new Workspace(db, FIXED, tmpdir(), await threadsOf(file, tmpdir()));
  const sql = 'SELECT * FROM z WHERE n > ? ORDER BY id';
  expect(await aside.raw(sql, ['a'])).toEqual(await db.raw(sql, ['a']));
  await expect(aside.raw('SELECT nosuch FROM z')).rejects.toThrow(/no such column/);
  await expect(aside.raw('DELETE FROM z')).rejects.toThrow();
  expect(await aside.raw('SELECT count(*) AS n FROM z')).toEqual([{ n: 2 }]);
  await work.close();
  await db.destroy();
});
