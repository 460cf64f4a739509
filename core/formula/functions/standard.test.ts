import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { describe, expect, test } from 'vitest';
import { evaluateText } from '../../testing/scope.ts';

/*
 * Cases where spreadsheets are known to differ or to be got wrong, with the results of OpenDocument part 4; and
 * properties against Temporal or against counting by hand.
 */
const cases = (name: string, list: readonly (readonly [formula: string, result: string])[]): void => {
  test.each(list)(`${name}: %s gives %s`, (formula, result) => {
    expect(evaluateText(formula)).toBe(result);
  });
};

describe('rounding of halves and negatives', () => {
  cases('', [
    ['ROUND(0.5)', '1'],
    ['ROUND(-0.5)', '-1'],
    ['ROUND(1.5)', '2'],
    ['ROUND(-1.5)', '-2'],
    ['ROUND(2.5, 0)', '3'],
    ['ROUND(1.005, 2)', '1.01'],
    ['ROUND(-1.005, 2)', '-1.01'],
    ['ROUND(1234.567, -2)', '1200'],
    ['ROUND(1250, -2)', '1300'],
    ['ROUND(-1250, -2)', '-1300'],
    ['ROUND(49, -2)', '0'],
    ['ROUND(50, -2)', '100'],
    ['ROUNDUP(-2.01)', '-3'],
    ['ROUNDUP(0)', '0'],
    ['ROUNDUP(31415.92654, -2)', '31500'],
    ['ROUNDDOWN(-3.99)', '-3'],
    ['ROUNDDOWN(31415.92654, -2)', '31400'],
    ['TRUNC(8.9)', '8'],
    ['TRUNC(-8.9)', '-8'],
    ['TRUNC(0.45)', '0'],
    ['INT(8.9)', '8'],
    ['INT(-8.9)', '-9'],
    ['CEILING(2.5, 1)', '3'],
    ['CEILING(-2.5, 2)', '-2'],
    ['CEILING(0.234, 0.01)', '0.24'],
    ['CEILING(5, 0)', '0'],
    ['FLOOR(-2.5, 2)', '-4'],
    ['FLOOR(0.234, 0.01)', '0.23'],
    ['FLOOR(5, 0)', '0'],
    ['MROUND(-10, 3)', '-9'],
    ['MROUND(1.3, 0.2)', '1.4'],
    ['EVEN(0)', '0'],
    ['EVEN(-3)', '-4'],
    ['ODD(0)', '1'],
    ['ODD(-0.5)', '-1'],
  ]);
});

describe('division, remainders, powers', () => {
  cases('', [
    ['MOD(10, 3)', '1'],
    ['MOD(-10, 3)', '2'],
    ['MOD(10, -3)', '-2'],
    ['MOD(-10, -3)', '-1'],
    ['MOD(5.5, 2)', '1.5'],
    ['MOD(0.3, 0.1)', '0'],
    ['MOD(2, 0)', 'error: divideByZero'],
    ['QUOTIENT(-10, 3)', '-3'],
    ['QUOTIENT(1, 0)', 'error: divideByZero'],
    ['-2 ^ 2', '4'],
    ['2 ^ -1', '0.5'],
    ['2 ^ 0.5 * 2 ^ 0.5', '2'],
    ['0 ^ 0', '1'],
    ['(-8) ^ (1 / 3)', 'error: overflow'],
    ['10 ^ 400', 'error: overflow'],
    ['1 / 3 * 3', '1'],
    ['1 / 3 * 3 = 1', 'TRUE'],
    ['INT(1 / 3 * 3)', '1'],
    ['1 / 3 + 1 / 3 = 2 / 3', 'TRUE'],
    ['2 / 3 IN (1 / 3 + 1 / 3)', 'TRUE'],
    ['1 / 3 & ""', '0.333333333333333'],
    ['0.1 * 3', '0.3'],
    ['1.1 + 2.2', '3.3'],
    ['4.35 * 100', '435'],
    ['1 - 0.9', '0.1'],
    ['200%', '2'],
    ['-5%', '-0.05'],
    ['SQRT(-1)', 'error: badArgument'],
    ['LN(0)', 'error: badArgument'],
    ['FACT(171)', 'error: overflow'],
    ['LOG(1024, 2)', '10'],
    ['LOG10(0.001)', '-3'],
    ['ABS(-0)', '0'],
  ]);
});

