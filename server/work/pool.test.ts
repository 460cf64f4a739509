import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test, vi } from 'vitest';
import { closeDatabase, openDatabase } from '../database/connection';
import { SMALL_DEMO } from '../demo/enter';
import { loadDemo } from '../demo/load';
import { accountByEmail } from '../database/accounts';
import { previewBackfill } from '../services/backfillPreview';
import { backfillPage } from '../services/backfillView';
import { dropTable } from '../database/model';
import { Staging } from '../database/staging';
import { csvText } from '../imports/files';
import { guessImport } from '../services/importGuess';
import { runImport } from '../services/imports';
import { Cancelled, type JobHandle, UNWATCHED } from '../services/jobs';
import { coverageOf } from '../services/coverage';
import { exported } from '../services/exported';
import { PLAIN_VIEW } from '../../core/choices/views.ts';
import { text } from 'node:stream/consumers';
import { addColumn, previewType } from '../services/structure';
import { changeRow } from '../services/tables';
import { Workspace } from '../services/workspace';
import { DEMO, FIXED, refusal } from '../testing/workspace';
import { threadsOf } from '../testing/threads';

/* The same work in threads, over a file, as in memory: what it comes to, what it is refused with, and how it ends. */

const folder = mkdtempSync(join(tmpdir(), 'brisk-pool-'));
const file = join(folder, 'brisk-acorn.sqlite');
let threads: Workspace;
let here: Workspace;

beforeAll(async () => {
  const db = await openDatabase(file);
  threads = new Workspace(db, FIXED, join(folder, 'files'), await threadsOf(file, join(folder, 'files')));
  await loadDemo(threads, DEMO, async (password) => `hash of ${password}`, SMALL_DEMO);
  here = new Workspace(db, FIXED, join(folder, 'files'));
}, 60_000);
afterAll(async () => {
  await threads.work.close();
  await closeDatabase(threads.db);
  rmSync(folder, { recursive: true, force: true });
});

test('coverage, what another type makes of a column, and a backfill come to the same', async () => {
  const maud = (await accountByEmail(threads.db, 'maud@marrowfen.example'))!;
  expect(await coverageOf(threads, 'lot_intake')).toEqual(await coverageOf(here, 'lot_intake'));
  const change = { type: 'number', target: null, decimals: 1 } as const;
  expect(await previewType(threads, 'species', 'common', change)).toEqual(await previewType(here, 'species', 'common', change));
  const asked = { fields: ['to_pay'], over: 'all', subset: null } as const;
  const both = [];
  for (const ws of [threads, here]) {
    const view = await previewBackfill(ws, maud, 'seed_request', asked);
    const page = await backfillPage(ws, 'seed_request', view.id, { show: 'changes', offset: 0, limit: 50 });
    both.push({ looked: view.looked, records: view.records, rows: page.rows });
  }
  expect(both[0]).toEqual(both[1]);
  expect(both[0]!.looked).toBeGreaterThan(0);
});

test('what somebody has changed since is seen: rows, and the model', async () => {
  const maud = (await accountByEmail(threads.db, 'maud@marrowfen.example'))!;
  const filled = async (): Promise<number> =>
    (await previewType(threads, 'species', 'common', { type: 'text', target: null, decimals: null })).filled;
  const before = await filled();
  const [row] = (await threads.db('data_species').whereNotNull('common').limit(1)) as { id: number; _revision: number }[];
  await changeRow(threads, maud, 'species', row!.id, row!._revision, { common: null });
  expect(await filled()).toBe(before - 1);
  await addColumn(threads, 'species', { key: 'remark', label: 'Remark', type: 'text', target: null, decimals: null, length: null });
  expect((await previewType(threads, 'species', 'remark', { type: 'number', target: null, decimals: null })).filled).toBe(0);
});

