import { readdirSync, readlinkSync } from 'node:fs';
import { setPriority } from 'node:os';
import { basename } from 'node:path';

/*
 * Who comes first where there is less to compute with than is asked for: whoever waits for an answer, then whoever saves very much, then
 * long work. Linux gives each thread a priority of its own (https://man7.org/linux/man-pages/man2/setpriority.2.html, “C library/kernel
 * differences”); elsewhere all have the same.
 */

/** How far threads step back: very long saves have a third of what the thread that answers gets, long work a tenth; so all goes on. */
export const BEHIND = { save: 5, long: 10 } as const;

/** Lets threads step back, where they may. */
function stepBack(threads: () => readonly number[], behind: number): void {
  if (process.platform !== 'linux') return;
  try {
    for (const thread of threads()) setPriority(thread, behind);
  } catch {
    // it may not: then all have the same
  }
}

/** Lets this thread step back. */
export const stepBackHere = (behind: number): void => stepBack(() => [Number(basename(readlinkSync('/proc/thread-self')))], behind);

/** How many threads Node has made before it runs anything: V8's own (four, where nothing else is said), one for timers, one for the debugger. */
const MADE_FIRST = 6;
const isPoolSaid = (): boolean => [...process.execArgv, process.env.NODE_OPTIONS ?? ''].some((a) => a.includes('v8-pool-size'));
/**
 * Lets the threads step back in which V8 compiles and collects garbage for all others: with few processors they would keep the thread that
 * answers from its own for tens of milliseconds, on behalf of long work. Threads are numbered as they are made. Call once, from the thread
 * that answers.
 */
export function helpersStepBack(): void {
  if (isPoolSaid()) return;
  const made = (): number[] =>
    readdirSync('/proc/self/task')
      .map(Number)
      .filter((thread) => thread > process.pid)
      .sort((a, b) => a - b);
  stepBack(() => made().slice(0, MADE_FIRST), BEHIND.long);
}