describe('text past the end and before the start', () => {
  cases('', [
    ['LEFT("abc", 10)', 'abc'],
    ['LEFT("abc", 0)', ''],
    ['LEFT("abc", -1)', 'error: badArgument'],
    ['LEFT("abc")', 'a'],
    ['RIGHT("abc", 10)', 'abc'],
    ['RIGHT("abc", 0)', ''],
    ['MID("abc", 4, 2)', ''],
    ['MID("abc", 3, 9)', 'c'],
    ['MID("abc", 0, 1)', 'error: badArgument'],
    ['MID("a😀c", 2, 1)', '😀'],
    ['LEN("a😀c")', '3'],
    ['LEN("")', '0'],
    ['FIND("", "abc")', '1'],
    ['FIND("c", "abc", 4)', 'error: notFound'],
    ['FIND("b", "abcb", 3)', '4'],
    ['FIND("B", "abc")', 'error: notFound'],
    ['SEARCH("B", "abc")', '2'],
    ['SEARCH("b*d", "abcd")', '2'],
    ['SEARCH("~*", "a*c")', '2'],
    ['SUBSTITUTE("aaa", "a", "b", 2)', 'aba'],
    ['SUBSTITUTE("aaa", "a", "b", 4)', 'aaa'],
    ['SUBSTITUTE("aaa", "", "b")', 'aaa'],
    ['SUBSTITUTE("aaa", "aa", "b")', 'ba'],
    ['REPLACE("abc", 2, 0, "x")', 'axbc'],
    ['REPLACE("abc", 9, 1, "x")', 'abcx'],
    ['REPLACE("abc", 1, 99, "x")', 'x'],
    ['REPT("ab", 0)', ''],
    ['REPT("ab", -1)', 'error: badArgument'],
    ['REPT("ab", 1000000)', 'error: tooMuch'],
    ['TRIM("  a   b  ")', 'a b'],
    ['PROPER("mARROW-fen o\'reed")', "Marrow-Fen O'Reed"],
    ['UPPER("straße")', 'STRASSE'],
    ['EXACT("a", "A")', 'FALSE'],
    ['"a" = "A"', 'TRUE'],
    ['"a" < "B"', 'TRUE'],
    ['VALUE("1e3")', '1000'],
    ['VALUE(" 12 ")', '12'],
    ['VALUE("50%")', '0.5'],
    ['VALUE("")', 'error: badArgument'],
    ['FIXED(-0.004, 2)', '0.00'],
    ['FIXED(1234.5, -2)', '1,200'],
    ['12 & "a"', '12a'],
    ['TRUE & ""', 'TRUE'],
    ['0.10 & ""', '0.1'],
    ['DATE(2026, 3, 1) & ""', '2026-03-01'],
  ]);
});

describe('errors pass on, conditions stop them', () => {
  cases('', [
    ['1 / 0 + 1', 'error: divideByZero'],
    ['IF(TRUE, 1, 1 / 0)', '1'],
    ['IF(1 / 0 > 1, 1, 2)', 'error: divideByZero'],
    ['IFS(FALSE, 1 / 0, TRUE, 2)', '2'],
    ['SWITCH(1, 1, "x", 1 / 0, "y")', 'x'],
    ['CHOOSE(1, 2, 1 / 0)', '2'],
    ['CHOOSE(3, 1, 2)', 'error: badArgument'],
    ['SUM(1, 1 / 0)', 'error: divideByZero'],
    ['AND(FALSE, 1 / 0 = 1)', 'error: divideByZero'],
    ['FALSE AND 1 / 0 = 1', 'FALSE'],
    ['TRUE OR 1 / 0 = 1', 'TRUE'],
    ['IFERROR(VALUE("x"), 0)', '0'],
    ['ISERROR(1 / 0)', 'TRUE'],
    ['ISBLANK(1 / 0)', 'FALSE'],
    ['COALESCE(EMPTY(), 1 / 0)', 'error: divideByZero'],
    ['COALESCE(1, 1 / 0)', '1'],
  ]);
});

