import { mkdtempSync, writeFileSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { strToU8, zipSync } from 'fflate';
import { beforeAll, describe, expect, test } from 'vitest';
import type { Row } from '../../core/values/types.ts';
import { allRows } from '../database/rows';
import { type ImportFile, csvText, openImport } from '../imports/files';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { exportCsv, exportJson, exportXlsx, wholeTable } from './exports';
import { guessImport } from './importGuess';
import { type ImportPlan, runImport } from './imports';
import { Cancelled, UNWATCHED } from './jobs';
import { exportPackage, importPackage, lookAtPackage } from './packages';
import { tablesNamed } from '../database/schema';

/* Round trips through each format, rows that exist, and what is refused or cut short. */
let t: TestWorkspace;
const folder = mkdtempSync(join(tmpdir(), 'brisk-acorn-formats-'));
let files = 0;
beforeAll(async () => {
  t = await demoWorkspace();
});
const rows = async (key: string): Promise<Row[]> => allRows(t.ws.db, await t.ws.modelTable(key));
const all = async (pieces: AsyncIterable<string | Uint8Array>): Promise<Buffer> => {
  const parts: Buffer[] = [];
  for await (const piece of pieces) parts.push(Buffer.from(piece));
  return Buffer.concat(parts);
};
/** Writes content to a file with this ending and opens it. */
async function fileWith(ending: string, content: Buffer | string): Promise<ImportFile> {
  const path = join(folder, `f${++files}.${ending}`);
  writeFileSync(path, content);
  return openImport(`again ${files}.${ending}`, { path });
}
async function bringIn(file: ImportFile, like: string): Promise<string> {
  const guess = await guessImport(t.ws, file);
  const { columns } = await t.ws.modelTable(like);
  expect(guess.columns.map((c) => c.key)).toEqual(columns.map((c) => c.key));
  await runImport(t.ws, t.maud, { ...guess, columns, repairs: {} }, file);
  return guess.key;
}
const values = (list: readonly Row[]): object[] => list.map(({ id: _, ...rest }) => rest);
const tables = async (): Promise<string[]> => (await t.ws.modelTables()).map((x) => x.key).sort();
const stagings = (): Promise<unknown[]> => tablesNamed(t.ws.db, 'importing');

describe('a table goes out and comes in again as it was', () => {
  test('as JSON and as XLSX: numbers, dates, yes/no, links, texts that look like formulas', async () => {
    await t.ws.db('data_sites').where({ name: 'Adder Carr' }).update({ access_note: '=1+1, "said"\nnext line' });
    for (const key of ['sites', 'species', 'holidays']) {
      const json = await bringIn(await fileWith('json', await all(exportJson(t.ws, await wholeTable(t.ws, key)))), key);
      expect(values(await rows(json))).toEqual(values(await rows(key)));
      const path = join(folder, `${key}.xlsx`);
      await writeFile(path, await exportXlsx(t.ws, await wholeTable(t.ws, key)));
      const sheet = await bringIn(await openImport(`${key} sheet.xlsx`, { path }), key);
      expect(values(await rows(sheet))).toEqual(values(await rows(key)));
    }
  }, 60_000);

  test('many tables as a data package, with their links, types and subsets', async () => {
    const keys = ['species', 'genera', 'families', 'plots', 'sites', 'regions', 'price_bands', 'people'];
    const path = join(folder, 'package.zip');
    writeFileSync(path, await all(exportPackage(t.ws, keys)));
    const look = await lookAtPackage(t.ws, path);
    expect(look.tables.map((x) => x.label).sort()).toContain('Species 2');
    const { tables: made } = await importPackage(t.ws, t.maud, path, UNWATCHED);
    const again = (label: string): string => made.find((m) => m.label === `${label} 2`)?.key ?? '';
    for (const [key, label] of [['species', 'Species'], ['plots', 'Plots'], ['families', 'Families']] as const) {
      expect(await all(exportCsv(t.ws, await wholeTable(t.ws, again(label))))).toEqual(await all(exportCsv(t.ws, await wholeTable(t.ws, key))));
    } // prettier-ignore
    const species = await t.ws.modelTable(again('Species'));
    expect(species.columns.find((c) => c.key === 'genus')?.target).toBe(again('Genera'));
    expect(species.columns.map((c) => c.type)).toEqual((await t.ws.modelTable('species')).columns.map((c) => c.type));
    // a link from a table to itself
    const people = await t.ws.modelTable(again('People'));
    expect(people.columns.some((c) => c.key === 'manager')).toBe(true);
  }, 60_000);
});

describe('into a table that is there', () => {
  const plan = (match: string | null): ImportPlan => ({
    key: 'regions', label: 'Regions', shown: 'name', repairs: {}, into: 'regions', match,
    columns: [{ key: 'name', label: 'Name', type: 'text', target: null }, { key: 'code', label: 'Code', type: 'text', target: null }],
  }); // prettier-ignore
  test('rows are known by a column: those that exist are changed, others added, empty cells leave what stands', async () => {
    const before = await rows('regions');
    const done = await runImport(t.ws, t.maud, plan('name'), await csvText('name,code\nnorth marrow,NM9\nSouth Marrow,\nNew Fen,NF\n'));
    expect(done).toMatchObject({ added: 1, changed: 1 });
    const after = await rows('regions');
    expect(after.length).toBe(before.length + 1);
    expect(after.find((r) => r.id === before.find((b) => b.name === 'North Marrow')?.id)?.code).toBe('NM9');
    expect(after.find((r) => r.name === 'South Marrow')?.code).toBe(before.find((b) => b.name === 'South Marrow')?.code);
    await t.ws.db('data_regions').where({ name: 'New Fen' }).delete();
  });
  test('a key that stands twice in the file is refused, and nothing is changed', async () => {
    const before = await rows('regions');
    expect((await refusal(runImport(t.ws, t.maud, plan('name'), await csvText('name,code\nBig Fen,1\nbig fen,2\n')))).message).toMatch(/several lines for one Name/); // prettier-ignore
    expect(await rows('regions')).toEqual(before);
  });
  test('without a key all lines are added', async () => {
    const done = await runImport(t.ws, t.maud, plan(null), await csvText('name,code\nOne More,OM\n'));
    expect(done).toMatchObject({ added: 1, changed: 0 });
    await t.ws.db('data_regions').where({ name: 'One More' }).delete();
  });
});

describe('what is refused or cut short leaves nothing', () => {
  test('cancelled half way', async () => {
    const before = await tables();
    const lines = Array.from({ length: 30_000 }, (_, i) => `row ${i},${i}`).join('\n');
    const file = await csvText(`name,n\n${lines}\n`, 'many.csv');
    const guess = await guessImport(t.ws, file);
    const job = {
      at(progress: number): void {
        if (progress > 0.4) throw new Cancelled();
      },
    };
    await expect(runImport(t.ws, t.maud, { ...guess, repairs: {} }, file, job)).rejects.toThrow(Cancelled);
    expect([await tables(), await stagings()]).toEqual([before, []]);
  });

  test('a package whose second table is broken makes no table', async () => {
    const before = await tables();
    const description = {
      resources: [
        { name: 'trays', path: 'trays.csv', schema: { fields: [{ name: 'name', type: 'string' }] } },
        { name: 'pots', path: 'pots.csv', schema: { fields: [{ name: 'name', type: 'string' }, { name: 'n', type: 'integer' }] } },
      ],
    }; // prettier-ignore
    const path = join(folder, 'broken.zip');
    writeFileSync(path, zipSync({ 'datapackage.json': strToU8(JSON.stringify(description)), 'trays.csv': strToU8('name\na\n'), 'pots.csv': strToU8('name,n\na,x\n') })); // prettier-ignore
    expect(await refusal(importPackage(t.ws, t.maud, path, UNWATCHED))).toMatchObject({ status: 422 });
    expect([await tables(), await stagings()]).toEqual([before, []]);
  });

  test.each([
    ['x.zip', Buffer.from('no archive'), /no archive that can be read/],
    ['x.zip', Buffer.from(zipSync({ 'a.csv': strToU8('a\n1\n') })), /no datapackage\.json/],
    ['x.zip', Buffer.from(zipSync({ 'datapackage.json': strToU8('{') })), /not valid JSON/],
    ['x.zip', Buffer.from(zipSync({ 'datapackage.json': strToU8('{"resources": 1}') })), /does not describe tables/],
  ])('%s, case %#', async (name, content, message) => {
    const path = join(folder, `${++files}${name}`);
    writeFileSync(path, content);
    expect((await refusal(lookAtPackage(t.ws, path))).message).toMatch(message);
  });

  test('an archive made to burst is not unpacked', async () => {
    // forty megabytes of nothing in forty kilobytes: far beyond what any sheet packs to
    const bomb = zipSync({ 'xl/worksheets/sheet1.xml': new Uint8Array(40_000_000) }, { level: 9 });
    expect(bomb.length).toBeLessThan(100_000);
    expect((await refusal(fileWith('xlsx', Buffer.from(bomb)))).message).toMatch(/unpacks to far more than its size/);
  });

  test('ten million columns, one line without an end', async () => {
    expect((await refusal(fileWith('csv', 'c,'.repeat(10_000_000)))).message).toMatch(/longer than a million characters/);
    expect((await refusal(fileWith('csv', `a,b\n"${'x'.repeat(2_000_000)}`).then((f) => guessImport(t.ws, f)))).status).toBe(422);
  });
  test('JSON that is no list of rows, an old workbook', async () => {
    for (const [ending, content, message] of [['json', '[1]', /Item 1/], ['json', '{', /not valid JSON/], ['xls', 'x', /old spreadsheet/]] as const) expect((await refusal(fileWith(ending, content))).message).toMatch(message); // prettier-ignore
  });
});
