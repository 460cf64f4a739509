import { beforeEach, describe, expect, test } from 'vitest';
import { columnSchema } from '../../core/model/schemas.ts';
import type { Column } from '../../core/model/tables.ts';
import type { Datum } from '../../core/values/types.ts';
import { createTable } from '../database/model';
import { allRows } from '../database/rows';
import { type TestWorkspace, bareWorkspace, refusal } from '../testing/workspace';
import { mergeRows } from './repairs';
import { addColumn, changeColumnType, previewType, removeColumn } from './structure';
import { addRow, gridWindow, removeRow } from './tables';

/* Columns of a table that holds rows: made, given another type, deleted. */

let t: TestWorkspace;
const column = (key: string, type: Column['type'], more: object = {}): Column => columnSchema.parse({ key, label: key, type, ...more });
const held = async (key: string): Promise<Datum[]> => (await allRows(t.ws.db, await t.ws.modelTable('tools'))).map((r) => r[key] ?? null);
/** Puts values into a fresh column of tools, one row each; the other rows have none. */
async function filled(type: Column['type'], values: readonly Datum[], more: object = {}): Promise<void> {
  await addColumn(t.ws, 'tools', column('extra', type, more));
  for (const value of values) await addRow(t.ws, t.maud, 'tools', { name: `tool ${String(value)}`, extra: value });
}
const to = (type: Column['type'], more: object = {}) => ({ type, target: null, decimals: null, ...more });

beforeEach(async () => {
  t = await bareWorkspace();
  await t.ws.db.transaction(async (db) => {
    await createTable(db, { key: 'genera', label: 'Genera', shown: 'name', columns: [column('name', 'text')] });
    await createTable(db, { key: 'tools', label: 'Tools', shown: 'name', columns: [column('name', 'text')] });
  });
  t.ws.modelChanged();
  for (const name of ['Quercus', 'Fagus']) await addRow(t.ws, t.maud, 'genera', { name });
});

describe('another type', () => {
  test.each<[Column['type'], readonly Datum[], Column['type'], readonly Datum[]]>([
    ['text', ['12', '3,5', ' 7 '], 'number', [12, 3.5, 7]],
    ['number', [12, 3.5, 1e15], 'text', ['12', '3.5', '1000000000000000']],
    ['text', ['1.3.2026', '2026-03-02'], 'date', ['2026-03-01', '2026-03-02']],
    ['datetime', ['2026-03-01T09:30:00'], 'date', ['2026-03-01']],
    ['datetime', ['2026-03-01T09:30:00'], 'time', ['09:30:00']],
    ['date', ['2026-03-01'], 'datetime', ['2026-03-01T00:00:00']],
    ['yesno', [true, false], 'text', ['yes', 'no']],
    ['text', ['Yes', 'n'], 'yesno', [true, false]],
    ['text', ['a; b', 'c'], 'choices', [['a', 'b'], ['c']]],
    ['choices', [['a', 'b']], 'text', ['a; b']],
    ['text', ['x'], 'json', ['"x"']],
    ['choice', ['wet'], 'longtext', ['wet']],
  ])('%s %j as %s is %j', async (from, before, type, after) => {
    await filled(from, before);
    const preview = await previewType(t.ws, 'tools', 'extra', to(type));
    expect(preview).toMatchObject({ filled: before.length, lost: 0, examples: [] });
    // looking changes nothing
    expect((await held('extra')).filter((v) => v !== null)).toEqual(before);
    await changeColumnType(t.ws, 'tools', 'extra', to(type), false);
    expect((await held('extra')).filter((v) => v !== null)).toEqual(after);
    expect((await t.ws.modelTable('tools')).columns.at(-1)).toMatchObject({ key: 'extra', type });
  });

  test('links become what their rows are known by, and texts the rows that are known so', async () => {
    await addColumn(t.ws, 'tools', column('kin', 'link', { target: 'genera' }));
    const [first, second] = await allRows(t.ws.db, await t.ws.modelTable('genera'));
    for (const genus of [first!, second!]) await addRow(t.ws, t.maud, 'tools', { name: `of ${genus.name}`, kin: genus.id });
    await changeColumnType(t.ws, 'tools', 'kin', to('text'), false);
    expect((await held('kin')).filter(Boolean)).toEqual([first!.name, second!.name]);
    await changeColumnType(t.ws, 'tools', 'kin', to('links', { target: 'genera' }), false);
    expect((await held('kin')).filter(Boolean)).toEqual([[first!.id], [second!.id]]);
    await changeColumnType(t.ws, 'tools', 'kin', to('link', { target: 'genera' }), false);
    expect((await held('kin')).filter(Boolean)).toEqual([first!.id, second!.id]);
  });

  test('what does not convert is counted with examples, is lost only when that is said, and stays otherwise', async () => {
    await filled('text', ['7', 'seven', 'seven', 'eight']);
    const preview = await previewType(t.ws, 'tools', 'extra', to('number'));
    expect(preview).toMatchObject({ filled: 4, lost: 3 });
    expect(preview.examples.map((e) => [e.text, e.count])).toEqual([['"seven"', 2], ['"eight"', 1]]); // prettier-ignore
    expect(await refusal(changeColumnType(t.ws, 'tools', 'extra', to('number'), false))).toMatchObject({
      status: 409,
      code: 'wouldLose',
    });
    expect((await held('extra')).filter(Boolean)).toEqual(['7', 'seven', 'seven', 'eight']);
    await changeColumnType(t.ws, 'tools', 'extra', to('number'), true);
    expect((await held('extra')).filter(Boolean)).toEqual([7]);
  });

  test('is searched and sorted as what it is now', async () => {
    await filled('text', ['10', '9', '2']);
    const sorted = async (): Promise<Datum[]> => {
      const query = { search: 'tool', sort: 'extra', descending: false, offset: 0, limit: 10 };
      return (await gridWindow(t.ws, 'tools', query)).rows.map((r) => r.row.extra ?? null).filter((v) => v !== null);
    };
    expect(await sorted()).toEqual(['10', '2', '9']);
    await changeColumnType(t.ws, 'tools', 'extra', to('number'), false);
    expect(await sorted()).toEqual([2, 9, 10]);
  });

  test('a link without a table, and a table that is not there, are refused', async () => {
    await filled('text', ['x']);
    expect(await refusal(previewType(t.ws, 'tools', 'extra', to('link')))).toMatchObject({ status: 422 });
    expect(await refusal(previewType(t.ws, 'tools', 'extra', to('link', { target: 'nowhere' })))).toMatchObject({ status: 404 });
    expect(await refusal(addColumn(t.ws, 'tools', column('kin', 'link')))).toMatchObject({ status: 422 });
    expect(await refusal(addColumn(t.ws, 'tools', column('name', 'text')))).toMatchObject({ status: 422 });
  });
});

