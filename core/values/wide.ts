/*
 * Numbers as whole mantissas: every number of at most 15 digits between 10⁻⁸ and 10¹⁵ is m / 10^s with a whole m of exactly 15 digits and
 * one s from 0 to 22, found by its binary exponent. Both m and 10^s are exact doubles, so that m / 10^s, divided once, is the double that
 * denotes the number. Products of mantissas have 29 or 30 digits: they are held as an unevaluated sum of two doubles, by Veltkamp's
 * splitting and Dekker's product (Dekker, A floating-point technique for extending the available precision, 1971); sums of what is not
 * whole by Knuth's TwoSum (The Art of Computer Programming 2, 4.2.2). Halves are rounded away from zero. NaN stands for what cannot be
 * told here.
 */

const SPLIT = 134_217_729; // 2²⁷ + 1
/** 10⁰ to 10²²: the powers of ten that are exact doubles. */
export const POWERS: readonly number[] = Array.from({ length: 23 }, (_, i) => Number(`1e${i}`));
/** The most decimals a mantissa is scaled by. */
export const MOST_DECIMALS = 22;
const FEWEST = 1e14; // the smallest mantissa
const LIMIT = 1e15; // above the largest
/** How far from a half the fraction of a quotient of two doubles must be, so that its own error cannot turn the rounding. */
const SURE = 0.35;

const DOUBLE = new Float64Array(1);
const HALVES = new Uint32Array(DOUBLE.buffer);
const HIGH = new Uint8Array(new Uint32Array([1]).buffer)[0] === 1 ? 1 : 0;
/** By binary exponent: how many decimals bring the smallest double of it to 15 digits before the point, and where that is one less. */
const DECIMALS = new Int32Array(2048);
const NEXT_POWER = new Float64Array(2048).fill(Infinity);
for (let e = 0; e < 2048; e++) {
  const [, exponent = '0'] = (2 ** (e - 1023)).toExponential().split('e');
  DECIMALS[e] = e === 0 || e === 2047 ? -1000 : 14 - Number(exponent);
  const power = Number(`1e${Number(exponent) + 1}`);
  if (power < 2 ** (e - 1022)) NEXT_POWER[e] = power;
}

/** The decimals by which a number becomes a mantissa of 15 digits; below 0 or above 22 where it does not, as for 0. */
export function decimalsOfFull(a: number): number {
  const size = a < 0 ? -a : a;
  DOUBLE[0] = size;
  const e = (HALVES[HIGH] as number) >>> 20;
  const decimals = DECIMALS[e] as number;
  return size >= (NEXT_POWER[e] as number) ? decimals - 1 : decimals;
}

/** The error of the product of two doubles, whose rounded product is `p`: together they are exact (Dekker, 1971). Cost: 17 operations. */
export function productError(a: number, b: number, p: number): number {
  const sa = SPLIT * a;
  const ah = sa - (sa - a);
  const al = a - ah;
  const sb = SPLIT * b;
  const bh = sb - (sb - b);
  const bl = b - bh;
  return al * bl - (p - ah * bh - al * bh - ah * bl);
}

/** Beside a mantissa that is given back: its decimals. A number that is given back in two parts would be an object. */
const DECIMALS_OF = new Int32Array(1);
/** The decimals of the mantissa that `productMantissa` or `sumMantissa` gave last. */
export const decimalsFound = (): number => DECIMALS_OF[0] as number;

/** m / 10^s: the double that denotes it, for a whole m of at most 15 digits. */
export function scaled(m: number, s: number): number {
  if (m === 0) return 0;
  if (s >= 0) return s <= MOST_DECIMALS ? m / (POWERS[s] as number) : NaN;
  return s >= -MOST_DECIMALS ? m * (POWERS[-s] as number) : NaN;
}

/** na · nb / 10^scale of two mantissas, to 15 digits. */
export function fullProduct(na: number, nb: number, scale: number): number {
  const m = productMantissa(na, nb, scale);
  return scaled(m, DECIMALS_OF[0] as number);
}
/** The same as a whole number of 15 digits (or 10¹⁵), whose decimals are in `decimalsFound`. */
export function productMantissa(na: number, nb: number, scale: number): number {
  const p = na * nb;
  const size = p < 0 ? -p : p;
  const k = size >= 1e29 ? 15 : 14;
  const unit = POWERS[k] as number;
  const quotient = size / unit;
  let whole = Math.round(quotient);
  const fraction = quotient - whole;
  if (fraction > SURE || fraction < -SURE) {
    const back = whole * unit;
    const error = productError(na, nb, p);
    const rest = size - back + ((p < 0 ? -error : error) - productError(whole, unit, back));
    if (rest * 2 >= unit) whole++;
    else if (rest * 2 < -unit) whole--;
  }
  DECIMALS_OF[0] = scale - k;
  return p < 0 ? -whole : whole;
}

