/*
 * Exact products and sums of integers below 10¹⁵, rounded to 15 decimal digits in plain number arithmetic. An integer of up to 30 digits
 * is held as an unevaluated sum of two doubles, high and low: the product by Veltkamp's splitting and Dekker's product (Dekker, A
 * floating-point technique for extending the available precision, 1971), sums by Knuth's TwoSum (The Art of Computer Programming 2, 4.2.2).
 * All steps are on integers below 2¹⁰¹, so that the low part is always exact. One quotient brings it to 15 digits; its remainder, exact
 * again, decides the rounding: halves away from zero.
 */

const LIMIT = 1e15;
const SPLIT = 134_217_729; // 2²⁷ + 1
const POWERS: readonly number[] = Array.from({ length: 23 }, (_, i) => Number(`1e${i}`));

/** The error of the product of two integers below 2⁵³, whose rounded product is `p`: together they are exact. */
function productError(a: number, b: number, p: number): number {
  const sa = SPLIT * a;
  const ah = sa - (sa - a);
  const al = a - ah;
  const sb = SPLIT * b;
  const bh = sb - (sb - b);
  const bl = b - bh;
  return al * bl - (p - ah * bh - al * bh - ah * bl);
}

/** na · nb · 10^−scale, to 15 digits. Both are integers below 10¹⁵ in magnitude. NaN where it cannot be told here. */
export function wideProduct(na: number, nb: number, scale: number): number {
  const p = na * nb;
  return rounded(p, productError(na, nb, p), scale);
}

/** (na + nb · factor) · 10^−scale, to 15 digits; the factor is a power of ten up to 10¹⁵. NaN where it cannot be told here. */
export function wideSum(na: number, nb: number, factor: number, scale: number): number {
  const p = nb * factor;
  const e = productError(nb, factor, p);
  const s = p + na;
  const t = s - p;
  const low = p - (s - t) + (na - t) + e;
  const high = s + low;
  const u = high - s;
  return rounded(high, s - (high - u) + (low - u), scale);
}

/**
 * na · factor ÷ nb, or with `over` false na ÷ (nb · factor): the double nearest to it. All are integers below 10¹⁵ in magnitude, the
 * factor a power of ten. A first quotient is corrected by its exact remainder, which leaves an error of some 2⁻¹⁰⁰ before the last rounding.
 */
export function wideQuotient(na: number, nb: number, factor: number, over: boolean): number {
  const p = (over ? na : nb) * factor;
  const e = productError(over ? na : nb, factor, p);
  const divisor = over ? nb : p;
  const first = (over ? p : na) / divisor;
  const back = first * divisor;
  const rest = (over ? p : na) - back - productError(first, divisor, back) + (over ? e : -first * e);
  return first + rest / divisor;
}

/** (high + low) · 10^−scale, rounded to 15 digits. `high` is the double nearest to the sum, which is an integer. */
function rounded(high: number, low: number, scale: number): number {
  const isNegative = high < 0;
  const h = isNegative ? -high : high;
  const l = isNegative ? -low : low;
  if (h <= LIMIT) {
    if (scale >= POWERS.length) return h + l === 0 ? 0 : NaN;
    const whole = h + l;
    return whole === 0 ? 0 : (isNegative ? -whole : whole) / (POWERS[scale] as number);
  }
  // how many digits are too many: h is at least 10¹⁵ and below 10³¹
  let k = 1;
  while (k < 16 && h >= LIMIT * (POWERS[k] as number)) k++;
  const unit = POWERS[k] as number;
  let quotient = Math.round(h / unit);
  const back = quotient * unit;
  const rest = h - back + (l - productError(quotient, unit, back));
  if (rest * 2 >= unit) quotient++;
  else if (rest * 2 < -unit) quotient--;
  const exponent = k - scale;
  if (-exponent >= POWERS.length) return NaN;
  const value = exponent >= 0 ? quotient * (POWERS[exponent] as number) : quotient / (POWERS[-exponent] as number);
  return isNegative ? -value : value;
}