describe('a column that is deleted', () => {
  test('is gone with its values and indexes, and can be made again with another type', async () => {
    await filled('link', [1, 2], { target: 'genera' });
    await removeColumn(t.ws, 'tools', 'extra');
    expect((await t.ws.modelTable('tools')).columns.some((c) => c.key === 'extra')).toBe(false);
    await addColumn(t.ws, 'tools', column('extra', 'text'));
    expect((await held('extra')).every((v) => v === null)).toBe(true);
    await addRow(t.ws, t.maud, 'tools', { name: 'again', extra: 'a text now' });
    expect(await held('extra')).toContain('a text now');
  });
  test('rows that held a row of another table let go of it', async () => {
    await filled('link', [1], { target: 'genera' });
    expect((await refusal(removeRow(t.ws, t.maud, 'genera', 1))).code).toBe('inUse');
    const tools = await allRows(t.ws.db, await t.ws.modelTable('tools'));
    await removeColumn(t.ws, 'tools', 'extra');
    expect(await allRows(t.ws.db, await t.ws.modelTable('tools'))).toHaveLength(tools.length);
  });
  test('the one its rows are known by stays, and those people need', async () => {
    expect(await refusal(removeColumn(t.ws, 'tools', 'name'))).toMatchObject({ status: 409 });
    for (const key of ['email', 'team']) expect(await refusal(removeColumn(t.ws, 'people', key))).toMatchObject({ status: 409 });
    const asLink = { type: 'link', target: 'genera', decimals: null } as const;
    expect(await refusal(changeColumnType(t.ws, 'people', 'team', asLink, true))).toMatchObject({ status: 409 });
    expect(await refusal(removeColumn(t.ws, 'tools', 'nothing'))).toMatchObject({ status: 404 });
  });
});

test('rows that mean one are made one: what linked to either, in a column of one or of several, links to the one that is kept', async () => {
  const [keep, drop] = await allRows(t.ws.db, await t.ws.modelTable('genera'));
  await addColumn(t.ws, 'tools', column('one', 'link', { target: 'genera' }));
  await addColumn(t.ws, 'tools', column('some', 'links', { target: 'genera' }));
  for (const some of [[drop!.id], [keep!.id, drop!.id], null]) await addRow(t.ws, t.maud, 'tools', { name: 'tool', one: drop!.id, some });
  expect(await mergeRows(t.ws, t.maud, 'genera', { keep: keep!.id, drop: [drop!.id], preview: false })).toMatchObject({ moved: 5 });
  expect(await held('one')).toEqual([keep!.id, keep!.id, keep!.id]);
  expect(await held('some')).toEqual([[keep!.id], [keep!.id], null]);
  expect((await allRows(t.ws.db, await t.ws.modelTable('genera'))).map((r) => r.id)).toEqual([keep!.id]);
});

test('a table that is deleted while others read keeps nobody from the rest, before that is told', async () => {
  await t.ws.tables();
  // as another process does it: nobody here knows yet
  await t.ws.db.schema.dropTable('data_tools');
  t.ws.rowsChanged('tools');
  const tables = await t.ws.tables();
  expect(tables.get('genera')?.rows).toBe(2);
  expect(tables.get('tools')?.rows).toBe(0);
  // what is asked of itself is told
  await expect(held('name')).rejects.toThrow(/data_tools/);
});
