import { type FieldFormat, setFormats, showDate, showNumber, showTime } from './show.ts';
import { Decimal } from 'decimal.js';
import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { describe, expect, test } from 'vitest';
import * as dates from './dates.ts';
import * as D from './decimal.ts';
import { type Read, readDate, readDateTime, readNumber, readTime, readYesNo } from './read.ts';
import { compareCodePoints, compareText, editDistance, foldText, inQuotes, nearest } from './text.ts';

const Big = Decimal.clone({ precision: 40, rounding: Decimal.ROUND_HALF_UP });
/** Decimals of up to 15 digits, small and large, with the everyday ones most often. */
const decimal = fc.oneof(
  {
    weight: 4,
    arbitrary: fc
      .tuple(fc.integer({ min: -1_000_000, max: 1_000_000 }), fc.integer({ min: 0, max: 4 }))
      .map(([n, d]) => Number(`${n}e-${d}`)),
  },
  {
    weight: 2,
    arbitrary: fc
      .tuple(fc.integer({ min: -999_999_999_999_999, max: 999_999_999_999_999 }), fc.integer({ min: -5, max: 20 }))
      .map(([n, d]) => Number(`${n}e${-d}`)),
  },
  { weight: 1, arbitrary: fc.constantFrom(0, 0.1, 0.2, 0.3, 1e14, 999999999999999, 1e-10, 1.005, 2.675) },
);
const held = (x: Decimal): number => x.toSignificantDigits(15).toNumber() || 0;

describe('decimal arithmetic is that of the decimal library', () => {
  test.each([
    ['add', D.add, (a: Decimal, b: Decimal) => a.plus(b)],
    ['subtract', D.subtract, (a: Decimal, b: Decimal) => a.minus(b)],
    ['multiply', D.multiply, (a: Decimal, b: Decimal) => a.times(b)],
    ['divide', D.divide, (a: Decimal, b: Decimal) => a.div(b)],
  ] as const)('%s', (name, ours, theirs) => {
    fc.assert(
      fc.property(decimal, decimal, (a, b) => {
        fc.pre(name !== 'divide' || b !== 0);
        // a quotient is held to 15 digits where it is stored or compared
        const exact = theirs(new Big(a), new Big(b));
        const got = D.canonical(ours(a, b));
        // what ends within 15 digits is exact; an endless quotient may be off by one in the 15th
        if (name !== 'divide' || exact.sd() <= 15) expect(got).toBe(held(exact));
        else expect(Math.abs(got - held(exact))).toBeLessThanOrEqual(Math.abs(held(exact)) * 1.1e-14);
      }),
      { numRuns: 5000 },
    );
  });

  test('what does not come out even comes out even again; comparing holds to 15 digits', () => {
    expect(D.multiply(D.divide(1, 3), 3)).toBe(1);
    expect(D.add(D.divide(2, 3), D.divide(1, 3))).toBe(1);
    expect(D.compareNumbers(D.add(D.divide(1, 3), D.divide(1, 3)), D.divide(2, 3))).toBe(0);
    fc.assert(
      fc.property(decimal, decimal, (a, b) => {
        expect(D.compareNumbers(a, b)).toBe(new Big(a).comparedTo(b));
        if (b !== 0) expect(D.compareNumbers(D.divide(a, b), D.canonical(D.divide(a, b)))).toBe(0);
      }),
      { numRuns: 3000 },
    );
  });

  test('powers and products are cut to 15 digits once', () => {
    const Exact = Decimal.clone({ precision: 400, rounding: Decimal.ROUND_HALF_UP });
    const small = fc.oneof(
      decimal,
      fc.integer({ min: -400, max: 400 }).map((n) => n / 100),
    );
    fc.assert(
      fc.property(small, fc.integer({ min: 0, max: 9 }), (a, n) => {
        const exact = held(new Exact(a).pow(n));
        fc.pre(Number.isFinite(exact));
        expect(D.power(a, n)).toBe(exact);
      }),
      { numRuns: 5000 },
    );
    fc.assert(
      fc.property(fc.array(small, { maxLength: 7 }), (ns) => {
        const exact = held(ns.reduce((p, n) => p.times(n), new Exact(1)));
        fc.pre(Number.isFinite(exact));
        expect(D.product(ns)).toBe(exact);
      }),
      { numRuns: 5000 },
    );
  });

  test('rounding goes half away from zero at any digit', () => {
    expect([D.roundTo(2.675, 2), D.roundTo(1.005, 2), D.roundTo(-2.5, 0), D.roundTo(0.5, 0), D.roundTo(1250, -2)]).toEqual([
      2.68, 1.01, -3, 1, 1300,
    ]);
    fc.assert(
      fc.property(decimal, fc.integer({ min: 0, max: 6 }), (a, d) => {
        expect(D.roundTo(a, d)).toBe(held(new Big(a).toDecimalPlaces(d)));
      }),
      { numRuns: 2000 },
    );
  });

  test('a remainder has the sign of the divisor', () => {
    expect([D.modulo(7, 3), D.modulo(-7, 3), D.modulo(7, -3), D.modulo(-7, -3), D.modulo(0.3, 0.1)]).toEqual([1, 2, -2, -1, 0]);
  });
});