/** na / 10^sa + nb / 10^sb of two mantissas, to 15 digits. */
export function fullSum(na: number, nb: number, sa: number, sb: number): number {
  const m = sumMantissa(na, nb, sa, sb);
  return scaled(m, DECIMALS_OF[0] as number);
}
/** The same as a whole number of at most 15 digits (or 10¹⁵), whose decimals are in `decimalsFound`. */
export function sumMantissa(na: number, nb: number, sa: number, sb: number): number {
  return sa >= sb ? sumOf(na, nb, sa - sb, sb) : sumOf(nb, na, sb - sa, sa);
}
/** The same of a smaller and a larger, which has so many decimals fewer; the sum is told in those of the larger. */
function sumOf(small: number, large: number, fewer: number, scale: number): number {
  const isNegative = large < 0;
  const n = isNegative ? -small : small;
  const m = isNegative ? -large : large;
  const unit = POWERS[fewer] as number;
  // the smaller has at most 15 digits, so that its quotient is never rounded up to the next whole number
  const part = Math.floor(n / unit);
  const rest = n - part * unit;
  const whole = m + part;
  if (whole >= FEWEST && whole < LIMIT) {
    const up = rest * 2 >= unit ? whole + 1 : whole;
    DECIMALS_OF[0] = scale;
    return isNegative ? -up : up;
  }
  if (whole >= LIMIT) {
    const tens = Math.floor(whole / 10);
    const up = whole - tens * 10 >= 5 ? tens + 1 : tens;
    DECIMALS_OF[0] = scale - 1;
    return isNegative ? -up : up;
  }
  // digits have cancelled out, so that there is room for those behind
  if (fewer === 0) {
    DECIMALS_OF[0] = scale;
    return isNegative ? -whole : whole;
  }
  const tenth = POWERS[fewer - 1] as number;
  const digit = Math.floor(rest / tenth);
  const up = (rest - digit * tenth) * 2 >= tenth && fewer > 1 ? 1 : 0;
  const longer = whole * 10 + digit + up;
  DECIMALS_OF[0] = scale + 1;
  return isNegative ? -longer : longer;
}

/**
 * na / 10^sa ÷ (nb / 10^sb) of two mantissas: the double nearest to it. A first quotient is corrected by its exact remainder, which leaves
 * an error of some 2⁻¹⁰⁰ before the last rounding.
 */
export function fullQuotient(na: number, nb: number, sa: number, sb: number): number {
  const more = sb - sa;
  // of whole numbers the processor's division is correctly rounded
  if (more === 0) return na / nb;
  // a power of ten only moves the point
  if (nb === FEWEST && more <= 14 && more >= 14 - MOST_DECIMALS) return na / (POWERS[14 - more] as number);
  const over = more > 0;
  const factor = POWERS[over ? more : -more] as number;
  const p = (over ? na : nb) * factor;
  const e = productError(over ? na : nb, factor, p);
  const divisor = over ? nb : p;
  const first = (over ? p : na) / divisor;
  const back = first * divisor;
  const rest = (over ? p : na) - back - productError(first, divisor, back) + (over ? e : -first * e);
  return first + rest / divisor;
}

/** How far the decimal that a double is written as may lie from the double itself, as a part of it: half of its last place. */
export const WRITTEN = 1.2e-16;

/** The numbers whose decimal is looked at digit by digit: those written without an exponent, below 10¹⁵. */
const [LEAST_WRITTEN, MOST_WRITTEN] = [1e-6, 1e15] as const;
/** The digits of a written number that are read as its first whole number; at most eight stand behind them. */
const FIRST_DIGITS = 9;

/**
 * By how much the decimal that a double is written as (the shortest one that is read as it: at most 17 digits) is more than the double
 * itself, with an error of some 10⁻³² of it; NaN for one that is written with an exponent, or is 10¹⁵ or more. Cost: writing it.
 */
