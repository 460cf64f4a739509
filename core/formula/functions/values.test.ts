import { Decimal } from 'decimal.js';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { evaluate, evaluateText } from '../../testing/scope.ts';

type Cases = readonly (readonly [formula: string, result: string])[];
const cases = (name: string, list: Cases): void => {
  describe(name, () => {
    test.each(list)('%s gives %s', (formula, result) => {
      expect(evaluateText(formula)).toBe(result);
    });
  });
};

cases('a value is held to 15 digits before anything asks of it', [
  ['125^(1/3) = 5', 'TRUE'],
  ['INT(125^(1/3))', '5'],
  ['ROUNDUP(125^(1/3))', '5'],
  ['CEILING(125^(1/3))', '5'],
  ['FLOOR(125^(1/3))', '5'],
  ['MOD(125^(1/3), 5)', '0'],
  ['ISODD(125^(1/3))', 'TRUE'],
  ['LEFT("marrow", 125^(1/3))', 'marro'],
  ['INT(0.1 + 0.7 + 0.2)', '1'],
  ['1/3*3', '1'],
  ['SUM(1/3, 1/3, 1/3)', '1'],
  ['2^0.5^2', '2'],
]);

cases('exact to the 15th digit', [
  ['FACT(20)', '2432902008176640000'],
  ['FACT(25)', '15511210043331000000000000'],
  ['COMBIN(60, 30)', '118264581564861000'],
  ['1.1^3', '1.331'],
  ['PRODUCT(1.1, 1.1, 1.1)', '1.331'],
  ['MOD(1E20 + 0, 7)', '2'],
  ['MOD(-1E20, 7)', '5'],
  ['LCM(999999999989, 999999999961)', '999999999950000000000000'],
  ['GCD(1E20, 3E15)', '1000000000000000'],
]);

test('powers, products and remainders are those of the decimal library, cut once', () => {
  const Big = Decimal.clone({ precision: 600, rounding: Decimal.ROUND_HALF_UP, modulo: Decimal.ROUND_FLOOR });
  const held = (x: Decimal): number => x.toSignificantDigits(15).toNumber() || 0;
  const number = fc
    .tuple(fc.integer({ min: -999_999_999_999_999, max: 999_999_999_999_999 }), fc.integer({ min: 0, max: 14 }))
    .map(([n, d]) => Number(`${n}e-${d}`));
  fc.assert(
    fc.property(number, number, fc.integer({ min: 0, max: 9 }), (a, b, n) => {
      expect(evaluate(`(${a})^${n}`)).toBe(held(new Big(a).pow(n)));
      expect(evaluate(`PRODUCT(${a}, ${b}, ${a})`)).toBe(held(new Big(a).times(b).times(a)));
      if (b !== 0) expect(evaluate(`MOD(${a}, ${b})`)).toBe(held(new Big(a).mod(b)));
    }),
    { numRuns: 1000 },
  );
});

cases('questions about a value answer FALSE when it fails', [
  ['ISNUMBER(SEARCH("q", "marrow"))', 'FALSE'],
  ['ISNUMBER(SEARCH("r", "marrow"))', 'TRUE'],
  ['ISTEXT(1 / 0)', 'FALSE'],
  ['ISBLANK(NA())', 'FALSE'],
  ['ISLOGICAL(1 / 0 = 1)', 'FALSE'],
  ['ISNONTEXT(1 / 0)', 'FALSE'],
  ['ISNONTEXT(EMPTY())', 'TRUE'],
  ['ISNONTEXT(DATE(2026, 3, 1))', 'TRUE'],
  ['T(DATE(2026, 3, 1))', ''],
]);

cases('criteria', [
  ['COUNTIF(JOIN("10", "9", "abc"), ">5")', '2'],
  ['COUNTIF(JOIN(10, 9, 1), ">5")', '2'],
  ['COUNTIF(JOIN("5", "x"), 5)', '0'],
  ['SUMIF(JOIN(1, 2, 3), "<>2")', '4'],
  ['COUNTIF(JOIN(0.5, 0.25), "50%")', '1'],
  ['COUNTIF(JOIN(DATE(2026, 3, 1), DATE(2026, 4, 1)), ">=2026-03-15")', '1'],
  ['COUNTIF(JOIN(DATE(2026, 3, 1), DATE(2026, 4, 1)), DATE(2026, 3, 1))', '1'],
  ['COUNTIF(JOIN(DATE(2026, 3, 1)), "2026-03-01 00:00")', '1'],
  ['COUNTIF(JOIN(TIME(9, 30, 0), TIME(10, 0, 0)), "<10:00")', '1'],
  ['COUNTIF(JOIN(TRUE, FALSE, TRUE), "TRUE")', '2'],
  ['COUNTIF(JOIN(1, 2), "abc")', '0'],
  ['COUNTIF(JOIN(1, 2), "<>abc")', '2'],
  ['COUNTIF(JOIN("Étang", "e" & UNICHAR(769) & "tang"), "éTANG")', '2'],
  ['MATCH("<5", JOIN("a", "<5"), 0)', '2'],
  ['COUNTIFS(JOIN(1, 5, 9), ">4", JOIN("a", "A", "b"), "a")', '1'],
  ['SUMIFS(JOIN(1, 2, 4), JOIN(DATE(2026, 1, 1), DATE(2026, 2, 1), DATE(2026, 3, 1)), ">2026-01-15")', '6'],
]);

