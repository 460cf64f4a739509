import type { CellChange, Change, RefusedEdit } from './state.ts';

/** How many calls, and how many changes in all, are kept: enough to read, not so many that a long session grows. */
const MOST_CALLS = 100;
const MOST_CHANGES = 2000;

/** What happened in an entry: the changes of the call that is under way, and the calls before it. */
export class Trace {
  private changes: CellChange[] = [];
  private readonly calls: Change[] = [];
  private kept = 0;
  /** how many cells the call under way has computed */
  computed = 0;

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
    const change: Change = { what, changes: this.changes, computed: this.computed, refused };
    this.changes = [];
    this.computed = 0;
    return change;
  }

  /** The calls that are kept, oldest first. */
  get history(): readonly Change[] {
    return this.calls;
  }
}
