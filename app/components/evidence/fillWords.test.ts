import fc from 'fast-check';
import { expect, test } from 'vitest';
import { sharesOf } from './fillWords';

test('shares of a whole add up to 100, and none is a whole per cent off', () => {
  expect(sharesOf([354, 46, 0])).toEqual(['89 %', '11 %', '0 %']);
  expect(sharesOf([0, 0])).toEqual(['0 %', '0 %']);
  expect(sharesOf([])).toEqual([]);
  fc.assert(
    fc.property(fc.array(fc.nat(100_000), { minLength: 1, maxLength: 8 }), (parts) => {
      const whole = parts.reduce((a, b) => a + b, 0);
      const shares = sharesOf(parts).map((s) => Number(s.slice(0, -2)));
      expect(shares.reduce((a, b) => a + b, 0)).toBe(whole ? 100 : 0);
      shares.forEach((s, i) => expect(Math.abs(s - (whole ? (100 * parts[i]!) / whole : 0))).toBeLessThan(1));
    }),
  );
});
