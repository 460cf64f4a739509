import { expect, test } from 'vitest';
import { tableOfOne } from './singular.ts';

const TABLES = ['Families', 'Genera', 'Species', 'Sites', 'Shelves', 'Boxes', 'People'].map((label) => ({ label }));
test.each([
  ['Family', 'Families'],
  ['genus', 'Genera'],
  ['Species', 'Species'],
  [' site ', 'Sites'],
  ['Shelf', 'Shelves'],
  ['Box', 'Boxes'],
  ['Sites', 'Sites'],
  ['Note', undefined],
  ['Site code', undefined],
  ['', undefined],
  ['Us', undefined],
])('“%s” is one of %s', (label, table) => expect(tableOfOne(label, TABLES)?.label).toBe(table));
