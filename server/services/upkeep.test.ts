import { beforeAll, expect, test } from 'vitest';
import { changeField } from '../../core/form/edit.ts';
import { addRequest, requestByKey } from '../database/requests';
import { type TestWorkspace, demoWorkspace } from '../testing/workspace';
import { draftOf, saveDraft } from './forms';
import { ensureAllIndexes, publish } from './publishing';
import { columnSchema } from '../../core/model/schemas.ts';
import { searchIndexOf } from '../database/searchIndex';
import { loadScale } from '../demo/scale';
import { renameColumn } from './renaming';
import { addColumn, changeColumnType, removeColumn } from './structure';
import { gridWindow } from './tables';
import { pruneRequests } from './requests';
import { indexesOf } from '../database/schema';
import { ON_SERVER } from '../testing/databases';
import { planOf } from '../testing/plans';

/* What is kept in order without anybody asking: indexes of what forms read, answers that nobody asks for any more. */

let t: TestWorkspace;
beforeAll(async () => {
  t = await demoWorkspace();
});
const indexes = async (table: string): Promise<string[]> => (await indexesOf(t.ws.db, table)).map((i) => i.name).sort();

test('what an account saved last is found by an index, also in forms that were published before there was one', async () => {
  const { draft, revision } = await draftOf(t.ws, 'seed_request');
  const value = { kind: 'default' as const, formula: 'last(partner).method' };
  await saveDraft(t.ws, t.maud, 'seed_request', changeField(draft, 'method', { value }), revision);
  await publish(t.ws, t.maud, 'seed_request', revision + 1);
  const plan = await planOf(t.ws.db, 'SELECT * FROM data_requests WHERE _created_by = 1 AND partner = 1 ORDER BY id DESC LIMIT 1');
  // of a handful of rows a server rather goes through all by their numbers
  if (!ON_SERVER) expect(plan).toContain('USING INDEX lx_requests_partner (_created_by=? AND partner=?)');
  expect(await indexes('data_requests')).toContain('lx_requests_partner');
  const before = await indexes('data_requests');
  await t.ws.db.raw('DROP INDEX lx_requests_partner');
  expect(await indexes('data_requests')).not.toEqual(before);
  await ensureAllIndexes(t.ws);
  expect(await indexes('data_requests')).toEqual(before);
});

test('answers kept for who asks again are forgotten after a quarter of a year, and no sooner', async () => {
  const row = (key: string, at: string) => ({ key, account_id: t.ida.id, form_key: 'lot_intake', body: 'x', answer: '{}', at });
  await addRequest(t.ws.db, row('old', '2025-12-09T09:29:59'));
  await addRequest(t.ws.db, row('new', '2025-12-10T09:30:01'));
  await pruneRequests(t.ws.db, t.ws.clock.now());
  expect([await requestByKey(t.ws.db, 'old'), (await requestByKey(t.ws.db, 'new'))?.key]).toEqual([null, 'new']);
});

test('the search index of a large table is there again after its columns have changed', async () => {
  await loadScale(t.ws, 2500);
  const there = async (table = 'herbarium_sheets'): Promise<boolean> => (await searchIndexOf(t.ws.db, table)).size > 0;
  const found = async (): Promise<number> => {
    const query = { search: 'sheet', sort: null, descending: false, offset: 0, limit: 5 };
    return (await gridWindow(t.ws, 'herbarium_sheets', query)).total;
  };
  const before = await found();
  expect([await there(), before > 0]).toEqual([true, true]);
  await addColumn(t.ws, 'herbarium_sheets', columnSchema.parse({ key: 'remark', label: 'Remark', type: 'text' }));
  await renameColumn(t.ws, t.maud, 'herbarium_sheets', 'name', 'number');
  expect([await there(), await found()]).toEqual([true, before]);
  await changeColumnType(t.ws, 'herbarium_sheets', 'remark', { type: 'longtext', target: null, decimals: null }, true);
  expect(await there()).toBe(true);
  await removeColumn(t.ws, 'herbarium_sheets', 'remark');
  expect([await there(), await found()]).toEqual([true, before]);
});
