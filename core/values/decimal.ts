/*
 * Problem: people enter decimals (0.1, 12.35) and expect decimal answers (0.1 + 0.2 = 0.3), but a decimal
 * library costs 30 times what a binary addition costs.
 *
 * Solution: every decimal of at most 15 significant digits maps to exactly one double and back. So a number
 * *is* a double, read as the decimal of at most 15 digits nearest to it. Operations find the mantissa of 15 digits
 * and the decimals of each (0.1 → 100000000000000 / 10¹⁵), compute on these whole numbers, where doubles are exact or held
 * as exact pairs, and divide once: IEEE division is correctly rounded, so the result again denotes the exact decimal
 * (see wide.ts). What does not fit there goes through decimal.js with 40 digits. The paths are tested against each other.
 */
import { Decimal as DecimalJs } from 'decimal.js';
import { inversePowerOf, powerOf, productOf, rootOf } from './longProduct.ts';
import {
  MOST_DECIMALS,
  POWERS,
  decimalsOfFull,
  fullProduct,
  fullQuotient,
  fullSum,
  nearProduct,
  nearQuotient,
  nearSum,
  rounded15,
} from './wide.ts';

const Big = DecimalJs.clone({
  precision: 40,
  rounding: DecimalJs.ROUND_HALF_UP,
  toExpNeg: -400,
  toExpPos: 400,
  // the remainder has the sign of the divisor
  modulo: DecimalJs.ROUND_FLOOR,
});

/** Numbers are held to this many significant digits. */
export const SIGNIFICANT_DIGITS = 15;
const LIMIT = 1e15;
/** The largest magnitude a number may have; beyond it operations give Infinity, which callers turn into an error. */
export const MAX_NUMBER = 9.99999999999999e307;

/**
 * The number of decimals of `a` (0–15), or -1 when it cannot be held as an integer below 10¹⁵ times a power
 * of ten. Cost: one multiplication and one division per decimal.
 */
function scaleOf(a: number): number {
  if (Number.isInteger(a)) return a <= LIMIT && a >= -LIMIT ? 0 : -1;
  for (let d = 1; d <= 15; d++) {
    const power = POWERS[d] as number;
    const n = Math.round(a * power);
    if (n > LIMIT || n < -LIMIT) return -1;
    if (n / power === a) return d;
  }
  return -1;
}

/** Decimals that are tried one by one; numbers with more are mostly held to all 15 digits. */
const FEW = 6;
/**
 * A number of decimals of which `a` can be held as an integer below 10¹⁵, the smallest where it is small, else as many as there is room
 * for; -1 where there is none. Quicker than `scaleOf` for numbers of many digits.
 */
function roomOf(a: number): number {
  if (Number.isInteger(a)) return a <= LIMIT && a >= -LIMIT ? 0 : -1;
  for (let d = 1; d <= FEW; d++) {
    const power = POWERS[d] as number;
    const n = Math.round(a * power);
    if (n > LIMIT || n < -LIMIT) return -1;
    if (n / power === a) return d;
  }
  const d = decimalsOfFull(a);
  if (d < 0 || d > MOST_DECIMALS) return -1;
  const power = POWERS[d] as number;
  return Math.round(a * power) / power === a ? d : -1;
}

/** A number as an integer of at most 15 digits and how many of them are decimals, where it can be held so; null elsewhere. */
export function wholeOf(a: number): { readonly whole: number; readonly decimals: number } | null {
  const decimals = roomOf(a);
  return decimals < 0 ? null : { whole: Math.round(a * (POWERS[decimals] as number)), decimals };
}

/** As the nearest double. A value too small to be held becomes 0, as in spreadsheets; -0 is 0. */
const nearest = (x: DecimalJs): number => {
  const n = x.toNumber();
  return n === 0 ? 0 : n;
};
const fromBig = (x: DecimalJs): number => nearest(x.toSignificantDigits(SIGNIFICANT_DIGITS));

/** Rounds a double to the number it denotes: 15 significant digits, halves away from zero. Infinity stays. */
export function canonical(a: number): number {
  if (Number.isInteger(a) && a <= LIMIT && a >= -LIMIT) return a === 0 ? 0 : a;
  const near = rounded15(a);
  if (near === near || !Number.isFinite(a)) return near === near ? near : a;
  // toPrecision rounds the exact value of the double, not its shortest spelling
  return Number(a.toPrecision(SIGNIFICANT_DIGITS));
}

/** a + b where it is exact on scaled integers; null where it is not known to be. */
export function addExact(a: number, b: number): number | null {
  const da = roomOf(a);
  const db = roomOf(b);
  if (da >= 0 && db >= 0) {
    const power = POWERS[da > db ? da : db] as number;
    const na = Math.round(a * power);
    const nb = Math.round(b * power);
    const sum = na + nb;
    if (na <= LIMIT && na >= -LIMIT && nb <= LIMIT && nb >= -LIMIT && sum <= LIMIT && sum >= -LIMIT) {
      return sum === 0 ? 0 : sum / power;
    }
  }
  return null;
}

