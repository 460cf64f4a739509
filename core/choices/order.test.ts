import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { Row } from '../values/types.ts';
import { compareData, searchRows, sortRows } from './order.ts';

const rows: Row[] = [
  { id: 3, name: 'marsh', size: 2 },
  { id: 1, name: 'Heath', size: null },
  { id: 2, name: 'heath', size: 10 },
  { id: 4, name: null, size: 2 },
  { id: 5, name: 'Wet heath', size: 0 },
];
const NAME = { key: 'name', type: 'text' } as const;
const SIZE = { key: 'size', type: 'number' } as const;
const ids = (list: readonly Row[]): number[] => list.map((r) => r.id);

test('empties first, case-blind, then by id; several columns in turn', () => {
  expect(ids(sortRows(rows, [NAME]))).toEqual([4, 1, 2, 3, 5]);
  expect(ids(sortRows(rows, [SIZE, NAME]))).toEqual([1, 5, 4, 3, 2]);
  expect(ids(sortRows(rows, []))).toEqual([1, 2, 3, 4, 5]);
});

test('what begins with the text comes first, then what holds it, each in order', () => {
  const sorted = sortRows(rows, [NAME]);
  expect(ids(searchRows(sorted, ['name'], 'HEA'))).toEqual([1, 2, 5]);
  expect(ids(searchRows(sorted, ['name'], ' '))).toEqual(ids(sorted));
  expect(ids(searchRows(sorted, ['name', 'size'], '10'))).toEqual([2]);
  expect(searchRows(sorted, ['name'], 'bog')).toEqual([]);
});

test('the order is one and the same however the rows come, and total', () => {
  const row = fc.record({ name: fc.option(fc.constantFrom('a', 'A', 'b', 'é', 'É', '')), size: fc.option(fc.integer({ min: 0, max: 3 })) });
  fc.assert(
    fc.property(fc.array(row, { maxLength: 12 }), fc.array(fc.nat(), { minLength: 12, maxLength: 12 }), (list, keys) => {
      const made = list.map((r, i): Row => ({ id: i + 1, ...r }));
      const shuffled = [...made].sort((x, y) => (keys[x.id - 1] ?? 0) - (keys[y.id - 1] ?? 0));
      expect(ids(sortRows(shuffled, [NAME, SIZE]))).toEqual(ids(sortRows(made, [NAME, SIZE])));
      for (const a of made)
        for (const b of made)
          expect(Math.sign(compareData(a.name ?? null, b.name ?? null, true))).toBe(
            -Math.sign(compareData(b.name ?? null, a.name ?? null, true)) + 0,
          );
    }),
  );
});