describe('calendar dates', () => {
  test('every day from 1899 to 2101 has the number Temporal gives it, and comes back from it', () => {
    const first = Temporal.PlainDate.from('1899-01-01');
    const epoch = Temporal.PlainDate.from('1970-01-01');
    for (let i = 0; i < 74_000; i++) {
      const day = first.add({ days: i });
      const n = dates.dayNumber(day.year, day.month, day.day);
      if (n !== epoch.until(day).days || dates.daysToDate(n) !== day.toString()) throw new Error(`wrong at ${day.toString()}`);
      if (dates.weekdayIndex(n) !== day.dayOfWeek - 1) throw new Error(`weekday wrong at ${day.toString()}`);
    }
  });

  test('months move as Temporal moves them, clamped to the end of the month', () => {
    const date = fc
      .date({ min: new Date('0100-01-01'), max: new Date('9000-01-01'), noInvalidDate: true })
      .map((d) => d.toISOString().slice(0, 10));
    fc.assert(
      fc.property(date, fc.integer({ min: -900, max: 900 }), (d, months) => {
        expect(dates.addMonths(d, months)).toBe(Temporal.PlainDate.from(d).add({ months }).toString());
      }),
    );
  });

  test('beyond 0001 and 9999 there is no date', () => {
    expect(dates.addDays('9999-12-31', 1)).toBe(null);
    expect(dates.addDays('0001-01-01', -1)).toBe(null);
    expect(dates.isIsoDate('2026-02-29')).toBe(false);
    expect(dates.isIsoDate('2024-02-29')).toBe(true);
  });
});

describe('text', () => {
  test('folding ignores case beyond ASCII and the way accents are composed', () => {
    expect(foldText('Größe')).toBe(foldText('GRÖSSE'));
    expect(foldText('e\u0301tang')).toBe(foldText('Étang'));
    expect(foldText('σίσυφος')).toBe(foldText('ΣΊΣΥΦΟΣ'));
    expect(foldText('a ')).not.toBe(foldText('a'));
  });

  test('order is by code point, as UTF-8 has it', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), fc.string({ unit: 'binary' }), (a, b) => {
        const lone = /[\ud800-\udfff]/u;
        fc.pre(!lone.test(a) && !lone.test(b));
        const bytes = Buffer.compare(Buffer.from(a), Buffer.from(b));
        expect(Math.sign(compareCodePoints(a, b))).toBe(Math.sign(bytes));
      }),
    );
    expect(compareText('b', 'A')).toBeGreaterThan(0);
  });

  test('near spellings: case, hyphens, spaces, swapped letters', () => {
    expect(nearest('Wet-heath', ['Dry heath', 'wet heath ', 'Fen'])[0]).toBe('wet heath ');
    expect(nearest('Qeurcus', ['Quercus', 'Fagus'])).toEqual(['Quercus']);
    expect(nearest('Zzz', ['Quercus', 'Fagus'])).toEqual([]);
    expect(editDistance('abcd', 'acbd')).toBe(1);
  });

  test('a text is quoted as far as says which, and no character is cut in two', () => {
    expect(inQuotes('Fen')).toBe('“Fen”');
    expect(inQuotes('a'.repeat(60))).toBe(`“${'a'.repeat(60)}”`);
    expect(inQuotes('a'.repeat(61))).toBe(`“${'a'.repeat(60)}…”`);
    expect(inQuotes(`${'a'.repeat(59)}🌱🌱`)).toBe(`“${'a'.repeat(59)}…”`);
  });
});

