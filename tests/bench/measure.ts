import { readFileSync } from 'node:fs';

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

/** What others would have waited for this thread, at most, in ms; and what is to be known of that. */
export interface Waited {
  readonly longest: number;
  readonly beside: string;
}
/** Does something and gives what came of it, how long it took in ms, and how long others would have waited meanwhile. */
export async function othersWait<T>(work: () => Promise<T>): Promise<Waited & { readonly result: T; readonly took: number }> {
  let [longest, taken] = [0, 0];
  let [last, before] = [performance.now(), stolen()];
  const noted = (): void => {
    const now = performance.now();
    const waited = now - last - BEAT;
    // one that is worth a look: to ask the system each time would keep it busy
    if (waited > Math.max(longest, NOTICED)) taken = stolen() - before;
    if (waited > NOTICED) before = stolen();
    longest = Math.max(longest, waited);
    last = now;
  };
  const beat = setInterval(noted, BEAT);
  const system = setInterval(() => (before = stolen()), SYSTEM);
  const began = performance.now();
  try {
    const result = await work();
    const took = performance.now() - began;
    // what came last may have kept the beat from being counted
    noted();
    return { result, took, longest, beside: longest > NOTICED ? `the host took ${taken} ms of all processors about then` : '' };
  } finally {
    clearInterval(beat);
    clearInterval(system);
  }
}
const [BEAT, NOTICED, SYSTEM] = [2, 20, 100];
/** The processor time that the host of this machine has given to others, in ms; 0 where nobody says so (see run.mjs). */
function stolen(): number {
  if (process.platform !== 'linux') return 0;
  const ticks = readFileSync('/proc/stat', 'utf8').split('\n')[0]?.split(/\s+/)[8];
  return Number(ticks ?? 0) * 10;
}
