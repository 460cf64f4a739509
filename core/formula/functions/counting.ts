/*
 * Counting in whole numbers of any size, exactly. Every loop ends when the result is beyond what a number of the language
 * holds, so that its length is bounded whatever is asked: each step at least doubles the result, or there are few.
 */

/** What is larger than the largest number. */
const TOO_LARGE = 10n ** 308n;

/** n · (n − step) · … over `count` factors; null when it is too large. At most some 1,000 steps. */
export function falling(n: bigint, count: number, step = 1n): bigint | null {
  let result = 1n;
  for (let i = 0; i < count; i++) {
    const factor = n - BigInt(i) * step;
    if (factor <= 1n) return result;
    result *= factor;
    if (result > TOO_LARGE) return null;
  }
  return result;
}

/** In how many ways k can be chosen out of n (0 ≤ k ≤ n); null when it is too large. At most some 1,000 steps. */
export function choose(n: bigint, k: bigint): bigint | null {
  const few = k < n - k ? k : n - k;
  let result = 1n;
  for (let i = 1n; i <= few; i++) {
    result = (result * (n - few + i)) / i;
    if (result > TOO_LARGE) return null;
  }
  return result;
}

/** The factorial of a sum over the product of the factorials; null when it is too large. */
export function multinomial(ns: readonly bigint[]): bigint | null {
  let total = 0n;
  let result = 1n;
  for (const n of ns) {
    total += n;
    const ways = choose(total, n);
    if (ways === null) return null;
    result *= ways;
    if (result > TOO_LARGE) return null;
  }
  return result;
}

/** The greatest common divisor of two numbers that are not negative. */
export function gcd(a: bigint, b: bigint): bigint {
  while (b !== 0n) [a, b] = [b, a % b];
  return a;
}
/** The least common multiple; null when it is too large. */
export function lcm(a: bigint, b: bigint): bigint | null {
  if (a === 0n || b === 0n) return 0n;
  const multiple = (a / gcd(a, b)) * b;
  return multiple > TOO_LARGE ? null : multiple;
}