describe('reading what people type', () => {
  test.each([
    ['12.5', 12.5], ['12,5', 12.5], ['1,234', 1234], ['1.234,56', 1234.56], ["1'234.5", 1234.5], ['−20', -20], ['1 000', 1000], ['.5', 0.5], ['', null],
  ])('number %s', (text, value) => expect(readNumber(text)).toEqual({ ok: true, value })); // prettier-ignore

  test('what is no number, date or time is said', () => {
    expect(readNumber('12 kg')).toEqual({ ok: false, message: '“12 kg” is not a number.' });
    expect(readDate('31.2.2026')).toEqual({ ok: false, message: 'There is no such day as “31.2.2026”.' });
    expect(readDate('2026-03-01 10:00').ok).toBe(false);
    expect(readTime('25:00').ok).toBe(false);
    expect(readYesNo('maybe').ok).toBe(false);
  });

  test('dates and times in the usual ways', () => {
    for (const text of ['2026-03-01', '1.3.2026', '01/03/2026', '1 March 2026', '1 mar 2026'])
      expect(readDate(text)).toEqual({ ok: true, value: '2026-03-01' });
    expect(readTime('930')).toEqual({ ok: true, value: '09:30:00' });
    expect(readDateTime('2026-03-01 9:30')).toEqual({ ok: true, value: '2026-03-01T09:30:00' });
    expect(readYesNo('Yes')).toEqual({ ok: true, value: true });
  });

  test('a number shown can be read back', () => {
    fc.assert(
      fc.property(decimal, (n) => {
        expect(readNumber(D.plainNumber(n))).toEqual({ ok: true, value: n === 0 ? 0 : n });
      }),
    );
    expect(showNumber(-20.5, { locale: 'en-GB', decimals: 2 })).toBe('−20.50');
    expect(showDate('2026-03-01', { locale: 'en-GB' })).toBe('1 Mar 2026');
  });
});

describe('what is typed', () => {
  test.each([
    ['9.30', '09:30:00'],
    ['09.05', '09:05:00'],
    ['9:30', '09:30:00'],
    ['23.59', '23:59:00'],
  ])('%s is the time %s', (text, time) => {
    const read = readTime(text);
    expect(read.ok && read.value?.padEnd(8, ':00').slice(0, 5)).toBe(time.slice(0, 5));
  });
  test.each(['24.00', '9.60', '9.3.1', 'x', '9.305'])('%s is no time', (text) => {
    expect(readTime(text).ok).toBe(false);
  });
  test.each(['31.2.2026', '2026-02-30', '1.13.2026', '1.2.26x'])('%s is no date', (text) => {
    expect(readDate(text).ok).toBe(false);
  });
  test.each(['12,5x', '1e', '--5', '1.2.3,4,5', '1234567890.1234567'])('%s is no number that can be kept', (text) => {
    expect(readNumber(text).ok).toBe(false);
  });
});

