import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { evaluateText } from '../../testing/scope.ts';
import { type Formatted, formatMoment, formatNumber } from './format.ts';

const wrote = (f: Formatted): string => (f.ok ? f.text : f.message);

/* Values computed by hand or taken from the standard's own examples (OpenFormula, part 4). */
const cases = (name: string, list: readonly (readonly [formula: string, result: string])[]): void => {
  describe(name, () => {
    test.each(list)('%s gives %s', (formula, result) => {
      expect(evaluateText(formula)).toBe(result);
    });
  });
};

cases('numbers and dates as text', [
  ['TEXT(0, "0.00")', '0.00'],
  ['TEXT(12.3456, "0.00")', '12.35'],
  ['TEXT(-12.345, "0.00")', '-12.35'],
  ['TEXT(0.5, "#.##")', '.5'],
  ['TEXT(5, "000")', '005'],
  ['TEXT(1234567, "#,##0")', '1,234,567'],
  ['TEXT(999, "#,##0")', '999'],
  ['TEXT(1234567, "#,##0,")', '1,235'],
  ['TEXT(0.07, "0%")', '7%'],
  ['TEXT(0.075, "0.0%")', '7.5%'],
  ['TEXT(5, "0 ""packets""")', '5 packets'],
  ['TEXT(-3, "0;""minus ""0")', 'minus 3'],
  ['TEXT(0, "0;-0;none")', 'none'],
  ['TEXT(2.5, "0.###")', '2.5'],
  ['TEXT(2, "0.###")', '2.'],
  ['TEXT(DATE(2026, 3, 9), "dd.mm.yyyy")', '09.03.2026'],
  ['TEXT(DATE(2026, 3, 9), "dddd, d mmm yy")', 'Monday, 9 Mar 26'],
  ['TEXT(TIME(9, 5, 7), "hh:mm:ss")', '09:05:07'],
  ['TEXT(TIME(15, 5, 7), "h:mm AM/PM")', '3:05 PM'],
  ['TEXT(TIME(0, 5, 0), "h:mm AM/PM")', '12:05 AM'],
  ['TEXT(EMPTY(), "0")', 'empty'],
  ['TEXT(5, "d mmmm")', 'error: badArgument'],
  ['FIXED(1234567.891, 2)', '1,234,567.89'],
  ['FIXED(-0.5, 0)', '-1'],
  ['NUMBERVALUE("1 234,56", ",", " ")', '1234.56'],
  ['NUMBERVALUE("50%")', '0.5'],
  ['NUMBERVALUE("x")', 'error: badArgument'],
]);

cases('places in lists', [
  ['MATCH(5, JOIN(1, 3, 5), 0)', '3'],
  ['MATCH(4, JOIN(1, 3, 5))', '2'],
  ['MATCH(4, JOIN(5, 3, 1), -1)', '1'],
  ['MATCH("W*", JOIN("dry", "wet"), 0)', '2'],
  ['MATCH(9, JOIN(1, 3, 5), 0)', 'error: notFound'],
  ['INDEX(JOIN(4, 5, 6), 1)', '4'],
  ['INDEX(JOIN(4, 5, 6), 0)', 'error: badArgument'],
  ['LOOKUP(5, JOIN(1, 5, 9), JOIN("a", "b", "c"))', 'b'],
  ['LOOKUP(0, JOIN(1, 5, 9), JOIN("a", "b", "c"))', 'error: notFound'],
  ['IFNA(LOOKUP(0, JOIN(1, 5)), -1)', '-1'],
  ['COUNTIFS(JOIN(1, 2, 3, 4), ">1", JOIN(4, 3, 2, 1), ">1")', '2'],
  ['SUMIFS(JOIN(10, 20, 30), JOIN("a", "b", "a"), "a")', '40'],
  ['SUMIFS(JOIN(10, 20), JOIN("a", "b", "a"), "a")', 'error: badArgument'],
  ['AVERAGEIFS(JOIN(1, 2), JOIN("a", "b"), "c")', 'empty'],
  ['MINIFS(JOIN(3, 1, 2), JOIN(1, 0, 1), 1)', '2'],
  ['FIRST(SORT(JOIN(3, 1, 2)))', '1'],
]);

cases('bits and bases', [
  ['BITAND(13, 11)', '9'],
  ['BITOR(13, 11)', '15'],
  ['BITXOR(13, 11)', '6'],
  ['BITAND(-1, 1)', 'error: badArgument'],
  ['BITLSHIFT(1, 10)', '1024'],
  ['BITRSHIFT(1024, 3)', '128'],
  ['DEC2BIN(9, 8)', '00001001'],
  ['DEC2BIN(-2)', '1111111110'],
  ['DEC2BIN(512)', 'error: badArgument'],
  ['BIN2DEC("1111111110")', '-2'],
  ['DEC2HEX(255)', 'FF'],
  ['HEX2DEC("ff")', '255'],
  ['HEX2DEC("FFFFFFFFFF")', '-1'],
  ['OCT2DEC("17")', '15'],
  ['DEC2OCT(15, 1)', 'error: badArgument'],
  ['BIN2DEC("12")', 'error: badArgument'],
]);

cases('counting and angles', [
  ['FACTDOUBLE(0)', '1'],
  ['FACTDOUBLE(8)', '384'],
  ['COMBINA(4, 0)', '1'],
  ['COMBINA(0, 1)', 'error: badArgument'],
  ['PERMUTATIONA(4, 0)', '1'],
  ['MULTINOMIAL(2, 3, 4)', '1260'],
  ['ROUND(ASINH(1), 8)', '0.88137359'],
  ['ROUND(ACOSH(2), 8)', '1.3169579'],
  ['ROUND(ATANH(0.5), 8)', '0.54930614'],
  ['ATANH(1)', 'error: badArgument'],
  ['COT(0)', 'error: divideByZero'],
  ['ROUND(ACOT(-1), 8)', '2.35619449'],
]);

