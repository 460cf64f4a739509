import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { canonical } from '../decimal.ts';
import type { Datum } from '../types.ts';
import { COLUMN_TYPES, type ColumnType, KINDS, type Limits, type ValueKind, holdsFiles, showAs } from './index.ts';

const LIMITS: Limits = { decimals: null, length: null };
const iso = fc.date({ min: new Date('0001-01-02'), max: new Date('9999-12-30'), noInvalidDate: true }).map((d) => d.toISOString());
const words = fc.string({ unit: 'grapheme', minLength: 1, maxLength: 30 }).map((t) => t.replaceAll(/[\0\s;]/gu, 'x').normalize('NFC'));
const rowNumber = fc.integer({ min: 1, max: 1e9 });
/** Values that each type holds. */
const HELD: Readonly<Record<ColumnType, fc.Arbitrary<Exclude<Datum, null>>>> = {
  text: words,
  longtext: words,
  number: fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e15, max: 1e15 }).map(canonical),
  date: iso.map((d) => d.slice(0, 10)),
  time: iso.map((d) => d.slice(11, 19)),
  datetime: iso.map((d) => d.slice(0, 19)),
  yesno: fc.boolean(),
  choice: words,
  choices: fc.uniqueArray(words, { minLength: 1, maxLength: 5 }),
  link: rowNumber,
  links: fc.uniqueArray(rowNumber, { minLength: 1, maxLength: 5 }),
  person: rowNumber,
  file: rowNumber,
  files: fc.uniqueArray(rowNumber, { minLength: 1, maxLength: 5 }),
  json: fc.jsonValue().map((v) => JSON.stringify(v)),
};

describe.each(COLUMN_TYPES)('a column of type %s', (type) => {
  const kind: ValueKind = KINDS[type];
  const held = HELD[type];

  test('holds its values as they are, and says so', () => {
    fc.assert(
      fc.property(held, (value) => {
        expect(kind.problem(value, 'It', LIMITS)).toBe(null);
        expect(kind.fit(value, LIMITS)).toEqual(value);
      }),
    );
  });
  test('what the database holds comes back as it was', () => {
    // as `toStored` of the server writes it
    const stored = (v: Datum): Datum => (typeof v === 'boolean' ? Number(v) : Array.isArray(v) ? JSON.stringify(v) : v);
    fc.assert(fc.property(held, (value) => void expect(kind.fromStored(stored(value))).toEqual(value)));
    expect(kind.fromStored(null)).toBe(null);
  });
  test('empty is shown, written and filed as nothing, and nothing is read as empty', () => {
    expect([kind.toFile(null), kind.written(null), kind.show(null, { locale: 'en-GB', decimals: null })]).toEqual(['', '', '']);
    for (const blank of ['', '  ']) expect([kind.read(blank), kind.fromFile(blank)]).toEqual([{ ok: true, value: null }, { ok: true, value: null }]); // prettier-ignore
  });
  if (kind.chooses === null && !holdsFiles(type))
    test('what is written where it is typed, or in a file, is read back as the same', () => {
      fc.assert(
        fc.property(held, (value) => {
          expect(kind.read(kind.written(value))).toEqual({ ok: true, value });
          expect(kind.fromFile(kind.toFile(value))).toEqual({ ok: true, value });
        }),
      );
    });
  test('values of no type it can be are refused with a sentence about the field', () => {
    for (const value of type === 'yesno' ? ['yes', 1] : [true, [true], type === 'number' ? 'x' : 1.5]) {
      expect(kind.problem(value, 'Its weight', LIMITS)).toMatch(/^Its weight .*\.$/);
    }
  });
});

test('several values are shown one after the other; what is no type of column stands as it is', () => {
  const showing = { locale: 'en-GB', decimals: null };
  expect(showAs('number', [1234.5, 10_000], showing)).toBe('1234.5, 10,000');
  expect(showAs('date', '2026-03-01', showing)).toBe('1 Mar 2026');
  expect(showAs('row', 12, showing)).toBe('12');
  expect(showAs('yesno', true, showing)).toBe('yes');
});
test('a day may be said in a word where one is known', () => {
  expect(KINDS.date.read(' today ', '2026-03-01')).toEqual({ ok: true, value: '2026-03-01' });
  expect(KINDS.date.read('today').ok).toBe(false);
});
