import type { CellChange, Change, PartTime, RefusedEdit } from './state.ts';

/** How many calls, and how many changes in all, are kept: enough to read, not so many that a long session grows. */
const MOST_CALLS = 100;
const MOST_CHANGES = 2000;

/** What happened in an entry: the changes of the call that is under way, and the calls before it. */
export class Trace {
  private changes: CellChange[] = [];
  private readonly calls: Change[] = [];
  private kept = 0;
  private readonly times = new Map<string, { -readonly [K in keyof PartTime]: PartTime[K] }>();
  /** how many cells the call under way has computed */
  computed = 0;

  /** Takes a clock in milliseconds, by which each part is timed; without one nothing is. */
  constructor(readonly clock?: () => number) {}

  /** Notes that a part of a field, or a rule, has been computed since a moment of the clock. */
  took(field: string, cell: CellChange['cell'], since: number): void {
    const milliseconds = (this.clock?.() ?? since) - since;
    const key = `${cell} ${field}`;
    const known = this.times.get(key);
    if (!known) this.times.set(key, { field, cell, computed: 1, milliseconds });
    else {
      known.computed++;
      known.milliseconds += milliseconds;
    }
  }

  note(change: CellChange): void {
    this.changes.push(change);
  }

  /** Ends a call: what it did. A call that changed nothing, and that nobody made by hand, is not kept. */
  finish(what: Change['what'], refused: readonly RefusedEdit[] = []): Change {
    const change = this.take(what, refused);
    if (change.changes.length || what.kind !== 'supply') {
      this.calls.push(change);
      this.kept += change.changes.length;
      // the last call is kept whole, however much it changed
      while (this.calls.length > MOST_CALLS || (this.kept > MOST_CHANGES && this.calls.length > 1))
        this.kept -= this.calls.shift()?.changes.length ?? 0;
    }
    return change;
  }
  /** Ends a call that is not kept. */
  take(what: Change['what'], refused: readonly RefusedEdit[] = []): Change {
    const times = this.clock ? { times: [...this.times.values()] } : {};
    const change: Change = { what, changes: this.changes, computed: this.computed, refused, ...times };
    this.changes = [];
    this.times.clear();
    this.computed = 0;
    return change;
  }

  /** The calls that are kept, oldest first. */
  get history(): readonly Change[] {
    return this.calls;
  }
}
