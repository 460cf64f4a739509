import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test, vi } from 'vitest';
import { parseForm } from '../../core/form/schemas.ts';
import { columnSchema } from '../../core/model/schemas.ts';
import { accountByEmail, addAccount } from '../database/accounts';
import { closeDatabase, holdWriters, openDatabase } from '../database/connection';
import { createTable } from '../database/model';
import { insertRow } from '../database/rows';
import { searchIndexOf } from '../database/searchIndex';
import { tablesNamed } from '../database/schema';
import { loadScale } from '../demo/scale';
import { csvText } from '../imports/files';
import { addForm, draftOf, saveDraft } from '../services/forms';
import { guessImport } from '../services/importGuess';
import { runImport } from '../services/imports';
import { fillSearchIndexes, publish } from '../services/publishing';
import { changeHeld, createList, valueHeld } from '../services/lists';
import { renameColumn, renameTable } from '../services/renaming';
import { mergeRows, respellValues, undoRepair } from '../services/repairs';
import { addColumn, changeColumnType, removeColumn } from '../services/structure';
import { gridWindow, removeTable } from '../services/tables';
import { Workspace } from '../services/workspace';
import { FIXED, refusal } from '../testing/workspace';
import { threadsOf } from '../testing/threads';

/* Long tables are made others in a thread, while everybody reads and whoever writes waits without keeping others waiting. */

const ROWS = 3_500;
const folder = mkdtempSync(join(tmpdir(), 'brisk-reshapes-'));
const file = join(folder, 'brisk-acorn.sqlite');
let ws: Workspace;
const asked: string[] = [];

beforeAll(async () => {
  ws = new Workspace(await openDatabase(file), FIXED, join(folder, 'files'), await threadsOf(file, join(folder, 'files')));
  await loadScale(ws, ROWS);
  const { run } = ws.work;
  vi.spyOn(ws.work, 'run').mockImplementation((name, input, job) => {
    if (name === 'reshape') asked.push((input as { name: string }).name);
    return run.call(ws.work, name, input, job) as never;
  });
}, 120_000);
afterAll(async () => {
  await ws.work.close();
  await closeDatabase(ws.db);
  rmSync(folder, { recursive: true, force: true });
});
/** What went to a thread since it was asked last. */
const inThread = (): string[] => asked.splice(0);
const found = async (search: string): Promise<number> =>
  (await gridWindow(ws, 'herbarium_sheets', { search, sort: null, descending: false, offset: 0, limit: 5 })).total;
const column = (key: string, type: string, target: string | null = null) => columnSchema.parse({ key, label: key, type, target });

test('while somebody else writes, all read, and who wants to write waits for the connection', async () => {
  const free = await holdWriters(ws.db);
  let written = false;
  const writing = ws.db('data_drawers').where('id', 1).update({ name: 'Drawer one' }).then(() => (written = true)); // prettier-ignore
  expect(await ws.db('data_drawers').where('id', 1).first('name')).toMatchObject({ name: 'Drawer 001' });
  for (let i = 0; i < 20; i++) await new Promise((resolve) => setImmediate(resolve));
  expect(written).toBe(false);
  await free();
  await writing;
  expect(await ws.db('data_drawers').where('id', 1).first('name')).toMatchObject({ name: 'Drawer one' });
});

test('publishing: the version, the columns and the indexes are there, and the search index is whole by then', async () => {
  const { draft, revision } = await draftOf(ws, 'sheet_loan');
  await ws.db.raw('DROP INDEX nx_herbarium_sheets_folder_name__fold');
  await saveDraft(ws, null as never, 'sheet_loan', { ...draft, label: 'Loan of sheets' }, revision);
  const told: unknown[] = [];
  const off = ws.listen((event) => told.push(event));
  inThread();
  const version = await publish(ws, null, 'sheet_loan', null);
  off();
  expect(inThread()).toContain('publishDefinition');
  expect(told).toEqual([{ kind: 'published', form: 'sheet_loan', version }]);
  const there = (await ws.db.raw(`SELECT name FROM sqlite_master WHERE name = 'nx_herbarium_sheets_folder_name__fold'`)) as unknown[];
  expect(there).toHaveLength(1);
  expect([...(await searchIndexOf(ws.db, 'herbarium_sheets'))]).toEqual(['name']);
  expect(await ws.db('form_versions').where({ form_key: 'sheet_loan' }).max({ n: 'number' })).toEqual([{ n: version }]);
});