/** a + b, exact in decimal, held to 15 digits. */
export function add(a: number, b: number): number {
  if (Number.isInteger(a) && Number.isInteger(b)) {
    const sum = a + b;
    if (a <= LIMIT && a >= -LIMIT && b <= LIMIT && b >= -LIMIT && sum <= LIMIT && sum >= -LIMIT) return sum === 0 ? 0 : sum;
  }
  const sa = decimalsOfFull(a);
  const sb = decimalsOfFull(b);
  if (sa >= 0 && sa <= MOST_DECIMALS && sb >= 0 && sb <= MOST_DECIMALS) {
    const pa = POWERS[sa] as number;
    const pb = POWERS[sb] as number;
    const na = Math.round(a * pa);
    const nb = Math.round(b * pb);
    const sum = na / pa === a && nb / pb === b ? fullSum(na, nb, sa, sb) : nearSum(a, b);
    if (sum === sum) return sum;
  }
  if (a === 0 && rounded15(b) === b) return b;
  return b === 0 && rounded15(a) === a ? a : fromBig(new Big(a).plus(b));
}

/** a − b, exact in decimal, held to 15 digits. */
export const subtract = (a: number, b: number): number => add(a, -b);

/** a · b, exact in decimal, held to 15 digits. */
export function multiply(a: number, b: number): number {
  const sa = decimalsOfFull(a);
  const sb = decimalsOfFull(b);
  if (sa >= 0 && sa <= MOST_DECIMALS && sb >= 0 && sb <= MOST_DECIMALS) {
    const pa = POWERS[sa] as number;
    const pb = POWERS[sb] as number;
    const na = Math.round(a * pa);
    const nb = Math.round(b * pb);
    const product = na / pa === a && nb / pb === b ? fullProduct(na, nb, sa + sb) : nearProduct(a, b);
    if (product === product) return product;
  }
  return (a === 0 || b === 0) && Number.isFinite(a + b) ? 0 : fromBig(new Big(a).times(b));
}
/**
 * a ÷ b. A quotient that is a short decimal is exact; any other is the nearest double, some 17 digits, so that what is
 * computed from it can come out even (1 ÷ 3 × 3 is 1). It is held to 15 digits where it is stored, written or compared.
 * Infinity when b is 0: callers make that an error.
 */
export function divide(a: number, b: number): number {
  if (b === 0) return Infinity;
  if (a === 0) return 0;
  const sa = decimalsOfFull(a);
  const sb = decimalsOfFull(b);
  if (sa >= 0 && sa <= MOST_DECIMALS && sb >= 0 && sb <= MOST_DECIMALS) {
    const pa = POWERS[sa] as number;
    const pb = POWERS[sb] as number;
    const na = Math.round(a * pa);
    const nb = Math.round(b * pb);
    if (na / pa === a && nb / pb === b) return fullQuotient(na, nb, sa, sb);
    const quotient = nearQuotient(a, b);
    if (quotient === quotient) return quotient;
  }
  return nearest(new Big(a).div(b));
}

/**
 * The order of two numbers as they are held: -1, 0 or 1. Two that agree to 15 digits are equal. Costs a subtraction
 * unless they are within a hair of each other.
 */
export function compareNumbers(a: number, b: number): number {
  if (a === b) return 0;
  const difference = a - b;
  if (Math.abs(difference) <= 1e-14 * Math.max(Math.abs(a), Math.abs(b)) && canonical(a) === canonical(b)) return 0;
  return difference < 0 ? -1 : 1;
}

/**
 * a to the power b, to 15 digits: exact for whole exponents from 0 on, else like a quotient not cut to 15 yet, so that
 * 2^0.5 squared is 2. NaN where it is not a real number, Infinity where it is too large (callers make these errors).
 */
export function power(a: number, b: number): number {
  // the product of two is cut to 15 digits once, as a power is
  if (b === 2) return multiply(a, a);
  if (!Number.isInteger(b)) return nearest(new Big(a).pow(b));
  const result = b > 0 ? powerOf(a, b) : b < 0 ? inversePowerOf(a, -b) : 1;
  if (result === result) return result;
  return b < 0 ? nearest(new Big(a).pow(b)) : fromBig(new Big(a).pow(b));
}

/** The product of numbers, cut to 15 digits once at the end and not after each step. Infinity where it is too large. */
export function product(ns: readonly number[]): number {
  if (ns.length === 2) return multiply(ns[0] as number, ns[1] as number);
  const result = productOf(ns);
  return result === result ? result : productByLibrary(ns);
}
function productByLibrary(ns: readonly number[]): number {
  let result = new Big(1);
  // 40 digits are carried along: what that leaves out is far behind the 15th
  for (const n of ns) result = result.times(n);
  return fromBig(result);
}

/** A whole number of any size as the number of 15 digits nearest to it; Infinity beyond what a number holds. */
export const fromWhole = (n: bigint): number => fromBig(new Big(n.toString()));
/** The whole part of a number, every digit of it. The number must be finite. */
export const toWhole = (a: number): bigint => BigInt(new Big(a).trunc().toFixed(0));