describe('dates at the ends of months and years', () => {
  cases('', [
    ['EDATE(DATE(2026, 1, 31), 1)', '2026-02-28'],
    ['EDATE(DATE(2024, 1, 31), 1)', '2024-02-29'],
    ['EDATE(DATE(2024, 2, 29), 12)', '2025-02-28'],
    ['EDATE(DATE(2026, 3, 31), -1)', '2026-02-28'],
    ['EDATE(DATE(2026, 1, 15), 0)', '2026-01-15'],
    ['EOMONTH(DATE(2026, 1, 31), 1)', '2026-02-28'],
    ['EOMONTH(DATE(2026, 2, 10), -2)', '2025-12-31'],
    ['DATE(2026, 2, 29)', '2026-03-01'],
    ['DATE(2026, 0, 1)', '2025-12-01'],
    ['DATE(2026, 1, -1)', '2025-12-30'],
    ['DATE(99999, 1, 1)', 'error: overflow'],
    ['DATE(9999, 12, 31) + 1', 'error: overflow'],
    ['DATE(2024, 2, 28) + 1', '2024-02-29'],
    ['DAYS(DATE(2024, 3, 1), DATE(2024, 2, 1))', '29'],
    ['WEEKDAY(DATE(2026, 3, 8))', '1'],
    ['WEEKDAY(DATE(2026, 3, 8), 2)', '7'],
    ['WEEKDAY(DATE(2026, 3, 8), 3)', '6'],
    ['WEEKDAY(DATE(2026, 3, 8), 11)', '7'],
    ['WEEKDAY(DATE(2026, 3, 8), 16)', '2'],
    ['WEEKDAY(DATE(2026, 3, 8), 17)', '1'],
    ['WEEKDAY(DATE(2026, 3, 8), 4)', 'error: badArgument'],
    ['WEEKNUM(DATE(2026, 12, 31))', '53'],
    ['WEEKNUM(DATE(2026, 1, 1), 2)', '1'],
    ['ISOWEEKNUM(DATE(2021, 1, 3))', '53'],
    ['ISOWEEKNUM(DATE(2024, 12, 30))', '1'],
    ['DATEDIF(DATE(2024, 2, 29), DATE(2025, 2, 28), "y")', '0'],
    ['DATEDIF(DATE(2024, 2, 29), DATE(2025, 2, 28), "m")', '11'],
    ['DATEDIF(DATE(2026, 1, 31), DATE(2026, 2, 28), "m")', '0'],
    ['DATEDIF(DATE(2025, 11, 20), DATE(2026, 3, 10), "ym")', '3'],
    ['DATEDIF(DATE(2025, 11, 20), DATE(2026, 3, 10), "md")', '18'],
    ['DATEDIF(DATE(2025, 11, 20), DATE(2026, 3, 10), "yd")', '110'],
    ['DATEDIF(DATE(2026, 3, 2), DATE(2026, 3, 1), "d")', 'error: badArgument'],
    ['DATEDIF(DATE(2026, 3, 1), DATE(2026, 3, 2), "w")', 'error: badArgument'],
    ['NETWORKDAYS(DATE(2026, 3, 7), DATE(2026, 3, 8))', '0'],
    ['NETWORKDAYS(DATE(2026, 3, 9), DATE(2026, 3, 6))', '-2'],
    ['NETWORKDAYS(DATE(2026, 3, 2), DATE(2026, 3, 6), JOIN(DATE(2026, 3, 3), DATE(2026, 3, 7)))', '4'],
    ['WORKDAY(DATE(2026, 3, 7), 0)', '2026-03-07'],
    ['WORKDAY(DATE(2026, 3, 7), 1)', '2026-03-09'],
    ['WORKDAY(DATE(2026, 3, 6), 1, DATE(2026, 3, 9))', '2026-03-10'],
    ['YEARFRAC(DATE(2026, 1, 31), DATE(2026, 3, 31))', '0.166666666666667'],
    ['YEARFRAC(DATE(2026, 1, 1), DATE(2027, 1, 1), 3)', '1'],
    ['YEARFRAC(DATE(2026, 1, 31), DATE(2026, 3, 31), 4)', '0.166666666666667'],
    ['YEARFRAC(DATE(2026, 1, 1), DATE(2026, 2, 1), 9)', 'error: badArgument'],
    ['TIME(24, 0, 0)', '00:00:00'],
    ['TIME(0, 0, 3661)', '01:01:01'],
    ['HOUR(NOW())', '9'],
    ['YEAR(NOW())', '2026'],
    ['DATEVALUE("2024-02-29")', '2024-02-29'],
    ['DATEVALUE("2023-02-29")', 'error: badArgument'],
  ]);

  const day = fc.integer({ min: -30_000, max: 60_000 }).map((n) => Temporal.PlainDate.from('1970-01-01').add({ days: n }));
  const text = (d: Temporal.PlainDate): string => `DATE(${d.year}, ${d.month}, ${d.day})`;
  test('weekdays, weeks and parts are those of the calendar', () => {
    fc.assert(
      fc.property(day, (d) => {
        expect(evaluateText(`WEEKDAY(${text(d)}, 2)`)).toBe(String(d.dayOfWeek));
        expect(evaluateText(`ISOWEEKNUM(${text(d)})`)).toBe(String(d.weekOfYear));
        expect(evaluateText(`DAY(EOMONTH(${text(d)}, 0))`)).toBe(String(d.daysInMonth));
      }),
    );
  });
  test('working days are those one counts; WORKDAY undoes them', () => {
    const works = (d: Temporal.PlainDate): boolean => d.dayOfWeek < 6;
    fc.assert(
      fc.property(day, fc.integer({ min: 0, max: 60 }), (d, n) => {
        const end = d.add({ days: n });
        let count = 0;
        for (let x = d; Temporal.PlainDate.compare(x, end) <= 0; x = x.add({ days: 1 })) if (works(x)) count++;
        expect(evaluateText(`NETWORKDAYS(${text(d)}, ${text(end)})`)).toBe(String(count));
        if (works(d)) expect(evaluateText(`NETWORKDAYS(${text(d)}, WORKDAY(${text(d)}, ${n}))`)).toBe(String(n + 1));
      }),
      { numRuns: 300 },
    );
  });
  test('DATEDIF: years, months and days beyond them put together give the end again', () => {
    fc.assert(
      fc.property(day, fc.integer({ min: 0, max: 4000 }), (a, n) => {
        const b = a.add({ days: n });
        const whole = a.until(b, { largestUnit: 'years' });
        expect(evaluateText(`DATEDIF(${text(a)}, ${text(b)}, "d")`)).toBe(String(n));
        // Temporal clamps the day at month ends; below the 29th both agree
        if (a.day > 28) return;
        expect(evaluateText(`DATEDIF(${text(a)}, ${text(b)}, "y")`)).toBe(String(whole.years));
        expect(evaluateText(`DATEDIF(${text(a)}, ${text(b)}, "ym")`)).toBe(String(whole.months));
      }),
    );
  });
});