test('what it is refused with, and what goes wrong in it, is told as it is here', async () => {
  expect(await refusal(coverageOf(threads, 'no_such_form'))).toMatchObject({
    status: 404,
    message: 'The form “no_such_form” does not exist.',
  });
  await expect(threads.aside.raw('SELECT x FROM nowhere')).rejects.toThrow(/no such table/);
  // a thread only reads
  await expect(threads.aside.raw(`UPDATE data_species SET name = 'x'`)).rejects.toThrow(/readonly/);
});

test('cancelled, long work ends in the midst of a statement, and the next is done', async () => {
  const cancel = new AbortController();
  const endless = 'WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT max(i) FROM n';
  const work = threads.work.run('sql', { sql: endless, bindings: [] }, { at: () => undefined, signal: cancel.signal });
  setTimeout(() => cancel.abort(), 100);
  await expect(work).rejects.toBeInstanceOf(Cancelled);
  expect(await threads.work.run('sql', { sql: 'SELECT 1 AS one', bindings: [] }, UNWATCHED)).toEqual([{ one: 1 }]);
});

test('files are made in threads as they are here; one that nobody takes any more ends, and the next is made', async () => {
  const account = (await accountByEmail(threads.db, 'maud@marrowfen.example'))!;
  const records = { what: 'records', account, form: 'lot_intake', view: PLAIN_VIEW, search: '', as: 'csv' } as const;
  // nobody tells it what is changed by the other
  here.changed();
  for (const asked of [records, { what: 'table', table: 'species', as: 'json' }] as const)
    expect(await text(await exported(threads, asked))).toBe(await text(await exported(here, asked)));
  const zip = Buffer.concat(await (await exported(threads, { what: 'workspace' })).toArray() as Buffer[]); // prettier-ignore
  expect(zip.subarray(0, 2).toString()).toBe('PK');
  const sheet = Buffer.concat(await (await exported(threads, { what: 'table', table: 'species', as: 'xlsx' })).toArray() as Buffer[]); // prettier-ignore
  expect(sheet.subarray(0, 2).toString()).toBe('PK');
  expect(await refusal(exported(threads, { ...records, form: 'nowhere' }))).toMatchObject({ status: 404 });
  // more of them than there are threads for them
  for (let i = 0; i < 6; i++) (await exported(threads, { what: 'tables' })).destroy();
  expect(await text(await exported(threads, records))).toContain('\n');
});

test('a file is of one moment: what is changed or goes away while it is taken is in it as it was', async () => {
  const wide = await csvText(['long', ...Array.from({ length: 40_000 }, (_, i) => `${'x'.repeat(90)}${i}`)].join('\n'), 'wide.csv');
  await runImport(threads, null, { ...(await guessImport(threads, wide)), key: 'wide', repairs: {} }, wide);
  const file = await exported(threads, { what: 'table', table: 'wide', as: 'csv' });
  // more than is made ahead is still to be read
  await changeRow(threads, (await accountByEmail(threads.db, 'maud@marrowfen.example'))!, 'wide', 40_000, 1, { long: 'changed' });
  await threads.db.transaction((db) => dropTable(db, 'wide'));
  threads.modelChanged();
  const lines = (await text(file)).trim().split('\n');
  expect(lines.length).toBe(40_001);
  expect(lines.at(-1)).toBe(`${'x'.repeat(90)}39999`);
}, 30_000);

const SHEET = ['lot,found,weight', ...Array.from({ length: 6000 }, (_, i) => `L${i},${i % 3 ? 'Quercus robur' : 'quercus ROBUR'},${(i * 7.919).toFixed(3)}`)].join('\n'); // prettier-ignore
const importing = async (ws: Workspace, key: string, job: JobHandle = UNWATCHED) => {
  const sheet = await csvText(SHEET, `${key}.csv`);
  const guess = await guessImport(ws, sheet);
  return { guess, done: await runImport(ws, null, { ...guess, key, repairs: {} }, sheet, job) };
};
const staged = async (): Promise<unknown[]> =>
  (await threads.db.raw(`SELECT name FROM sqlite_master WHERE type = 'table' AND name LIKE 'importing%'`)) as unknown[];

