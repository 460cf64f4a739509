import fc from 'fast-check';
import { expect, test } from 'vitest';
import { cellsOf, sheetOf } from './sheetText';

const FIELDS = [
  { key: 'species', label: 'Species' },
  { key: 'site', label: 'Site' },
  { key: 'quantity_g', label: 'Quantity, g' },
];
test('cells are parted by tabs, semicolons or commas; a quoted cell may hold any of them', () => {
  expect(cellsOf('a\tb, c\td\n1\t2\t3\n\n')).toEqual([['a', 'b, c', 'd'], ['1', '2', '3']]); // prettier-ignore
  expect(cellsOf('a;"b;c"\n1,5;2')).toEqual([['a', 'b;c'], ['1,5', '2']]); // prettier-ignore
  expect(cellsOf('a,"b\nc"\n')).toEqual([['a', 'b\nc']]);
});
test('any block of cells that is written with tabs comes back', () => {
  const cell = fc.string({ maxLength: 8 }).map((s) => s.replace(/["\t\r\n\ufeff]/g, '').trim() || 'x');
  fc.assert(
    fc.property(fc.array(fc.array(cell, { minLength: 2, maxLength: 5 }), { minLength: 1, maxLength: 6 }), (rows) => {
      expect(cellsOf(rows.map((r) => r.join('\t')).join('\n'))).toEqual(rows);
    }),
  );
});
test('columns are for the fields that stand above them, whatever the case; without headers in the order of the form', () => {
  expect(sheetOf(cellsOf('site\tNote\tQUANTITY, G\nA\tb\t3'), FIELDS)).toEqual({
    columns: ['site', null, 'quantity_g'],
    headers: ['site', 'Note', 'QUANTITY, G'],
    rows: [['A', 'b', '3']],
  });
  expect(sheetOf(cellsOf('Quercus robur\tBittern Reach\t3'), FIELDS)).toMatchObject({
    columns: ['species', 'site', 'quantity_g'],
    headers: null,
  });
  expect(sheetOf(cellsOf('species\tspecies\nA\tB'), FIELDS).columns).toEqual(['species', null]);
});
