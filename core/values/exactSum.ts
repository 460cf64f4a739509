import { SIGNIFICANT_DIGITS, addExact, wholeOf } from './decimal.ts';
import { MOST_DECIMALS, POWERS, scaled } from './wide.ts';

const LIMIT = 10n ** 15n;
const NEAR_LIMIT = 1e15;
const TENS: bigint[] = [1n];
/** 10 to a power up to some 700: what the exponents of doubles can ask for. */
function ten(power: number): bigint {
  for (let i = TENS.length; i <= power; i++) TENS.push((TENS[i - 1] as bigint) * 10n);
  return TENS[power] as bigint;
}

/** A number as a whole one over a power of ten: `whole` / 10^`scale`, exact. */
function parts(n: number): { readonly whole: bigint; readonly scale: number } {
  const near = wholeOf(n);
  if (near) return { whole: BigInt(near.whole), scale: near.decimals };
  // very large or very small, or of more digits, as quotients are on their way: read off how it is written shortest
  const [written = '0', exponent = '0'] = n.toExponential().split('e');
  const [before = '', behind = ''] = written.split('.');
  const whole = BigInt(before + behind);
  const scale = behind.length - Number(exponent);
  return scale >= 0 ? { whole, scale } : { whole: whole * ten(-scale), scale: 0 };
}

/**
 * A sum that is kept exactly, as one whole number over a power of ten, so that a number that was added can be taken out again whatever its
 * digits: what came in between makes no difference, nor the order. Cost of a step: a few additions of whole numbers, of at most some 700
 * digits where the largest and the smallest numbers there are meet. What a double holds as a whole number, as sums of prices and weights,
 * is added up as one.
 */
export class ExactSum {
  /** the sum times 10^`scale`: as a double, or where that cannot hold it exactly */
  private near = 0;
  private far: bigint | null = null;
  private scale = 0;

  /** Adds a number. Throws SyntaxError where it is not finite. */
  add(n: number): void {
    this.put(n, false);
  }
  /** Takes a number out that was added. Throws as `add` does. */
  remove(n: number): void {
    this.put(n, true);
  }
  private put(n: number, isOut: boolean): void {
    if (n === 0) return;
    const near = this.far === null ? wholeOf(n) : null;
    if (near && this.putNear(isOut ? -near.whole : near.whole, near.decimals)) return;
    const { whole, scale } = parts(n);
    let sum = this.far ?? BigInt(this.near);
    if (scale > this.scale) {
      sum *= ten(scale - this.scale);
      this.scale = scale;
    }
    const now = scale < this.scale ? whole * ten(this.scale - scale) : whole;
    sum = isOut ? sum - now : sum + now;
    this.far = sum === 0n ? null : sum;
    if (sum === 0n) this.near = this.scale = 0;
  }
  /** Adds `whole` / 10^`scale` where a double holds that and the sum exactly; else does nothing and gives false. */
  private putNear(whole: number, scale: number): boolean {
    if (scale > MOST_DECIMALS || this.scale > MOST_DECIMALS) return false;
    const isFiner = scale > this.scale;
    const sum = isFiner ? this.near * (POWERS[scale - this.scale] as number) : this.near;
    const now = isFiner ? whole : whole * (POWERS[this.scale - scale] as number);
    if (!Number.isSafeInteger(sum) || !Number.isSafeInteger(now) || !Number.isSafeInteger(sum + now)) return false;
    this.near = sum + now;
    if (isFiner) this.scale = scale;
    return true;
  }

  /** The sum, held to 15 digits, halves away from zero; Infinity where it is too large. */
  get value(): number {
    const { scale } = this;
    if (this.far === null && this.near < NEAR_LIMIT && this.near > -NEAR_LIMIT) return scaled(this.near, scale);
    const whole = this.far ?? BigInt(this.near);
    if (whole < LIMIT && whole > -LIMIT && scale <= MOST_DECIMALS) return scaled(Number(whole), scale);
    const size = whole < 0n ? -whole : whole;
    const over = size.toString().length - SIGNIFICANT_DIGITS;
    const kept = over > 0 ? (size + 5n * ten(over - 1)) / ten(over) : size;
    const value = Number(`${kept}e${Math.max(0, over) - scale}`);
    return value === 0 ? 0 : whole < 0n ? -value : value;
  }
}

/** The sum of numbers, cut to 15 digits once at the end and not after each step. Infinity where it is too large. */
export function sum(ns: readonly number[]): number {
  let total = 0;
  for (let i = 0; i < ns.length; i++) {
    const next = addExact(total, ns[i] as number);
    if (next === null) return longSum(total, ns, i);
    total = next;
  }
  return total;
}
function longSum(start: number, ns: readonly number[], from: number): number {
  const total = new ExactSum();
  total.add(start);
  for (let i = from; i < ns.length; i++) {
    const n = ns[i] as number;
    // what was too large before is no less so in a sum
    if (!Number.isFinite(n)) return n;
    total.add(n);
  }
  return total.value;
}
