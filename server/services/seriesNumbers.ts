/** A number that a save counts on, until it is taken or not. */
export interface Reserved {
  readonly series: string;
  readonly number: number;
}
/** One that is held, as this file knows it. */
interface Held extends Reserved {
  run: Run;
  /** whether those before it are still to be taken as was thought when it was told */
  isRight: boolean;
  /** how long those after it wait for it, in ms */
  readonly patience: number;
  /** wakes the save that waits for its turn */
  wake: ((isRight: boolean) => void) | null;
}
interface Run {
  next: number;
  /** numbers of saves that are not at the transaction yet, in order */
  readonly held: Held[];
  watched: ReturnType<typeof setTimeout> | null;
}

/** How long a save that others wait for may take, in ms, before its number goes to the next; twice as long each time it was passed by. */
const PATIENCE = 1000;
const MOST_PASSED = 4;

/**
 * Numbers of series for saves that are worked out beside each other: each is told another, as if those before it were taken, and they
 * come to the transaction in that order, however long each was worked out. Only the transaction takes a number (database/series.ts), and
 * only the one that is next; where a save before it came to nothing, those after it are worked out again. So no number is left out and
 * none is given twice, in however many processes.
 */
export class SeriesNumbers {
  private readonly runs = new Map<string, Run>();
  /** `read` gives the number that is next in the database */
  constructor(
    private readonly read: (series: string) => Promise<number>,
    private readonly patience = PATIENCE,
  ) {}

  /** The next number for a save. `passed` is how often that save was passed by before. */
  async reserve(series: string, passed = 0): Promise<Reserved> {
    if (!this.runs.has(series)) {
      const next = await this.read(series);
      // of those who asked at the same time the first begins the run
      if (!this.runs.has(series)) {
        if (this.runs.size >= MOST_SERIES) for (const known of this.runs.keys()) this.forget(known);
        this.runs.set(series, { next, held: [], watched: null });
      }
    }
    const run = this.runs.get(series) as Run;
    const patience = this.patience * 2 ** Math.min(passed, MOST_PASSED);
    const one: Held = { series, number: run.next++, run, isRight: true, patience, wake: null };
    run.held.push(one);
    return one;
  }

  /** Whether a number still is the right one. */
  isRight(reserved: Reserved): boolean {
    return (reserved as Held).isRight;
  }
  /**
   * Waits until those with a number before are at the transaction; false where this one is wrong by now. Nobody waits for ever: one that
   * takes too long is passed by, and worked out again with another number.
   */
  turn(reserved: Reserved): Promise<boolean> {
    const one = reserved as Held;
    if (!one.isRight || one.run.held[0] === one) return Promise.resolve(one.isRight);
    this.watch(one.run);
    return new Promise((wake) => (one.wake = wake));
  }
  /** A save is at the transaction, which does one after the other in the order they came: those with a number after may come too. */
  sent(reserved: Reserved): void {
    const { run } = reserved as Held;
    leave(run, reserved as Held);
    run.held[0]?.wake?.(true);
  }

  /** A number was not taken after all: those given after it are no longer right, the next is given it. */
  release(reserved: Reserved): void {
    const one = reserved as Held;
    const { run, series, number } = one;
    if (this.runs.get(series) !== run) return;
    leave(run, one);
    if (run.next === number + 1) {
      run.next--;
      return;
    }
    // what is at the transaction and after it finds out there; it must not take this run for wrong then
    const next: Run = { next: number, held: [], watched: null };
    this.runs.set(series, next);
    one.isRight = false;
    for (const other of run.held.splice(0))
      if (other.number < number) {
        other.run = next;
        next.held.push(other);
      } else wrong(other);
    if (next.held.some((h) => h.wake)) this.watch(next);
    next.held[0]?.wake?.(true);
  }
  /** A number turned out to be wrong: what others have taken is read anew. */
  mistaken(reserved: Reserved): void {
    const { run, series } = reserved as Held;
    if (this.runs.get(series) === run) this.forget(series);
  }
  /** What is next is read anew; those that are held are worked out again, so that nobody waits for one of a run that is no more. */
  private forget(series: string): void {
    const run = this.runs.get(series);
    this.runs.delete(series);
    for (const one of run?.held.splice(0) ?? []) wrong(one);
  }

  /** Passes by whoever is first for too long while others wait. */
  private watch(run: Run): void {
    const [first] = run.held;
    if (run.watched || !first) return;
    run.watched = setTimeout(() => {
      run.watched = null;
      if (!run.held.some((h) => h.wake && h !== first)) return;
      if (run.held[0] === first) this.release(first);
      else this.watch(run);
    }, first.patience);
  }
}
const MOST_SERIES = 1000;

function leave(run: Run, one: Held): void {
  const at = run.held.indexOf(one);
  if (at >= 0) run.held.splice(at, 1);
}
function wrong(one: Held): void {
  one.isRight = false;
  one.wake?.(false);
}
