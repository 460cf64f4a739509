/*
 * Products of many factors, powers and roots. Products and powers are told to 15 digits, cut at the end and not after each step. What has
 * been multiplied so far is an unevaluated sum of two doubles, some 31 digits, between 10¹⁴ and 10¹⁵, and how many of its digits are
 * decimals; after each factor a power of ten that is an exact double is taken out of it. How far that may be off is known, so that where
 * it cannot turn the last rounding the result is right, and where it can there is no answer here (Ziv, Fast evaluation of elementary
 * mathematical functions with correctly rounded last bit, 1991): ties, and what lies next to them, are left to the decimal library.
 */
import { MOST_DECIMALS, POWERS, WRITTEN, decimalsOfFull, productError, scaled } from './wide.ts';

/** What one multiplication may be off, as a part of the result: a few units of 2⁻¹⁰⁶ each for the product and the quotient, with room. */
const STEP = 2 ** -100;
/** The largest exponent; beyond it what is uncertain comes near the 15th digit. */
const MOST_TIMES = 1_000_000;

/**
 * What has been multiplied: high + low over 10^decimals, and what of it is uncertain, as a part of it. Kept in an array, since a number
 * with digits in a variable of the module would be an object made anew at each change.
 */
const SO_FAR = new Float64Array(4);
const [HIGH, LOW, DECIMALS, UNCERTAIN] = [0, 1, 2, 3] as const;

/** Begins with a number; false where it has no mantissa of 15 digits. */
function begin(a: number): boolean {
  const s = decimalsOfFull(a);
  if (s < 0 || s > MOST_DECIMALS) return false;
  const power = POWERS[s] as number;
  const m = Math.round(a * power);
  const isHeld = m / power === a;
  // a quotient is not cut to 15 digits yet: what it is written as is meant
  const p = isHeld ? m : a * power;
  SO_FAR[HIGH] = p;
  SO_FAR[LOW] = isHeld ? 0 : productError(a, power, p);
  SO_FAR[DECIMALS] = s;
  SO_FAR[UNCERTAIN] = isHeld ? 0 : WRITTEN;
  return true;
}

/** Multiplies what has been multiplied by h + l over 10^s, so much of which is uncertain. */
function times(h: number, l: number, s: number, doubt: number): void {
  const high = SO_FAR[HIGH] as number;
  const p = high * h;
  const rest = productError(high, h, p) + (high * l + (SO_FAR[LOW] as number) * h);
  const k = p >= 1e29 || p <= -1e29 ? 15 : 14;
  const unit = POWERS[k] as number;
  const quotient = p / unit;
  const back = quotient * unit;
  const less = (p - back - productError(quotient, unit, back) + rest) / unit;
  const next = quotient + less;
  SO_FAR[HIGH] = next;
  SO_FAR[LOW] = less - (next - quotient);
  SO_FAR[DECIMALS] = (SO_FAR[DECIMALS] as number) + s - k;
  SO_FAR[UNCERTAIN] = (SO_FAR[UNCERTAIN] as number) + doubt + STEP;
}

/** What has been multiplied, to 15 digits, halves away from zero; NaN where that cannot be told. */
function ended(): number {
  const high = SO_FAR[HIGH] as number;
  let whole = Math.round(high);
  let fraction = high - whole + (SO_FAR[LOW] as number);
  // `high` alone may lie at a half, where `low` says to which side it belongs
  if (fraction > 0.5) {
    whole++;
    fraction--;
  } else if (fraction < -0.5) {
    whole--;
    fraction++;
  }
  const size = fraction < 0 ? -fraction : fraction;
  return size < 0.5 - (SO_FAR[UNCERTAIN] as number) * 1.1e15 ? scaled(whole, SO_FAR[DECIMALS] as number) : NaN;
}

/**
 * The product of numbers, rounded once, halves away from zero; NaN where plain arithmetic cannot tell it: next to a tie, a factor that is 0
 * or out of 10⁻⁸ to 10¹⁵, a product out of 10⁻⁸ to 10³⁷. Cost: some 20 operations a factor.
 */
export function productOf(ns: readonly number[]): number {
  if (!ns.length || !begin(ns[0] as number)) return NaN;
  for (let i = 1; i < ns.length; i++) {
    const [h, l, s, doubt] = [SO_FAR[HIGH] as number, SO_FAR[LOW] as number, SO_FAR[DECIMALS] as number, SO_FAR[UNCERTAIN] as number];
    if (!begin(ns[i] as number)) return NaN;
    times(h, l, s, doubt);
  }
  return ended();
}

/**
 * Brings what has been multiplied to the power of a whole number from 1 on, by squares, from the highest digit of the exponent on (Knuth,
 * The Art of Computer Programming 2, 4.6.3).
 */
function raise(exponent: number): void {
  const [h, l, s, doubt] = [SO_FAR[HIGH] as number, SO_FAR[LOW] as number, SO_FAR[DECIMALS] as number, SO_FAR[UNCERTAIN] as number];
  for (let digit = 30 - Math.clz32(exponent); digit >= 0; digit--) {
    times(SO_FAR[HIGH] as number, SO_FAR[LOW] as number, SO_FAR[DECIMALS] as number, SO_FAR[UNCERTAIN] as number);
    if ((exponent >> digit) & 1) times(h, l, s, doubt);
  }
}

/** a to the power of a whole number from 1 on, to 15 digits, halves away from zero; NaN where plain arithmetic cannot tell it. */
export function powerOf(a: number, exponent: number): number {
  if (exponent > MOST_TIMES || !begin(a)) return NaN;
  raise(exponent);
  return ended();
}

/** 1 ÷ a to the power of a whole number from 1 on, as the double nearest to it; NaN where plain arithmetic cannot tell it. */
export function inversePowerOf(a: number, exponent: number): number {
  if (exponent > MOST_TIMES || !begin(a)) return NaN;
  raise(exponent);
  const decimals = SO_FAR[DECIMALS] as number;
  if (decimals < 0 || decimals > MOST_DECIMALS) return NaN;
  return nearestQuotient(POWERS[decimals] as number, 0, SO_FAR[HIGH] as number, SO_FAR[LOW] as number, SO_FAR[UNCERTAIN] as number);
}

/** (a + b) ÷ (c + d) as the double nearest to it, of which so much is uncertain, as a part of it; NaN where that can turn the rounding. */
function nearestQuotient(a: number, b: number, c: number, d: number, uncertain: number): number {
  const first = a / c;
  const back = first * c;
  const more = (a - back - productError(first, c, back) + (b - first * d)) / c;
  const doubt = (uncertain + STEP) * Math.abs(first);
  const result = first + (more + doubt);
  return result === first + (more - doubt) ? result : NaN;
}

/** The square root of a number above 0 as the double nearest to it; NaN where plain arithmetic cannot tell it. */
export function rootOf(a: number): number {
  if (!begin(a) || SO_FAR[UNCERTAIN] !== 0) return NaN;
  // an even number of decimals, whose half is that of the root; ten times a mantissa is still exact, being even
  const odd = (SO_FAR[DECIMALS] as number) % 2;
  const m = (SO_FAR[HIGH] as number) * (odd ? 10 : 1);
  const root = Math.sqrt(m);
  const square = root * root;
  // one step of Newton’s
  const more = (m - square - productError(root, root, square)) / (2 * root);
  return nearestQuotient(root, more, POWERS[((SO_FAR[DECIMALS] as number) + odd) / 2] as number, 0, 0);
}
