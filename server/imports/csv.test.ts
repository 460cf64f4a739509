import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parse } from 'csv-parse/sync';
import fc from 'fast-check';
import { afterAll, expect, test } from 'vitest';
import { csvCell } from '../../core/exchange/csv.ts';
import { refusal } from '../testing/workspace';
import { csvLines } from './csv';
import type { FileSource } from './files';

const folder = mkdtempSync(join(tmpdir(), 'brisk-csv-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
let files = 0;
const fileOf = (content: string | Buffer): FileSource => {
  const path = join(folder, `${++files}.csv`);
  writeFileSync(path, content);
  return { path };
};
async function lines(source: FileSource, atOnce?: number): Promise<string[][]> {
  const all: string[][] = [];
  for await (const batch of csvLines(source, 0, () => undefined, atOnce)) for (const cells of batch) all.push([...cells]);
  return all;
}

// what has a meaning in CSV, and letters of one, two, three and four bytes
const cell = fc.string({ unit: fc.constantFrom('a', 'ß', '“', '🌱', ' ', ',', ';', '"', '\n', '\r', '\t', '|', "'", '=', '-'), maxLength: 8 }); // prettier-ignore
const block = fc.array(fc.array(cell, { minLength: 2, maxLength: 4 }), { minLength: 1, maxLength: 6 });

test('whatever is written comes back, wherever it is cut into pieces, from a text and from a file', async () => {
  await fc.assert(
    fc.asyncProperty(
      block,
      fc.constantFrom('\n', '\r\n', '\r'),
      fc.boolean(),
      fc.integer({ min: 1, max: 9 }),
      async (rows, end, isLast, atOnce) => {
        // the first line tells how lines end, and what is between cells
        const all = [['h', 'i', 'j', 'k', 'l'], ...rows];
        const text = `\uFEFF${all.map((r) => r.map((c) => csvCell(c, true)).join(',')).join(end)}${isLast ? end : ''}`;
        expect(await lines({ text }, atOnce)).toEqual(all);
        expect(await lines(fileOf(text), atOnce)).toEqual(all);
      },
    ),
    { numRuns: 300 },
  );
});

test('what others write is read as a well-known reader of CSV does', async () => {
  const field = fc.oneof(
    cell.filter((c) => !/[",\r\n']/.test(c)),
    cell.filter((c) => !c.includes("'")).map((c) => `"${c.replaceAll('"', '""')}"`),
  );
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.array(field, { minLength: 2, maxLength: 4 }), { minLength: 1, maxLength: 6 }),
      fc.integer({ min: 1, max: 40 }),
      async (rows, atOnce) => {
        const text = ['a,b,c,d,e', ...rows.map((r) => r.join(','))].join('\n');
        const expected = parse(text, { relax_column_count: true, skip_empty_lines: true }) as string[][];
        expect(await lines({ text }, atOnce)).toEqual(expected);
      },
    ),
    { numRuns: 500 },
  );
});

test('a quotation mark inside a cell that does not begin with one is what it is', async () => {
  expect(await lines({ text: 'pot,n\n5" pot,1\n' })).toEqual([['pot', 'n'], ['5" pot', '1']]); // prettier-ignore
});

test.each([
  ['a,b\n1,2\n"x,3\n4,5\n', 3],
  ['a,b\n"1\n1",2\n"x"y,3\n', 4],
  ['a,b\r\n1,2\r\n"x" y" z,3\r\n4,5', 3],
])('a mark that is not closed, or is followed by something: case %#', async (text, line) => {
  for (const atOnce of [1, 3, 1000]) {
    const refused = await refusal(lines({ text }, atOnce));
    expect(refused).toMatchObject({ status: 422, details: { line } });
    expect(refused.message).toMatch(new RegExp(`at line ${line}: a quotation mark`));
  }
});

test('a line without an end is refused before it fills the memory', async () => {
  const refused = await refusal(lines(fileOf(`a,b\n1,2\n"${'x\n'.repeat(2_000_000)}`)));
  expect(refused.message).toMatch(/at line 3: one line is longer than a million characters, or a quotation mark in it is not closed/);
});
test('what is not UTF-8 is refused', async () => {
  expect((await refusal(lines(fileOf(Buffer.from('name\nGr\xfcn\n', 'latin1'))))).message).toMatch(/not in UTF-8/);
});