test('a column comes, is searched, becomes another and goes', async () => {
  inThread();
  const before = await found('0770');
  await addColumn(ws, 'herbarium_sheets', column('remark', 'text'));
  expect(inThread()[0]).toBe('addColumn');
  expect((await ws.modelTable('herbarium_sheets')).columns.map((c) => c.key)).toContain('remark');
  expect([...(await searchIndexOf(ws.db, 'herbarium_sheets'))]).toEqual(['name', 'remark']);
  await ws.db('data_herbarium_sheets').where('id', 7).update({ remark: '7.5', remark__fold: '7.5' });
  expect([before > 0, await found('0770'), await found('7.5')]).toEqual([true, before, 1]);
  await changeColumnType(ws, 'herbarium_sheets', 'remark', { type: 'number', target: null, decimals: null }, true);
  expect(inThread()[0]).toBe('changeColumnType');
  expect(await ws.db('data_herbarium_sheets').where('id', 7).first('remark')).toEqual({ remark: 7.5 });
  await removeColumn(ws, 'herbarium_sheets', 'remark');
  expect(inThread()[0]).toBe('removeColumn');
  expect((await ws.modelTable('herbarium_sheets')).columns.map((c) => c.key)).not.toContain('remark');
  expect(await found('0770')).toBe(before);
});

test('a text column that the search index does not hold yet is searched all the same', async () => {
  await ws.db.raw('ALTER TABLE data_herbarium_sheets ADD COLUMN colour text');
  await ws.db.raw('ALTER TABLE data_herbarium_sheets ADD COLUMN colour__fold text');
  await ws.db('model_columns').insert({ ...column('colour', 'text'), table_key: 'herbarium_sheets', position: 9 });
  ws.modelChanged();
  await ws.db('data_herbarium_sheets').where('id', 9).update({ colour: 'Ochre', colour__fold: 'OCHRE' });
  expect(await found('ochre')).toBe(1);
  await removeColumn(ws, 'herbarium_sheets', 'colour');
});

test('spellings and rows that are one are mended, and put back', async () => {
  const person = await insertRow(ws.db, await ws.modelTable('people'), { name: 'Maud' }, { at: FIXED.now(), account: null, form: null, formVersion: null }); // prettier-ignore
  await addAccount(ws.db, { email: 'maud@fen.example', passwordHash: 'x', roles: ['designer'], person, demo: false });
  const maud = (await accountByEmail(ws.db, 'maud@fen.example'))!;
  const nameOf = async (id: number): Promise<unknown> => (await ws.db('data_herbarium_sheets').where({ id }).first('name'))?.name;
  await ws.db('data_herbarium_sheets').whereIn('id', [3, 4]).update({ name: 'SHEET three', name__fold: 'SHEET THREE' });
  inThread();
  const asked = { column: 'name', from: ['SHEET three'], to: 'Sheet three' };
  expect(await respellValues(ws, maud, 'herbarium_sheets', { ...asked, preview: true })).toMatchObject({ changed: 2, repair: null });
  const { repair } = await respellValues(ws, maud, 'herbarium_sheets', { ...asked, preview: false });
  expect([await nameOf(3), await nameOf(4)]).toEqual(['Sheet three', 'Sheet three']);
  expect(await undoRepair(ws, maud, 'herbarium_sheets', repair!)).toEqual({ restored: 2, left: 0 });
  expect([await nameOf(3), await nameOf(4)]).toEqual(['SHEET three', 'SHEET three']);
  expect(inThread()).toEqual(['respellValues', 'respellValues', 'undoRepair']);
  const rows = await ws.rowCount('folders');
  // sheets link to folders, and there are many of them
  const merged = await mergeRows(ws, maud, 'folders', { keep: 1, drop: [2], preview: false });
  expect([merged.moved > 0, inThread(), await ws.rowCount('folders')]).toEqual([true, ['mergeRows'], rows - 1]);
  expect(await ws.db('data_herbarium_sheets').where('folder', 2)).toEqual([]);
});

test('a value of a list is counted, and changed, where records hold it', async () => {
  const list = await createList(ws, null, 'Colours', 'Red\nScarlet');
  await addColumn(ws, 'herbarium_sheets', column('colour', 'choice'));
  const fields = { colour: { label: 'Colour', type: 'choice', column: 'colour', source: { kind: 'list', list } } };
  const pages = [{ id: 'p', label: '', sections: [{ id: 's', label: '', fields: ['colour'] }] }];
  await addForm(ws, null, parseForm({ key: 'sheet_colour', label: 'Colour', table: 'herbarium_sheets', fields, pages }));
  await ws.db('data_herbarium_sheets').whereIn('id', [5, 6]).update({ colour: 'Red' });
  inThread();
  expect(await valueHeld(ws, list, 'Red')).toMatchObject([{ table: 'herbarium_sheets', column: 'colour', count: 2 }]);
  const maud = (await accountByEmail(ws.db, 'maud@fen.example'))!;
  expect(await changeHeld(ws, maud, list, 'Red', 'Scarlet')).toBe(2);
  expect(inThread()).toEqual(['valueHeld', 'changeHeld']);
  expect(await ws.db('data_herbarium_sheets').whereNotNull('colour').orderBy('id').select('id', 'colour')).toEqual([5, 6].map((id) => ({ id, colour: 'Scarlet' }))); // prettier-ignore
});

