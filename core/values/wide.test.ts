import { Decimal } from 'decimal.js';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { type RoundingMode, add, canonical, divide, modulo, multiply, power, product, roundTo, squareRoot, subtract } from './decimal.ts';
import { inversePowerOf, powerOf, productOf, rootOf } from './longProduct.ts';
import { nearProduct, nearQuotient, nearSum, writtenError } from './wide.ts';

/* Products, sums and roundings of numbers with many digits, held against the decimal library: by chance, at ties and at the ends. */

const Big = Decimal.clone({ precision: 120, rounding: Decimal.ROUND_HALF_UP, toExpNeg: -400, toExpPos: 400 });
const to15 = (x: Decimal): number => {
  const n = x.toSignificantDigits(15).toNumber();
  return n === 0 ? 0 : n;
};
/** Numbers from chance, quicker than a library makes them: any count of digits up to 15, any scale, both signs. */
function numbers(seed: number): () => number {
  let state = seed >>> 0 || 1;
  const next = (): number => {
    state ^= state << 13;
    state >>>= 0;
    state ^= state >>> 17;
    state ^= state << 5;
    state >>>= 0;
    return state;
  };
  return () => {
    const digits = 1 + (next() % 15);
    let text = '';
    for (let i = 0; i < digits; i++) text += String(next() % 10);
    return Number(`${next() % 2 ? '-' : ''}${text}e${-(next() % 16)}`);
  };
}
const MODES: readonly (readonly [RoundingMode, Decimal.Rounding])[] = [
  ['halfAway', Decimal.ROUND_HALF_UP], ['up', Decimal.ROUND_UP], ['down', Decimal.ROUND_DOWN],
  ['floor', Decimal.ROUND_FLOOR], ['ceiling', Decimal.ROUND_CEIL], ['halfEven', Decimal.ROUND_HALF_EVEN],
]; // prettier-ignore

test('of 400,000 pairs by chance, every product, sum, difference, quotient and rounding is the library’s', () => {
  const draw = numbers(20_261_128);
  const wrong: unknown[] = [];
  for (let i = 0; i < 400_000 && wrong.length < 5; i++) {
    const [a, b] = [draw(), draw()];
    if (multiply(a, b) !== to15(new Big(a).times(b))) wrong.push(['*', a, b]);
    if (add(a, b) !== to15(new Big(a).plus(b))) wrong.push(['+', a, b]);
    if (subtract(a, b) !== to15(new Big(a).minus(b))) wrong.push(['-', a, b]);
    if (b !== 0 && divide(a, b) !== new Big(a).div(b).toNumber()) wrong.push(['/', a, b]);
    const [mode, library] = MODES[i % MODES.length]!;
    const digits = (i % 19) - 4;
    const unit = new Big(10).pow(-digits);
    const whole = digits >= 0 ? new Big(a).toDecimalPlaces(digits, library) : new Big(a).div(unit).toDecimalPlaces(0, library).times(unit);
    if (roundTo(a, digits, mode) !== to15(whole)) wrong.push([mode, a, digits]);
  }
  expect(wrong).toEqual([]);
}, 120_000);

test('of 100,000 pairs with quotients among them, which have 16 or 17 digits, every product, sum, quotient and rounding is the library’s, and nearly all need no library', () => {
  const draw = numbers(20_261_129);
  const wrong: unknown[] = [];
  let [untold, all] = [0, 0];
  for (let i = 0; i < 100_000 && wrong.length < 5; i++) {
    const a = divide(draw(), draw() || 1);
    // what was divided by 3, 6 or 7 and is multiplied by it again lies next to a short number; the rest lies anywhere
    const b = i % 3 === 0 ? draw() : i % 3 === 1 ? [3, 6, 7, 0.3, 1.5][i % 5]! : divide(draw(), draw() || 1);
    // a sum is carried with 40 digits: what lies further apart is out of them
    const isNear = [a, b].every((n) => n === 0 || (Math.abs(n) > 1e-10 && Math.abs(n) < 1e14));
    if (multiply(a, b) !== to15(new Big(a).times(b))) wrong.push(['*', a, b]);
    if (isNear && add(a, b) !== to15(new Big(a).plus(b))) wrong.push(['+', a, b]);
    if (isNear && subtract(a, b) !== to15(new Big(a).minus(b))) wrong.push(['-', a, b]);
    if (b !== 0 && divide(a, b) !== new Big(a).div(b).toNumber()) wrong.push(['/', a, b]);
    if (canonical(a) !== (a === 0 ? 0 : Number(a.toPrecision(15)))) wrong.push(['15', a]);
    const within = (n: number) => Math.abs(n) > 1e-6 && Math.abs(n) < 1e15;
    if ([a, b, a * b, a + b].every(within)) {
      all += 3;
      untold += [nearProduct(a, b), nearSum(a, b), nearQuotient(a, b)].filter(Number.isNaN).length;
    }
  }
  expect(wrong).toEqual([]);
  expect(all).toBeGreaterThan(10_000);
  // ties are for the library: a third of these are multiplied by what they were divided by
  expect(untold / all).toBeLessThan(0.02);
}, 120_000);

