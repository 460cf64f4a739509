import { beforeAll, describe, expect, test } from 'vitest';
import { compileForm } from '../../core/engine/compile.ts';
import { listsReached, feedsReached, reachOf, tablesReached } from '../../core/engine/reach.ts';
import type { Want } from '../../core/engine/wants.ts';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { answersFor, maySeeFile, visibleColumns, withheldFields } from './access';
import { type Account, accountByEmail } from '../database/accounts';
import { openForEntry } from './opening';
import { publishedForm } from './forms';
import { formsToEnter } from './rights';
import { lookAt } from './look';

let t: TestWorkspace;
let nell: Account;
beforeAll(async () => {
  t = await demoWorkspace();
  nell = (await accountByEmail(t.ws.db, 'nell@marrowfen.example')) as Account;
});
const FORMS = ['lot_intake', 'germination_test', 'seed_request', 'bench_task'];

describe.each(FORMS)('what %s reads', (key) => {
  test('is enough for a screen to compile and settle it, and has no column more than it names', async () => {
    const { form, plan } = await publishedForm(t.ws, key);
    const tables = new Map(tablesReached(plan).map((x) => [x.key, x]));
    const lists = new Map(listsReached(plan, (await t.ws.lists()).values()).map((l) => [l.key, l]));
    const feeds = new Map(feedsReached(plan, (await t.ws.feeds()).values()).map((f) => [f.key, f]));
    const again = compileForm(form, tables, lists, feeds);
    expect(again.problems.filter((p) => p.severity === 'error')).toEqual([]);
    expect(again.fields.map((f) => f.key)).toEqual(plan.fields.map((f) => f.key));
    // the reach of what was reached is itself: nothing was told that is not read
    expect([...reachOf(again).columns].sort()).toEqual([...reachOf(plan).columns].sort());
    const opened = await openForEntry(t.ws, t.ida, key, null);
    for (const { want, answer } of opened.answered)
      if (answer.kind === 'table' && want.kind === 'table')
        for (const column of Object.keys(answer.rows[0] ?? { id: 1 }))
          if (column !== 'id') expect(reachOf(plan).columns.get(want.table)?.has(column), `${want.table}.${column}`).toBe(true);
    // neither addresses nor what is sent along
    expect(JSON.stringify(opened.feeds)).not.toMatch(/standins|http/);
  });

  test('tables and rows it does not read are refused, whatever they are', async () => {
    const { plan } = await publishedForm(t.ws, key);
    for (const table of await t.ws.modelTables()) {
      const wants: Want[] = [{ kind: 'table', table: table.key }, { kind: 'row', table: table.key, id: 1 }]; // prettier-ignore
      for (const { answer } of await answersFor(t.ws, plan, t.ida, wants))
        expect(answer.kind === 'failed' && /does not read/.test(answer.reason), table.key).toBe(!reachOf(plan).columns.has(table.key));
    }
  });
});

describe('fields that are hidden from somebody', () => {
  test('are in no column they are told of; those who may see them are told', async () => {
    const { plan } = await publishedForm(t.ws, 'lot_intake');
    const columns = (await t.ws.modelTable('lots')).columns;
    const told = async (account: Account): Promise<string[]> => (await visibleColumns(t.ws, plan, account, columns)).map((c) => c.key);
    expect(await told(t.ida)).not.toContain('viability');
    expect(await told(t.ida)).toContain('quantity_g');
    expect(await told(nell)).toContain('viability');
    expect(await told(t.maud)).toEqual(columns.map((c) => c.key));
  });

  test('are not answered for', async () => {
    const { plan } = await publishedForm(t.ws, 'lot_intake');
    const want: Want = { kind: 'page', field: 'checked_by', params: [], open: [], search: '', offset: 0, limit: 10 };
    const [ida] = await answersFor(t.ws, plan, t.ida, [want]);
    expect(ida?.answer).toEqual({ kind: 'failed', reason: 'This field is not shown to you.' });
    const [lab] = await answersFor(t.ws, plan, nell, [want]);
    expect(lab?.answer.kind).toBe('page');
  });
});

test('who somebody is counts where there are too many people to be read whole', async () => {
  const { plan } = await publishedForm(t.ws, 'lot_intake');
  const large = { ...plan, tables: new Map([...plan.tables].map(([k, x]) => [k, k === 'people' ? { ...x, large: true } : x])) };
  expect([...(await withheldFields(t.ws, large, t.ida))].sort()).toEqual(['checked_by', 'quarantine_from', 'viability']);
  expect([...(await withheldFields(t.ws, large, nell))]).toEqual([]);
});

describe('looking at rows', () => {
  test('is for rows that a form offers', async () => {
    const site = await lookAt(t.ws, t.ida, 'sites', 1);
    // what a form reads of it, and no more; those who build see all of it
    expect(site.table.columns.map((c) => c.key)).toContain('grid_reference');
    expect(site.table.columns.map((c) => c.key)).not.toContain('landowner');
    expect(Object.keys(site.row)).not.toContain('landowner');
    expect((await lookAt(t.ws, t.maud, 'sites', 1)).row).toHaveProperty('landowner');
    for (const table of ['price_bands', 'holidays'])
      expect(await refusal(lookAt(t.ws, t.ida, table, 1)), table).toMatchObject({ status: 403 });
    expect((await lookAt(t.ws, t.maud, 'holidays', 1)).table.key).toBe('holidays');
  });
  test('files: nobody but who sent it, while it is in no record', async () => {
    const [id = 0] = await t.ws
      .db('files')
      .insert({ hash: 'h', name: 'a.txt', kind: 'txt', size: 1, at: '2026-03-01', account_id: t.ida.id });
    expect(await maySeeFile(t.ws, t.ida, id)).toBe(true);
    expect(await maySeeFile(t.ws, nell, id)).toBe(false);
    expect(await maySeeFile(t.ws, t.ida, id + 100)).toBe(false);
  });
});

test('every form of the demo is there for those who enter', async () => {
  expect((await formsToEnter(t.ws, t.ida)).map((f) => f.key).sort()).toEqual([...FORMS].sort());
});