test('what is refused, and what fails, is told, and others write after it', async () => {
  expect(await refusal(removeColumn(ws, 'herbarium_sheets', 'folder'))).toMatchObject({ status: 409 });
  inThread();
  const failing = ws.reshape(['herbarium_sheets'], 'ensureIndexOf', ['herbarium_sheets', [column('nowhere', 'number')]], () => Promise.reject(new Error('here'))); // prettier-ignore
  await expect(failing).rejects.toThrow(/no such column/);
  expect(inThread()).toEqual(['ensureIndexOf']);
  await ws.db('data_drawers').where('id', 2).update({ name: 'Drawer two' });
  expect(await ws.db('data_drawers').where('id', 2).first('name')).toEqual({ name: 'Drawer two' });
});

test('many rows of a file are put in place, into a new table and into one that is there', async () => {
  const lines = Array.from({ length: ROWS }, (_, i) => `T-${i},Folder ${String((i % 50) + 3).padStart(5, '0')},${i}`);
  const file = await csvText(`code,folder,grams\n${lines.join('\n')}\n`, 'trays.csv');
  const guess = await guessImport(ws, file);
  expect(guess.columns.map((c) => c.type)).toEqual(['text', 'link', 'number']);
  inThread();
  expect(await runImport(ws, null, { ...guess, repairs: {} }, file)).toEqual({ table: 'trays', rows: ROWS, added: ROWS, changed: 0 });
  expect(inThread()).toEqual(['placeImport']);
  expect([await ws.rowCount('trays'), (await ws.modelTable('trays')).label]).toEqual([ROWS, 'Trays']);
  const more = await csvText('code,folder,grams\nT-5,,5.5\nT-new,Folder 00001,1\n', 'trays.csv');
  const plan = { ...(await guessImport(ws, more, 'trays')), repairs: {}, into: 'trays', match: 'code' };
  expect(await runImport(ws, null, plan, more)).toMatchObject({ added: 1, changed: 1 });
  expect(inThread()).toEqual(['placeImport']);
  expect([await ws.rowCount('trays'), await ws.db('data_trays').where('code', 'T-5').first('grams')]).toEqual([ROWS + 1, { grams: 5.5 }]);
  expect(await tablesNamed(ws.db, 'importing_')).toEqual([]);
  await removeTable(ws, 'trays');
  expect(inThread()).toEqual(['removeTable']);
  expect((await ws.modelTables()).map((t) => t.key)).not.toContain('trays');
});

test('a search index that a server which ended was at is gone on with', async () => {
  const { ensureSearchIndex, dropSearchIndex } = await import('../database/searchIndex');
  const table = await ws.modelTable('herbarium_sheets');
  await ws.db.transaction(async (db) => {
    await dropSearchIndex(db, table.key);
    await ensureSearchIndex(db, table);
  });
  expect(await found('0770')).toBeGreaterThan(0);
  expect((await searchIndexOf(ws.db, table.key)).size).toBe(0);
  inThread();
  await fillSearchIndexes(ws);
  expect(inThread()).toEqual(['fillSearchIndexes']);
  expect([...(await searchIndexOf(ws.db, table.key))]).toEqual(['name', 'colour']);
  expect(await found('0770')).toBeGreaterThan(0);
});

test('of very many tables short ones are made others in a thread too: the whole schema is read anew for it', async () => {
  const columns = [column('name', 'text'), column('weight', 'number')];
  const make = (i: number) => createTable(ws.db, { key: `sack_${i}`, label: `Sack ${i}`, shown: 'name', columns });
  await make(0);
  ws.modelChanged();
  inThread();
  await addColumn(ws, 'sack_0', column('seal', 'text'));
  expect(inThread()).not.toContain('addColumn');
  for (let i = 1; i <= 100; i++) await make(i);
  ws.modelChanged();
  const id = await insertRow(
    ws.db,
    await ws.modelTable('sack_7'),
    { name: 'Seven', weight: 7.25 },
    { at: FIXED.now(), account: null, form: null, formVersion: null },
  );
  await addColumn(ws, 'sack_7', column('seal', 'text'));
  await renameColumn(ws, null as never, 'sack_7', 'weight', 'grams');
  await changeColumnType(ws, 'sack_7', 'grams', { type: 'text', target: null, decimals: null }, true);
  await removeColumn(ws, 'sack_7', 'seal');
  await renameTable(ws, null as never, 'sack_7', 'bag');
  expect((await ws.modelTable('bag')).columns.map((c) => [c.key, c.type])).toEqual([['name', 'text'], ['grams', 'text']]); // prettier-ignore
  expect(await ws.db('data_bag').where({ id }).first('grams')).toEqual({ grams: '7.25' });
  await removeTable(ws, 'sack_8');
  expect((await ws.modelTables()).map((t) => t.key)).not.toContain('sack_8');
  expect(inThread()).toEqual(['addColumn', 'renameColumn', 'changeColumnType', 'removeColumn', 'renameTable', 'removeTable']);
});
