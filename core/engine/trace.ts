import type { Origin } from '../model/origin.ts';
import type { Result } from '../formula/errors.ts';
import type { Changed } from './plan.ts';
import type { Cause, CellChange, Change, Edit, PartTime, RefusedEdit } from './state.ts';

/** How many calls, and how many changes in all, are kept: enough to read, not so many that a long session grows. */
const MOST_CALLS = 100;
const MOST_CHANGES = 2000;

const NO_CHANGES: readonly CellChange[] = [];
/** How many changes stand in the first set of columns, and in each after it. */
const FIRST_COLUMN = 64;
const COLUMN = 1024;

/**
 * Changes in columns: numbers lie in arrays of numbers alone, the rest refers to what is there anyway. Nothing is made for a change until
 * somebody reads it, and what nobody reads costs the collector of garbage nothing: a long chain of formulas changes hundreds of cells at
 * every key.
 */
class Columns {
  length = 0;
  private readonly what: Changed[];
  /** NaN where a change is of the form itself; none as long as all are */
  private lines: Float64Array | null = null;
  private readonly causes: Cause[];
  /** what each was and became, by turns; no value is NaN: it says that the value stands apart */
  private readonly values: Float64Array;
  /** values that are no numbers, by their place; made with the first */
  private others: Result[] | null = null;

  constructor(private readonly most: number) {
    this.what = new Array<Changed>(most);
    this.causes = new Array<Cause>(most);
    this.values = new Float64Array(2 * most);
  }
  get isFull(): boolean {
    return this.length >= this.most;
  }

  put(what: Changed, line: number | null, cause: Cause, from: Result, to: Result): void {
    const at = this.length++;
    this.what[at] = what;
    this.causes[at] = cause;
    if (line !== null) (this.lines ??= new Float64Array(this.most).fill(NaN))[at] = line;
    if (typeof from === 'number') this.values[2 * at] = from;
    else this.apart(2 * at, from);
    if (typeof to === 'number') this.values[2 * at + 1] = to;
    else this.apart(2 * at + 1, to);
  }
  private apart(place: number, value: Result): void {
    this.values[place] = NaN;
    if (value !== null) (this.others ??= new Array<Result>(2 * this.most).fill(null))[place] = value;
  }

  read(at: number): CellChange {
    const { field, cell, origin } = this.what[at] as Changed;
    const line = this.lines?.[at] ?? NaN;
    return {
      field,
      line: line === line ? line : null,
      cell,
      cause: this.causes[at] as Cause,
      from: this.value(2 * at),
      to: this.value(2 * at + 1),
      origin,
    };
  }
  private value(place: number): Result {
    const n = this.values[place] as number;
    return n === n ? n : (this.others?.[place] ?? null);
  }
}

/** What a call is made for: edits, or what has no more to say than its kind. */
export type Done = readonly Edit[] | { readonly kind: Exclude<Change['what']['kind'], 'edit'> };

/** A call: what it did is made into objects when somebody first reads it. */
class Call implements Change {
  private read: readonly CellChange[] | null = null;

  constructor(
    /** what was done; edits as they were made */
    private readonly done: Done,
    readonly computed: number,
    readonly refused: readonly RefusedEdit[],
    readonly times: readonly PartTime[] | undefined,
    /** the columns its changes stand in, where in the first of them they begin, and how many they are */
    private columns: readonly Columns[],
    private readonly first: number,
    readonly count: number,
  ) {}

  get what(): Change['what'] {
    return 'kind' in this.done ? this.done : { kind: 'edit', edits: this.done };
  }
  get changes(): readonly CellChange[] {
    if (!this.read) {
      this.read = this.count ? this.made() : NO_CHANGES;
      this.columns = [];
    }
    return this.read;
  }
  private made(): readonly CellChange[] {
    const made: CellChange[] = [];
    let at = this.first;
    for (const columns of this.columns) {
      for (; at < columns.length && made.length < this.count; at++) made.push(columns.read(at));
      at = 0;
    }
    return made;
  }
}

/** What happened in an entry: the changes of the call that is under way, and the calls before it. */
export class Trace {
  private columns: Columns;
  /** the columns that the call under way stands in, and where in the first it begins */
  private over: readonly Columns[];
  private first = 0;
  private count = 0;
  private readonly calls: Call[] = [];
  private kept = 0;
  private readonly times = new Map<string, { -readonly [K in keyof PartTime]: PartTime[K] }>();
  /** how many cells the call under way has computed */
  computed = 0;

  /** Takes a clock in milliseconds, by which each part is timed; without one nothing is. Changes are noted where somebody may read them. */
  constructor(
    readonly clock?: () => number,
    private readonly notes = true,
  ) {
    this.columns = new Columns(notes ? FIRST_COLUMN : 0);
    this.over = [this.columns];
  }

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

  /** Notes a change; what it takes is what a `CellChange` holds. */
  note(
    field: string,
    line: number | null,
    cell: CellChange['cell'],
    cause: Cause,
    from: Result,
    to: Result,
    origin: Origin | null = null,
  ): void {
    if (this.notes) this.noteOf({ field, cell, origin }, line, cause, from, to);
  }
  /** The same, of what is told as it stands. */
  noteOf(what: Changed, line: number | null, cause: Cause, from: Result, to: Result): void {
    if (!this.notes) return;
    if (this.columns.isFull) {
      this.columns = new Columns(COLUMN);
      // the array before is a call's that has ended
      this.over = [...this.over, this.columns];
    }
    this.columns.put(what, line, cause, from, to);
    this.count++;
  }

  /** Whether anything has changed since the last call ended. */
  get isUnderWay(): boolean {
    return this.count > 0;
  }
  /** Ends a call: what it did. A call that changed nothing, and that nobody made by hand, is not kept. */
  finish(done: Done, refused: readonly RefusedEdit[] = []): Change {
    const change = this.take(done, refused);
    if (change.count || !('kind' in done) || done.kind !== 'supply') {
      this.calls.push(change);
      this.kept += change.count;
      // taken out of the front one by one they would cost more than what is noted of them
      if (this.calls.length > 2 * MOST_CALLS || this.kept > 2 * MOST_CHANGES) this.shorten();
    }
    return change;
  }
  /** Lets go the oldest calls where there are too many. The last is kept whole, however much it changed. */
  private shorten(): void {
    let over = 0;
    for (; over < this.calls.length - 1 && (this.calls.length - over > MOST_CALLS || this.kept > MOST_CHANGES); over++)
      this.kept -= this.calls[over]?.count ?? 0;
    if (over) this.calls.splice(0, over);
  }
  /** Ends a call that is not kept. */
  take(done: Done, refused: readonly RefusedEdit[] = []): Call {
    const times = this.clock ? [...this.times.values()] : undefined;
    const change = new Call(done, this.computed, refused, times, this.over, this.first, this.count);
    if (this.over.length > 1) this.over = [this.columns];
    this.first = this.columns.length;
    this.count = 0;
    if (this.clock) this.times.clear();
    this.computed = 0;
    return change;
  }

  /** The calls that are kept, oldest first. */
  get history(): readonly Change[] {
    this.shorten();
    return this.calls;
  }
}