cases('dates and times', [
  ['DATE(2026, 3, 2) - DATE(2026, 3, 1)', '1'],
  ['moment - DATE(2026, 3, 1)', '0.5'],
  ['moment - (moment - 0.25)', '0.25'],
  ['moment + 0.5', '2026-03-02 00:00:00'],
  ['moment + 1 / 24', '2026-03-01 13:00:00'],
  ['DATE(2026, 3, 1) + 1.9', '2026-03-02'],
  ['midnight = DATE(2026, 3, 1)', 'TRUE'],
  ['midnight IN (DATE(2026, 3, 1))', 'TRUE'],
  ['DATE(2026, 3, 1) IN (midnight)', 'TRUE'],
  ['midnight BETWEEN DATE(2026, 3, 1) AND moment', 'TRUE'],
  ['DATE(2026, 3, 1) BETWEEN midnight AND moment', 'TRUE'],
  ['SWITCH(midnight, DATE(2026, 3, 1), "day", "none")', 'day'],
  ['SWITCH("é", "e" & UNICHAR(769), "same", "none")', 'same'],
  ['COUNTA(UNIQUE(JOIN("é", "E" & UNICHAR(769), "ÉE")))', '2'],
  ['PROPER("e" & UNICHAR(769) & "TANG o\'brien")', "Étang O'Brien"],
]);

cases('rounding to a step', [
  ['CEILING(-4.5, 2)', '-4'],
  ['CEILING(-4.5, 2, 1)', '-6'],
  ['FLOOR(-4.5, 2)', '-6'],
  ['FLOOR(-4.5, 2, 1)', '-4'],
  ['CEILING(4.5, 2, 1)', '6'],
  ['CEILING(0.3, 0.1)', '0.3'],
]);

cases('format codes', [
  ['TEXT(12345, "0.00E+00")', '1.23E+04'],
  ['TEXT(0.00012345, "0.0E-0")', '1.2E-4'],
  ['TEXT(9.996, "0.00E+0")', '1.00E+1'],
  ['TEXT(12345, "##0.0E+0")', '12.3E+3'],
  ['TEXT(-1500, "0E+0")', '-2E+3'],
  ['TEXT(0, "0.0E+0")', '0.0E+0'],
  ['TEXT(1234.5, "General")', '1234.5'],
  ['TEXT(-3, "General ""kg""")', '-3 kg'],
  ['TEXT(5551234, "(###) ###-####")', '() 555-1234'],
  ['TEXT(12, "000-000")', '000-012'],
  ['TEXT(1234567, "#,##0,")', '1,235'],
  ['TEXT(1234567, "0.0,,")', '1.2'],
  ['TEXT(12345.678, "#,##0.##")', '12,345.68'],
  ['TEXT(5, "#.##")', '5.'],
  ['TEXT(0.5, "0.0?")', '0.5 '],
  ['TEXT(-0.001, "0.00")', '0.00'],
  ['TEXT(1.5, "[h]:mm")', '36:00'],
  ['TEXT(-0.25, "[h]:mm:ss")', '-6:00:00'],
  ['TEXT(TIME(9, 5, 0), "[m]")', '545'],
  ['TEXT(0.5, "# ?/?")', 'error: badArgument'],
  ['TEXT(0.5, "[Red]0")', 'error: badArgument'],
  ['TEXT(0.5, "0@")', 'error: badArgument'],
  ['TEXT(DATE(2026, 3, 1), "0.00")', 'error: badArgument'],
  ['TEXT(moment, "[h]:mm")', 'error: badArgument'],
  ['TEXT(3, "yyyy")', 'error: badArgument'],
  ['VALUE("1,234.5")', '1234.5'],
  ['VALUE("12,34")', 'error: badArgument'],
  ['VALUE("5%")', '0.05'],
  ['CONCAT("a", JOIN(1, 2), EMPTY())', 'a12'],
]);
