import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { fieldSchema } from './schemas.ts';
import { decimalsFor, fitProblem, fitValue } from './fit.ts';
import { type ColumnType } from '../model/tables.ts';
import { columnSchema } from '../model/schemas.ts';

const field = (type: ColumnType, decimals: number | null = null) => fieldSchema.parse({ label: 'It', type, decimals });

describe('a value as a field holds it', () => {
  test('white space alone is empty, text is composed, numbers are rounded half away from zero', () => {
    expect(fitValue(field('text'), null, ' \u00a0\t')).toBe(null);
    expect(fitValue(field('text'), null, ' kept as typed ')).toBe(' kept as typed ');
    expect(fitValue(field('text'), null, 'e\u0301')).toBe('é');
    expect(fitValue(field('number', 2), null, 2.345)).toBe(2.35);
    expect(fitValue(field('number', 0), null, -2.5)).toBe(-3);
    expect(fitValue(field('number'), null, 1 / 3)).toBe(0.333333333333333);
    expect(fitValue(field('date'), null, '2026-03-01')).toBe('2026-03-01');
  });

  test('a field’s own decimals come before its column’s', () => {
    const column = columnSchema.parse({ key: 'n', label: 'N', type: 'number', decimals: 1 });
    expect(decimalsFor(field('number'), column)).toBe(1);
    expect(decimalsFor(field('number', 3), column)).toBe(3);
    expect(fitValue(field('number'), column, 0.25)).toBe(0.3);
  });

  test('fitting twice is fitting once', () => {
    fc.assert(
      fc.property(
        fc.oneof(fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e12, max: 1e12 }), fc.string()),
        fc.integer({ min: 0, max: 6 }),
        (value, decimals) => {
          const type: ColumnType = typeof value === 'number' ? 'number' : 'text';
          const once = fitValue(field(type, decimals), null, value);
          expect(fitValue(field(type, decimals), null, once)).toBe(once);
        },
      ),
    );
  });
});

describe('what a field cannot hold', () => {
  test.each([
    ['number', 'five', /must be a number/],
    ['number', NaN, /must be a number/],
    ['yesno', 'yes', /yes or no/],
    ['date', '2026-02-30', /date from the years 1 to 9999/],
    ['date', '2026-03-01T00:00:00', /date/],
    ['time', '25:00:00', /time/],
    ['datetime', '2026-03-01', /date and time/],
    ['link', 1.5, /one of the rows/],
    ['link', '1', /one of the rows/],
    ['person', 0, /one of the rows/],
    ['choice', 3, /one of the choices/],
    ['text', 5, /must be text/],
    ['text', 'x'.repeat(10_001), /10001 characters; at most 10000/],
  ] as [ColumnType, string | number, RegExp][])('%s: %s', (type, value, message) => {
    expect(fitProblem(field(type), null, value)).toMatch(message);
  });

  test('empty fits everywhere; a column may be shorter', () => {
    for (const type of ['number', 'text', 'date', 'link', 'yesno', 'choice'] as const)
      expect(fitProblem(field(type), null, null)).toBe(null);
    const short = columnSchema.parse({ key: 'c', label: 'C', type: 'text', length: 3 });
    expect(fitProblem(field('text'), short, 'abcd')).toMatch(/at most 3/);
    expect(fitProblem(field('text'), short, 'abc')).toBe(null);
  });
});
