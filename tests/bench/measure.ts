/** Timing for benchmarks: interleaved rounds, medians, ratios. These machines are noisy; ratios of one run count. */

export interface Measured {
  readonly name: string;
  /** microseconds a call, median of the rounds */
  readonly micros: number;
}

/** What is to be reached, of a thing that somebody waits for: at most or at least so much. */
export interface Goal {
  readonly what: string;
  readonly measured: number;
  readonly unit: string;
  readonly most?: number;
  readonly least?: number;
  /** what stands beside it: what a bare program or another library takes for the same, in the same run */
  readonly beside?: string;
  /** how many times as long that takes here as it did where the goal was set: a goal in microseconds is one of that machine */
  readonly slower?: number;
}
// each benchmark is a bundle of its own: what they found is gathered where all of them see it (see run.mjs)
const found = ((globalThis as { briskGoals?: Goal[] }).briskGoals ??= []);
/** Notes a line of the table that is printed when all benchmarks have run. */
export const goal = (line: Goal): void => void found.push(line);

const median = (xs: readonly number[]): number => [...xs].sort((a, b) => a - b)[xs.length >> 1] ?? 0;

/** Times several things turn by turn, so that a slow second hits all of them. `calls` per round. */
export async function measure(
  things: Readonly<Record<string, () => unknown>>,
  calls: number,
  rounds = 15,
): Promise<Record<string, Measured>> {
  const times: Record<string, number[]> = {};
  for (let round = -3; round < rounds; round++) {
    for (const [name, run] of Object.entries(things)) {
      const started = performance.now();
      for (let i = 0; i < calls; i++) {
        const result = run();
        // Knex gives thenables that run only when awaited
        if (typeof result === 'object' && result !== null && 'then' in result) await result;
      }
      // the first rounds warm up
      if (round >= 0) (times[name] ??= []).push(((performance.now() - started) * 1000) / calls);
    }
  }
  return Object.fromEntries(Object.entries(times).map(([name, list]) => [name, { name, micros: median(list) }]));
}

export function report(title: string, measured: Readonly<Record<string, Measured>>, baseline: string): void {
  const base = measured[baseline]?.micros ?? 1;
  console.log(`\n${title}`);
  for (const { name, micros } of Object.values(measured)) {
    console.log(`  ${name.padEnd(46)} ${micros.toFixed(2).padStart(10)} µs   ${(micros / base).toFixed(2).padStart(8)} × ${baseline}`);
  }
}

/** Does something and gives what came of it, how long it took, and how long others would have waited for this thread meanwhile, at most; in ms. */
export async function othersWait<T>(
  work: () => Promise<T>,
): Promise<{ readonly result: T; readonly took: number; readonly longest: number }> {
  let longest = 0;
  let last = performance.now();
  const beat = setInterval(() => {
    longest = Math.max(longest, performance.now() - last - BEAT);
    last = performance.now();
  }, BEAT);
  const began = performance.now();
  try {
    const result = await work();
    const took = performance.now() - began;
    // what came last may have kept the beat from being counted
    return { result, took, longest: Math.max(longest, performance.now() - last - BEAT) };
  } finally {
    clearInterval(beat);
  }
}
const BEAT = 2;