export type RoundingMode = 'halfAway' | 'up' | 'down' | 'floor' | 'ceiling' | 'halfEven';
const MODES: Readonly<Record<RoundingMode, DecimalJs.Rounding>> = {
  halfAway: DecimalJs.ROUND_HALF_UP,
  up: DecimalJs.ROUND_UP,
  down: DecimalJs.ROUND_DOWN,
  floor: DecimalJs.ROUND_FLOOR,
  ceiling: DecimalJs.ROUND_CEIL,
  halfEven: DecimalJs.ROUND_HALF_EVEN,
};

/**
 * Rounds to `digits` decimals (negative: tens, hundreds, …). The default mode is the standard's ROUND:
 * halves away from zero (OpenFormula 6.17.5). The number is held to 15 digits first, so that what denotes 5 rounds as 5.
 */
export function roundTo(computed: number, digits: number, mode: RoundingMode = 'halfAway'): number {
  const a = canonical(computed);
  const scale = decimalsOfFull(a);
  if (a === 0 || (scale >= 0 && digits >= scale)) return a;
  if (scale >= 0 && scale <= MOST_DECIMALS && digits >= -15)
    return roundMantissa(Math.round(a * (POWERS[scale] as number)), scale, digits, mode);
  return roundBig(a, digits, mode);
}
function roundBig(a: number, digits: number, mode: RoundingMode): number {
  if (digits >= 0) {
    if (digits > 300) return a;
    return fromBig(new Big(a).toDecimalPlaces(digits, MODES[mode]));
  }
  if (digits < -300) return mode === 'up' && a !== 0 ? Infinity : 0;
  const unit = new Big(10).pow(-digits);
  return fromBig(new Big(a).div(unit).toDecimalPlaces(0, MODES[mode]).times(unit));
}

/**
 * Rounds m / 10^scale, of a whole m below 10¹⁵, to fewer decimals on integers: one quotient, whose error is far from the next integer as
 * long as the dividend is below 10¹⁵, and its exact remainder. `digits` must be from -15 on and less than `scale`.
 */
export function roundMantissa(m: number, scale: number, digits: number, mode: RoundingMode): number {
  const n = m < 0 ? -m : m;
  // beyond 10²² powers of ten are not exact; what is cut off there is all of it
  const cut = scale - digits;
  if (cut >= POWERS.length) return roundBig(m / (POWERS[scale] as number), digits, mode);
  const unit = POWERS[cut] as number;
  const quotient = Math.floor(n / unit);
  const rest = n - quotient * unit;
  const isUp =
    mode === 'halfAway' ? rest * 2 >= unit
    : mode === 'halfEven' ? rest * 2 > unit || (rest * 2 === unit && quotient % 2 === 1)
    : mode === 'up' ? rest > 0
    : mode === 'floor' ? rest > 0 && m < 0
    : mode === 'ceiling' ? rest > 0 && m > 0
    : false; // prettier-ignore
  const whole = isUp ? quotient + 1 : quotient;
  if (whole === 0) return 0;
  const rounded = digits >= 0 ? whole / (POWERS[digits] as number) : whole * (POWERS[-digits] as number);
  return m < 0 ? -rounded : rounded;
}

/** The remainder with the sign of the divisor (OpenFormula MOD 6.16.28), exact for numbers of any size. NaN when b is 0. */
export function modulo(a: number, b: number): number {
  if (b === 0) return NaN;
  const [n, m] = [canonical(a), canonical(b)];
  const [da, db] = [roomOf(n), roomOf(m)];
  if (da >= 0 && db >= 0) {
    const power = POWERS[da > db ? da : db] as number;
    const whole = Math.round(m * power);
    const dividend = Math.round(n * power);
    // the processor's remainder of whole numbers is exact
    if (whole <= LIMIT && whole >= -LIMIT && dividend <= LIMIT && dividend >= -LIMIT) {
      const rest = dividend % whole;
      const result = rest !== 0 && rest < 0 !== whole < 0 ? rest + whole : rest;
      return result === 0 ? 0 : result / power;
    }
  }
  return fromBig(new Big(n).mod(m));
}

/** The square root, like a quotient not cut to 15 digits yet. NaN below 0. */
export function squareRoot(a: number): number {
  if (a === 0) return 0;
  const root = a > 0 ? rootOf(a) : NaN;
  return root === root ? root : nearest(new Big(a).sqrt());
}

/** How many decimals the number shows when written in full: 12.35 → 2, 100 → 0. */
export function decimalsOf(a: number): number {
  const scale = scaleOf(a);
  return scale >= 0 ? scale : Math.max(0, new Big(a).decimalPlaces());
}

/** The number as plain digits with a point, without exponent or grouping: what `&` and TEXTJOIN write. */
export function plainNumber(a: number): string {
  const text = String(a);
  return text.includes('e') ? new Big(a).toFixed() : text;
}

/** For functions that are transcendental anyway (EXP, LN, …): computed with 40 digits; like a quotient, not cut to 15 yet. */
export function withBig(a: number, f: (x: DecimalJs) => DecimalJs): number {
  return nearest(f(new Big(a)));
}