test('a file is read in a thread, and its rows are those that are read here', async () => {
  const there = await importing(threads, 'by_thread');
  const same = await importing(here, 'by_hand');
  expect({ ...there.guess, key: '', label: '' }).toEqual({ ...same.guess, key: '', label: '' });
  expect(there.guess.columns[1]).toMatchObject({ type: 'link', target: 'species' });
  expect(there.done).toMatchObject({ rows: 6000, added: 6000 });
  const rows = (key: string) => threads.db(`data_${key}`).orderBy('id').select('id', 'lot', 'lot__fold', 'found', 'weight');
  const found = (await rows('by_thread')) as { id: number; lot: string }[];
  expect(found).toEqual(await rows('by_hand'));
  expect(found.at(-1)).toMatchObject({ id: 6000, lot: 'L5999', weight: Number((5999 * 7.919).toFixed(3)) });
  // what is wrong with a file is said as it is here
  const wrong = await csvText('a,b\n1\n', 'wrong.csv');
  expect(await refusal(guessImport(threads, wrong))).toMatchObject({ status: 422, message: expect.stringContaining('Line 2 has 1 value') as string }); // prettier-ignore
});

test('rows that cannot be written, and work that is cancelled, end an import with nothing left', async () => {
  const failing = vi.spyOn(Staging.prototype, 'write').mockRejectedValueOnce(new Error('The disk is full.'));
  await expect(importing(threads, 'never')).rejects.toThrow('The disk is full.');
  failing.mockRestore();
  const written = vi.spyOn(Staging.prototype, 'write');
  const cancel = new AbortController();
  const at = (): void => {
    if (written.mock.calls.length > 1) cancel.abort();
  };
  written.mockImplementation(() => Promise.resolve(at()));
  await expect(importing(threads, 'never', { at, signal: cancel.signal })).rejects.toBeInstanceOf(Cancelled);
  written.mockRestore();
  expect(await staged()).toEqual([]);
  expect((await threads.modelTables()).some((table) => table.key === 'never')).toBe(false);
  expect((await importing(threads, 'after_all')).done.rows).toBe(6000);
});

test('a statement that goes wrong while what was found is kept ends the work with why, and leaves nothing', async () => {
  const maud = (await accountByEmail(threads.db, 'maud@marrowfen.example'))!;
  const asked = { fields: ['to_pay'], over: 'all', subset: null } as const;
  await threads.db.raw(`CREATE TRIGGER full BEFORE INSERT ON backfill_rows BEGIN SELECT RAISE(ABORT, 'The disk is full.'); END`);
  await expect(previewBackfill(threads, maud, 'seed_request', asked)).rejects.toThrow('The disk is full.');
  await threads.db.raw('DROP TRIGGER full');
  const [left] = await threads.db('backfills').leftJoin('backfill_rows', 'backfill_id', 'backfills.id').whereNull('backfill_id');
  expect(left).toBeUndefined();
});

test('threads for what is expected begin before anybody asks, once; none after the end', async () => {
  const pool = await threadsOf(file, join(folder, 'files'));
  expect(pool.threads).toBe(0);
  pool.expect('sql');
  pool.expect('sql');
  expect(pool.threads).toBe(1);
  expect(await pool.run('sql', { sql: 'SELECT 1 AS one', bindings: [] }, UNWATCHED)).toEqual([{ one: 1 }]);
  expect(pool.threads).toBe(1);
  pool.expect('coverage');
  pool.expect('impact');
  expect(pool.threads).toBe(2);
  await pool.close();
  pool.expect('save');
  await expect(pool.run('formsByFeed', {}, UNWATCHED)).rejects.toThrow();
  await expect(pool.run('export', {} as never, UNWATCHED)).rejects.toThrow();
  expect(pool.threads).toBe(0);
});