test('by how much the decimal that a number is written as is more than the double: what the library says, to more digits than are asked', () => {
  const draw = numbers(20_261_130);
  for (let i = 0; i < 20_000; i++) {
    const a = [draw(), divide(draw(), draw() || 1), draw() / 3, divide(draw(), 1024)][i % 4]!;
    const size = Math.abs(a);
    const error = writtenError(a);
    if (!(size >= 1e-6 && size < 1e15)) expect(error).toBeNaN();
    else {
      const exact = new Big(a).minus(new Big(a.toPrecision(100)));
      expect(
        exact
          .minus(error)
          .abs()
          .lte(
            exact
              .abs()
              .times(1e-15)
              .plus(size * 1e-31),
          ),
        `${a}`,
      ).toBe(true);
    }
  }
  expect(writtenError(Infinity)).toBeNaN();
  expect(writtenError(NaN)).toBeNaN();
});

test('ties go away from zero: products and sums that lie exactly between two numbers of 15 digits', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1e14, max: 4.9e14 }), fc.integer({ min: 0, max: 12 }), fc.integer({ min: 0, max: 10 }), fc.boolean(),
      (q, zeros, scale, negative) => {
        const sign = negative ? -1 : 1;
        // (2q + 1) · 5 · 10^zeros is q and a half, and zeros
        const [a, b] = [Number(`${sign * (2 * q + 1)}e-${scale}`), Number(`5e${zeros}`)];
        expect(multiply(a, b)).toBe(to15(new Big(a).times(b)));
        expect(multiply(a, b)).toBe(Number(`${sign * (q + 1)}e${zeros + 1 - scale}`));
        // q and a half as a sum
        expect(add(sign * q, sign * 0.5)).toBe(sign * (q + 1));
        expect(add(sign * (q + 1), sign * -0.5)).toBe(sign * (q + 1));
      },
    ),
    { numRuns: 3000 },
  ); // prettier-ignore
});

test('at the ends: the largest and smallest mantissas, powers of ten, what cancels, and what is longer than 15 digits', () => {
  const ends = [0, 1, 9.99999999999999, 999_999_999_999_999, 100_000_000_000_000, 1e15, 1e-15, 0.1, 1.5e-8, 123_456_789_012_345, 2.22044604925031e-7, 1e22, 1e100, 3e-200, 1 / 3, 2 / 3, 0.1 + 0.2, 1e15 / 7]; // prettier-ignore
  const all = [...ends, ...ends.map((n) => -n)];
  for (const a of all)
    for (const b of all) {
      expect(multiply(a, b), `${a} * ${b}`).toBe(to15(new Big(a).times(b)));
      expect(add(a, b), `${a} + ${b}`).toBe(to15(new Big(a).plus(b)));
      if (b !== 0 && a !== 0) expect(divide(a, b), `${a} / ${b}`).toBe(new Big(a).div(b).toNumber());
    }
  fc.assert(
    fc.property(fc.integer({ min: -999_999_999_999_999, max: 999_999_999_999_999 }), fc.integer({ min: -3, max: 3 }), (n, d) => {
      const [a, b] = [Number(`${n}e-9`), Number(`${-(n + d)}e-9`)];
      expect(add(a, b)).toBe(to15(new Big(a).plus(b)));
    }),
  );
});

/** The same as the library gives it for a power: whole exponents from 0 on cut to 15 digits, below 0 like a quotient. */
const poweredByLibrary = (a: number, n: number): number => (n >= 0 ? to15(new Big(a).pow(n)) : new Big(a).pow(n).toNumber());

