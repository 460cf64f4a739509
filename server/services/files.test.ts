import { readdirSync } from 'node:fs';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { columnSchema } from '../../core/model/schemas.ts';
import { openDatabase } from '../database/connection';
import { createTable } from '../database/model';
import { insertRow } from '../database/rows';
import { type Account, accountByEmail, addAccount } from '../database/accounts';
import { emptyDatabase, refusal } from '../testing/workspace';
import { previewOf, storeFile, sweepFiles } from './files';
import { Workspace } from './workspace';

/** Somebody who sends files. */
async function sender(ws: Workspace): Promise<Account> {
  const person = await insertRow(
    ws.db,
    await ws.modelTable('people'),
    { name: 'X' },
    { at: '2026-03-01T09:00:00', account: null, form: null, formVersion: null },
  );
  await addAccount(ws.db, { email: 'x@marrowfen.example', passwordHash: 'x', roles: ['clerk'], person, demo: false });
  return (await accountByEmail(ws.db, 'x@marrowfen.example')) as Account;
}
const PNG = Buffer.from('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==', 'base64');

test('files that no record holds are removed after a while, with their content where no other file has it; others stay', async () => {
  const clock = { at: '2026-03-01T09:00:00' };
  const folder = mkdtempSync(join(tmpdir(), 'brisk-acorn-files-'));
  const ws = new Workspace(await openDatabase(await emptyDatabase()), { now: () => clock.at }, folder);
  const column = (key: string, type: string) => columnSchema.parse({ key, label: key, type });
  await createTable(ws.db, { key: 'things', label: 'Things', shown: null, columns: [column('one', 'file'), column('some', 'files')] });
  ws.modelChanged();
  const table = await ws.modelTable('things');
  const me = await sender(ws);
  const send = async (name: string, content: string): Promise<number> => Number((await storeFile(ws, me, name, Buffer.from(content))).id);
  const [held, among, loose, twin, other] = [
    await send('a', 'A'),
    await send('b', 'B'),
    await send('c', 'C'),
    await send('d', 'A'),
    await send('e', 'E'),
  ];
  const stamp = { at: clock.at, account: null, form: null, formVersion: null };
  await insertRow(ws.db, table, { one: held, some: [among, other] }, stamp);
  const there = async (): Promise<number[]> => ((await ws.db('files').orderBy('id').select('id')) as { id: number }[]).map((f) => f.id);
  const contents = (): number => readdirSync(folder, { recursive: true, withFileTypes: true }).filter((f) => f.isFile()).length;
  expect([await sweepFiles(ws), contents()], 'they may still be typed').toEqual([0, 4]);
  clock.at = '2026-03-16T09:00:00';
  const fresh = await send('f', 'F');
  expect(await sweepFiles(ws)).toBe(2);
  expect(await there()).toEqual([held, among, other, fresh]);
  expect([loose, twin].length + (await there()).length).toBe(6);
  // C is gone, A stays for the one that is held
  expect(contents()).toBe(4);
});

test('pictures and PDFs can be looked at, by their content; anything else only downloaded', async () => {
  const ws = new Workspace(await openDatabase(await emptyDatabase()), undefined, mkdtempSync(join(tmpdir(), 'brisk-acorn-files-')));
  const me = await sender(ws);
  const picture = Number((await storeFile(ws, me, 'page.html', PNG)).id);
  expect((await previewOf(ws, picture)).type).toBe('image/png');
  for (const [name, content] of [
    ['x.png', '<script>alert(1)</script>'],
    ['x.svg', '<svg xmlns="http://www.w3.org/2000/svg"/>'],
  ] as const) {
    const id = Number((await storeFile(ws, me, name, Buffer.from(content))).id);
    expect(await refusal(previewOf(ws, id))).toMatchObject({ status: 422 });
  }
  expect(await refusal(previewOf(ws, 999))).toMatchObject({ status: 404 });
});