describe('how a field asks its values to be shown', () => {
  const at = (format: FieldFormat | null) => ({ locale: 'en-GB', decimals: null, format });
  test('days, times and numbers, beside how the workspace writes', () => {
    expect(showDate('2026-03-01', at('long'))).toBe('1 March 2026');
    expect(showDate('2026-03-01', at('weekday'))).toBe('Sun, 1 Mar 2026');
    expect(showDate('2026-03-01', at('iso'))).toBe('2026-03-01');
    expect(showTime('09:30:00', 'seconds')).toBe('09:30:00');
    expect([showNumber(1234567, at('plain')), showNumber(1234, at('grouped')), showNumber(1234, at(null))]).toEqual([
      '1234567',
      '1,234',
      '1234',
    ]);
  });
  test('numbers are written as the language’s own rules write them, but for a minus before nothing', () => {
    const number = fc.tuple(fc.integer({ min: -(10 ** 15) + 1, max: 10 ** 15 - 1 }), fc.integer({ min: -8, max: 20 })).map(([m, s]) => Number(`${m}e${-s}`)); // prettier-ignore
    const grouping = fc.constantFrom([null, 'min2'] as const, ['grouped', 'always'] as const, ['plain', false] as const);
    fc.assert(
      fc.property(number, fc.option(fc.integer({ min: 0, max: 15 }), { nil: null }), grouping, (n, decimals, [format, useGrouping]) => {
        const digits =
          decimals === null ? { maximumFractionDigits: 15 } : { minimumFractionDigits: decimals, maximumFractionDigits: decimals };
        const written = new Intl.NumberFormat('en-GB', { ...digits, useGrouping } as Intl.NumberFormatOptions).format(n);
        expect(showNumber(n, { locale: 'en-GB', decimals, format })).toBe(written.replace(/^-(?=.*[1-9])/, '−').replace(/^-/, ''));
      }),
      { numRuns: 5000 },
    );
  });
  test('a workspace writes days and numbers its way; a field that asks for words keeps them', () => {
    try {
      setFormats({ dates: 'iso', grouping: 'space' });
      expect([showDate('2026-03-01', at(null)), showDate('2026-03-01', at('long'))]).toEqual(['2026-03-01', '1 March 2026']);
      expect(showNumber(1234567.5, at(null))).toBe('1\u202f234\u202f567.5');
      setFormats({ dates: 'monthFirst', grouping: 'none' });
      expect([showDate('2026-03-01', at(null)), showNumber(1234567, at(null))]).toEqual(['Mar 1, 2026', '1234567']);
    } finally {
      setFormats({ dates: 'dayFirst', grouping: 'comma' });
    }
  });
});

test('days are written in English as Intl writes them; other languages are its own', () => {
  fc.assert(
    fc.property(
      fc.date({ min: new Date('0001-01-01T00:00:00Z'), max: new Date('9999-12-31T00:00:00Z'), noInvalidDate: true }),
      fc.constantFrom('en-GB', 'en-US', 'de-DE', 'fr-FR'),
      fc.constantFrom<FieldFormat | null>(null, 'long', 'weekday'),
      (date, locale, format) => {
        const iso = date.toISOString().slice(0, 10);
        const weekday = format === 'weekday' ? ({ weekday: 'short' } as const) : {};
        const intl = new Intl.DateTimeFormat(locale, { day: 'numeric', month: format === 'long' ? 'long' : 'short', year: 'numeric', ...weekday, timeZone: 'UTC' }); // prettier-ignore
        // Intl counts by the Julian calendar before 1582
        fc.pre(iso >= '1582-10-16');
        expect(showDate(iso, { locale, format })).toBe(intl.format(new Date(`${iso}T00:00:00Z`)));
      },
    ),
    { numRuns: 2000 },
  );
  expect(showDate('0999-03-01', { locale: 'en-GB' })).toBe('1 Mar 999');
});

test('the plain numbers and dates of a file are read as all others are', () => {
  const told = (read: Read<unknown>): unknown => (read.ok ? read.value : 'not');
  fc.assert(
    fc.property(fc.boolean(), fc.nat({ max: 99_999_999 }), fc.option(fc.stringMatching(/^\d{1,8}$/)), fc.nat({ max: 3 }), (minus, whole, decimals, zeros) => {
      const digits = `${'0'.repeat(zeros)}${whole}${decimals === null ? '' : `.${decimals}`}`;
      // with a sign that says nothing, or with white space, they go the long way
      const other = minus ? `\u2212${digits}` : `+${digits}`;
      for (const round of [false, true]) expect(told(readNumber(`${minus ? '-' : ''}${digits}`, round))).toEqual(told(readNumber(other, round)));
    }),
    { numRuns: 2000 },
  );
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 2400 }), fc.integer({ min: 0, max: 13 }), fc.integer({ min: 0, max: 32 }), (y, m, d) => {
      const iso = `${String(y).padStart(4, '0')}-${String(m).padStart(2, '0')}-${String(d).padStart(2, '0')}`;
      expect(told(readDate(iso))).toEqual(told(readDate(`${d}.${m}.${String(y).padStart(4, '0')}`)));
    }),
  );
}); // prettier-ignore