describe('lists leave empties out', () => {
  cases('', [
    ['SUM(EMPTY(), EMPTY())', '0'],
    ['AVERAGE(2, EMPTY(), 4)', '3'],
    ['AVERAGE(EMPTY())', 'empty'],
    ['MIN(EMPTY(), 3)', '3'],
    ['MAX(EMPTY())', 'empty'],
    ['COUNT(1, "a", EMPTY())', '1'],
    ['COUNTA(1, "a", EMPTY())', '2'],
    ['MEDIAN(1, 2, 3, EMPTY())', '2'],
    ['PRODUCT(EMPTY())', 'empty'],
    ['LARGE(JOIN(3, 1, 2), 1)', '3'],
    ['SMALL(JOIN(3, 1, 2), 4)', 'error: badArgument'],
    ['SUM(0.1, 0.1, 0.1)', '0.3'],
    ['TEXTJOIN("-", TRUE, EMPTY())', 'empty'],
    ['TEXTJOIN("", FALSE, 1, "a", TRUE)', '1aTRUE'],
    ['COUNT(UNIQUE(JOIN(1, 1, 2)))', '2'],
    ['XOR(TRUE, TRUE, TRUE)', 'TRUE'],
  ]);
  test('a sum in any order is the same, exact in decimal', () => {
    const cents = fc.array(fc.integer({ min: -99_999, max: 99_999 }), { minLength: 1, maxLength: 20 });
    fc.assert(
      fc.property(cents, (list) => {
        const total = list.reduce((a, b) => a + b, 0);
        const written = list.map((n) => `(${n} / 100)`);
        const expected = evaluateText(`${total < 0 ? '-' : ''}${Math.abs(total)} / 100`);
        expect(evaluateText(`SUM(${written.join(', ')})`)).toBe(expected);
        expect(evaluateText(`SUM(${[...written].reverse().join(', ')})`)).toBe(expected);
      }),
    );
  });
});
