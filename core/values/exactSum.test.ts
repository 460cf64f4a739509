import { Decimal } from 'decimal.js';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { canonical } from './decimal.ts';
import { ExactSum } from './exactSum.ts';

// so many digits that nothing is ever cut off
const Big = Decimal.clone({ precision: 2000, rounding: Decimal.ROUND_HALF_UP, toExpNeg: -9e15, toExpPos: 9e15 });
const expected = (ns: readonly number[]): number => {
  const n = ns.reduce((all, x) => all.plus(x), new Big(0)).toSignificantDigits(15).toNumber(); // prettier-ignore
  return n === 0 ? 0 : n;
};
const price = fc.integer({ min: -9_999_999, max: 9_999_999 }).map((n) => n / 100);
const wide = fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e9, max: 1e9 }).map(canonical);
const any = fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e300, max: 1e300 }).map(canonical);
// quotients have digits that are cut only at the end
const quotient = fc.tuple(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 1, max: 1e6 })).map(([a, b]) => a / b);
const number = fc.oneof(price, wide, any, quotient, fc.constantFrom(0, 1e-300, -1e-300, 1e15, 999_999_999_999_999, 0.1, 5e-324, 1.005));

describe('a sum that is kept exactly', () => {
  test('is what a library of enough digits adds up to, cut once', () => {
    fc.assert(
      fc.property(fc.array(number, { maxLength: 60 }), (ns) => {
        const sum = new ExactSum();
        for (const n of ns) sum.add(n);
        expect(sum.value).toBe(expected(ns));
      }),
      { numRuns: 3000 },
    );
  });

  test('forgets what is taken out, whatever came in between', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(number, fc.boolean()), { maxLength: 60 }), (ns) => {
        const sum = new ExactSum();
        for (const [n] of ns) sum.add(n);
        for (const [n, stays] of ns) if (!stays) sum.remove(n);
        expect(sum.value).toBe(expected(ns.filter(([, stays]) => stays).map(([n]) => n)));
      }),
      { numRuns: 3000 },
    );
  });

  test('rounds halves away from zero, and is Infinity where it is too large', () => {
    const of = (...ns: number[]): number => ns.reduce((sum, n) => (sum.add(n), sum), new ExactSum()).value;
    expect(of(999_999_999_999_999, 0.5)).toBe(1e15);
    expect(of(-999_999_999_999_998, -0.5)).toBe(-999_999_999_999_999);
    expect(of(9e307, 9e307)).toBe(Infinity);
    expect(Object.is(of(0.1, -0.1), 0)).toBe(true);
  });
});