cases('two lists beside each other', [
  ['ROUND(CORREL(JOIN(1, 2, 3, 5), JOIN(2, 3, 5, 9)), 6)', '0.993019'],
  ['CORREL(JOIN(1, 1), JOIN(1, 2))', 'error: divideByZero'],
  ['SLOPE(JOIN(2, 3, 9), JOIN(1, 2, 3))', '3.5'],
  ['ROUND(INTERCEPT(JOIN(2, 3, 9), JOIN(1, 2, 3)), 10)', '-2.3333333333'],
  ['FORECAST(30, JOIN(6, 7, 9, 15, 21), JOIN(20, 28, 31, 38, 40))', '10.6072530864197'],
  ['SUMX2MY2(JOIN(3, 4), JOIN(1, 2))', '20'],
  ['SUMXMY2(JOIN(3, 4), JOIN(1, 2))', '8'],
  ['COVAR(JOIN(3, 2, 4, 5, 6), JOIN(9, 7, 12, 15, 17))', '5.2'],
]);

cases('loans', [
  ['ROUND(PMT(0.1 / 12, 36, 8000), 2)', '-258.14'],
  ['ROUND(IPMT(0.1 / 12, 1, 36, 8000), 2)', '-66.67'],
  ['ROUND(PPMT(0.1 / 12, 1, 24, 2000), 2)', '-75.62'],
  ['ROUND(IPMT(0.1 / 12, 2, 36, 8000) + PPMT(0.1 / 12, 2, 36, 8000), 2)', '-258.14'],
  ['ROUND(CUMIPMT(0.09 / 12, 360, 125000, 13, 24, 0), 2)', '-11135.23'],
  ['ROUND(CUMPRINC(0.09 / 12, 360, 125000, 13, 24, 0), 2)', '-934.11'],
  ['ROUND(RATE(48, -200, 8000), 6)', '0.007701'],
  ['ROUND(IRR(JOIN(-70000, 12000, 15000, 18000, 21000, 26000)), 4)', '0.0866'],
  ['IRR(JOIN(1, 2))', 'error: badArgument'],
  ['ROUND(RRI(96, 10000, 11000), 7)', '0.0009933'],
  ['ROUND(PDURATION(0.025, 2000, 2200), 4)', '3.8599'],
  ['ROUND(DB(1000000, 100000, 6, 1, 7), 2)', '186083.33'],
  ['ROUND(DB(1000000, 100000, 6, 2, 7), 2)', '259639.42'],
]);

cases('dates', [
  ['EASTERSUNDAY(2024)', '2024-03-31'],
  ['EASTERSUNDAY(1991)', '1991-03-31'],
  ['EASTERSUNDAY(2038)', '2038-04-25'],
  ['DAYS360(DATE(2026, 1, 31), DATE(2026, 2, 28))', '28'],
  ['DAYS360(DATE(2026, 1, 31), DATE(2026, 2, 28), TRUE)', '28'],
  ['YEARFRAC(DATE(2024, 1, 1), DATE(2024, 7, 1), 1)', '0.497267759562842'],
  ['YEARFRAC(DATE(2026, 1, 1), DATE(2027, 1, 1), 1)', '1'],
  ['TIMEVALUE("23:59:59")', '23:59:59'],
  ['DAYSINMONTH(DATE(2026, 2, 1))', '28'],
  ['ISLEAPYEAR(DATE(1900, 1, 1))', 'FALSE'],
  ['NEXTWEEKDAY(DATE(2026, 3, 7), 6)', '2026-03-07'],
]);

cases('errors tell apart', [
  ['ISERR(MATCH(1, JOIN(2), 0))', 'FALSE'],
  ['ISNA(MATCH(1, JOIN(2), 0))', 'TRUE'],
  ['IFNA(1 / 0, 5)', 'error: divideByZero'],
  ['IFERROR(NA(), "none")', 'none'],
  ['ISNONTEXT(EMPTY())', 'TRUE'],
]);

test('a number to two decimals reads back as the number rounded', () => {
  fc.assert(
    fc.property(fc.integer({ min: -1e9, max: 1e9 }), (n) => {
      const text = wrote(formatNumber(n / 100, '#,##0.00'));
      expect(Number(text.replaceAll(',', ''))).toBe(n / 100);
      expect(text).toMatch(/^-?\d{1,3}(,\d{3})*\.\d\d$/);
    }),
  );
});
test('a date by parts says the same day', () => {
  fc.assert(
    fc.property(fc.date({ min: new Date('1000-01-01'), max: new Date('9999-12-31'), noInvalidDate: true }), (d) => {
      const iso = d.toISOString().slice(0, 10);
      expect(wrote(formatMoment(iso, 'yyyy-mm-dd'))).toBe(iso);
      expect(Number(wrote(formatMoment(iso, 'd')))).toBe(d.getUTCDate());
    }),
  );
});
test('bases undo each other', () => {
  fc.assert(
    fc.property(fc.integer({ min: -512, max: 511 }), (n) => {
      expect(evaluateText(`BIN2DEC(DEC2BIN(${n}))`)).toBe(String(n));
      expect(evaluateText(`HEX2DEC(DEC2HEX(${n}))`)).toBe(String(n));
    }),
    { numRuns: 60 },
  );
});