export function writtenError(a: number): number {
  const size = a < 0 ? -a : a;
  if (!(size >= LEAST_WRITTEN && size < MOST_WRITTEN)) return NaN;
  if (Number.isInteger(a)) return 0;
  const text = String(size);
  let [first, rest, digits, decimals, isBehind] = [0, 0, 0, 0, false];
  for (let i = 0; i < text.length; i++) {
    const digit = text.charCodeAt(i) - 48;
    if (digit < 0) {
      isBehind = true;
      continue;
    }
    if (isBehind) decimals++;
    if (digits === 0 && digit === 0) continue;
    if (++digits <= FIRST_DIGITS) first = first * 10 + digit;
    else rest = rest * 10 + digit;
  }
  const power = POWERS[decimals] as number;
  const p = size * power;
  // each difference is exact but the last: what is subtracted is that near
  const written = first * (POWERS[digits > FIRST_DIGITS ? digits - FIRST_DIGITS : 0] as number);
  const error = (written - p + rest - productError(size, power, p)) / power;
  return a < 0 ? -error : error;
}

/** How near to a half a fraction may come so that its own error cannot turn the rounding: of doubles taken as they are, and of decimals. */
const [NEAR, SURELY] = [0.01, 1e-9] as const;
/** What is uncertain of a decimal that is looked at digit by digit, as a part of it. */
const HARDLY = 1e-31;

/** a · b of doubles with more digits than 15, to 15 digits; NaN where that takes more than plain arithmetic: at halves, and out of the bounds. */
export function nearProduct(a: number, b: number): number {
  const p = a * b;
  const error = productError(a, b, p);
  const near = settled(p, error, Math.abs(p) * 2 * WRITTEN, NEAR);
  // how they are written may turn the rounding
  return near === near ? near : decimalSettled(p, error + (a * writtenError(b) + b * writtenError(a)), Math.abs(p));
}
/** a + b of doubles with more digits than 15, to 15 digits; NaN as of `nearProduct`. */
export function nearSum(a: number, b: number): number {
  const s = a + b;
  const t = s - a;
  const error = a - (s - t) + (b - t);
  const size = Math.abs(a) + Math.abs(b);
  const near = settled(s, error, size * WRITTEN, NEAR);
  return near === near ? near : decimalSettled(s, error + (writtenError(a) + writtenError(b)), size);
}
/** a ÷ b of doubles with more digits than 15: the double nearest to it; NaN where that takes more than plain arithmetic. As `fullQuotient`. */
export function nearQuotient(a: number, b: number): number {
  const first = a / b;
  const back = first * b;
  const rest = a - back - productError(first, b, back) + (writtenError(a) - first * writtenError(b));
  return first + rest / b;
}
/** high + low to 15 digits, of decimals of some size; what is left of them may be as small as low where digits cancel out. */
function decimalSettled(high: number, low: number, size: number): number {
  const sum = high + low;
  return settled(sum, low - (sum - high), size * HARDLY, SURELY);
}
/** high + low to 15 digits, of which so much is uncertain; NaN where that, or what its fraction lacks to a half, may turn the rounding. */
function settled(high: number, low: number, uncertain: number, nearest: number): number {
  const decimals = decimalsOfFull(high);
  if (decimals < 0 || decimals > MOST_DECIMALS) return NaN;
  const power = POWERS[decimals] as number;
  const m = high * power;
  const whole = Math.round(m);
  const fraction = m - whole + (productError(high, power, m) + low * power);
  const size = fraction < 0 ? -fraction : fraction;
  const unsure = nearest + uncertain * power;
  if (size < 0.5 - unsure) return scaled(whole, decimals);
  if (size > 0.5 + unsure) return scaled(fraction < 0 ? whole - 1 : whole + 1, decimals);
  return NaN;
}

/** A double rounded to 15 digits; NaN where that takes more than plain arithmetic: at halves, and out of the bounds. */
export function rounded15(a: number): number {
  const decimals = decimalsOfFull(a);
  if (decimals < 0 || decimals > MOST_DECIMALS) return NaN;
  const power = POWERS[decimals] as number;
  const m = a * power;
  const whole = Math.round(m);
  const back = whole / power;
  if (back === a) return a;
  const fraction = m - whole;
  return fraction < 0.43 && fraction > -0.43 ? back : NaN;
}