test('of 100,000 products of three to six and 100,000 powers by chance, every one is the library’s, and nearly all need no library', () => {
  const draw = numbers(20_261_130);
  const wrong: unknown[] = [];
  let [untold, all] = [0, 0];
  for (let i = 0; i < 100_000 && wrong.length < 5; i++) {
    // prices, shares and counts, and what was divided and has 17 digits
    const ns = Array.from({ length: 3 + (i % 4) }, (_, k) => (i % 7 === 0 && k === 1 ? divide(draw(), 7) : draw()));
    const expected = to15(ns.reduce((all, n) => all.times(n), new Big(1)));
    if (product(ns) !== expected) wrong.push(['*', ns]);
    const isWithin = ns.every((n) => Math.abs(n) > 1e-7) && Math.abs(expected) > 1e-7 && Math.abs(expected) < 1e22;
    if (isWithin) {
      all++;
      if (Number.isNaN(productOf(ns))) untold++;
    }
    const a = i % 5 === 0 ? divide(draw(), 3) : i % 3 === 0 ? add(1, divide(draw(), 1e15)) : draw();
    const n = ((i * 7) % 40) - 12 || 3;
    if (a !== 0 && power(a, n) !== poweredByLibrary(a, n)) wrong.push(['^', a, n]);
  }
  expect(wrong).toEqual([]);
  expect(all).toBeGreaterThan(10_000);
  expect(untold / all).toBeLessThan(0.05);
}, 120_000);

test('interest over hundreds of months, and what it is worth today, need no library and are the library’s', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 999_999 }),
      fc.integer({ min: 4, max: 9 }),
      fc.integer({ min: 1, max: 480 }),
      (rate, scale, months) => {
        const a = add(1, Number(`${rate}e-${scale + 4}`));
        expect(powerOf(a, months)).toBe(poweredByLibrary(a, months));
        expect(inversePowerOf(a, months)).toBe(poweredByLibrary(a, -months));
      },
    ),
    { numRuns: 3000 },
  );
});

test('products and powers that lie exactly between two numbers of 15 digits go away from zero; those beside them do not', () => {
  for (const sign of [1, -1]) {
    // 3 · 5 · … of sixteen digits ending in 5
    const odd = 123_456_789_012_345;
    expect(product([sign * odd, 3, 3])).toBe(to15(new Big(sign * odd).times(9)));
    expect(product([sign * 246_913_578_024_691, 5, 1])).toBe(sign * 1_234_567_890_123_460);
    expect(product([sign * 246_913_578_024_691, 5, 0.999999999999999])).toBe(sign * 1_234_567_890_123_450);
    // 2.5^k has 4k/… digits, all of them known: at sixteen the last is a 5
    for (let k = 3; k < 40; k++)
      for (const base of [2.5, 1.5, 0.5, 4.5, 11, 1.05, 99999]) expect(power(sign * base, k)).toBe(to15(new Big(sign * base).pow(k)));
  }
  expect([power(0, 3), power(0, 0), power(0, -1), power(5, 0), power(1, 1e9), power(-1, 3), power(1e200, 3)]).toEqual([
    0,
    1,
    Infinity,
    1,
    1,
    -1,
    Infinity,
  ]);
  expect([product([]), product([7.25]), product([0, 1e300, 5]), product([1e300, 1e300, 1e300])]).toEqual([1, 7.25, 0, Infinity]);
});

test('of 100,000 roots and remainders by chance, every one is the library’s; roots of held numbers need no library', () => {
  const draw = numbers(20_261_131);
  const Floor = Big.clone({ modulo: Decimal.ROUND_FLOOR });
  const wrong: unknown[] = [];
  for (let i = 0; i < 100_000 && wrong.length < 5; i++) {
    const [a, b] = [draw(), i % 3 === 0 ? 1 + (i % 60) : draw()];
    const size = i % 4 === 0 ? divide(Math.abs(a), 7) : i % 4 === 1 ? power(Math.round(a) % 10_000_000, 2) : Math.abs(a);
    const expected = new Big(size).sqrt().toNumber();
    if (squareRoot(size) !== expected) wrong.push(['√', size]);
    if (i % 4 > 1 && size > 1e-7 && rootOf(size) !== expected) wrong.push(['√ untold', size]);
    if (b !== 0 && modulo(a, b) !== to15(new Floor(a).mod(b))) wrong.push(['mod', a, b]);
  }
  expect(wrong).toEqual([]);
  expect([squareRoot(0), squareRoot(2), squareRoot(1e-300), squareRoot(4e300), squareRoot(-1)]).toEqual([
    0,
    Math.SQRT2,
    1e-150,
    2e150,
    NaN,
  ]);
}, 120_000);
