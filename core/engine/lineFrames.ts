import { FormulaError, type Result, Waiting, isDatum } from '../formula/errors.ts';
import type { Datum } from '../values/types.ts';
import type { StoredLine } from './context.ts';
import type { Frame } from './frame.ts';
import { LineTotals } from './lineTotals.ts';
import type { LinesKind, PlanLines } from './plan.ts';
import type { Edit } from './state.ts';

/** The most lines one record holds in one group. */
export const MAX_LINES = 5000;

export type LinesState = Exclude<LinesKind, 'lines'>;
interface Group {
  readonly order: Frame[];
  /** the ids of the lines in that order, once asked for; null after it changed */
  ids: readonly number[] | null;
  readonly byLine: Map<number, Frame>;
  /** the lowest id a new line has had */
  lowest: number;
  readonly states: Record<LinesState, boolean>;
  /** whether it cannot be told yet what hides them */
  isUntold: boolean;
  /** hidden lines of these count as none */
  readonly empties: boolean;
  readonly totals: LineTotals;
}

/** The frames of an entry's lines, by group in their order. */
export class LineFrames {
  private readonly groups: Group[];
  private readonly byNumber: (Frame | undefined)[] = [];
  private count = 0;

  constructor(
    lines: readonly PlanLines[],
    private readonly make: (no: number, line: number, group: number, stored: StoredLine | null) => Frame,
  ) {
    this.groups = lines.map(({ definition }) => ({
      order: [],
      ids: null,
      byLine: new Map(),
      lowest: 0,
      states: { linesShown: true, linesRequired: false, linesLocked: false },
      isUntold: false,
      empties: definition.hiddenValue === 'clear',
      totals: new LineTotals(),
    }));
  }

  private group(group: number): Group {
    return this.groups[group] as Group;
  }
  of = (group: number): readonly Frame[] => this.group(group).order;
  get = (group: number, line: number): Frame | undefined => this.group(group).byLine.get(line);
  numbered = (no: number): Frame | undefined => this.byNumber[no];
  /** The ids of the lines in their order: the same array until the order changes. */
  ids(group: number): readonly number[] {
    const g = this.group(group);
    return (g.ids ??= g.order.map((f) => f.line as number));
  }
  state = (group: number, of: LinesState): boolean => this.group(group).states[of];
  setState(group: number, of: LinesState, to: boolean): void {
    this.group(group).states[of] = to;
  }
  /** Whether the lines are hidden and count as none. */
  isEmptied(group: number): boolean {
    const { states, empties, isUntold } = this.group(group);
    return empties && !states.linesShown && !isUntold;
  }
  /** Whether it cannot be told yet if the lines count as none. */
  private mayBeEmptied(group: number): boolean {
    const { empties, isUntold } = this.group(group);
    return empties && isUntold;
  }
  /** Notes whether it cannot be told what hides the lines; gives whether what counts of them may be another thereby. */
  setUntold(group: number, isUntold: boolean): boolean {
    const g = this.group(group);
    if (g.isUntold === isUntold) return false;
    g.isUntold = isUntold;
    return g.empties;
  }
  free = (group: number): number => this.group(group).lowest - 1;

  add(group: number, line: number, at: number | null = null, stored: StoredLine | null = null): Frame {
    const g = this.group(group);
    const frame = this.make(++this.count, line, group, stored);
    g.lowest = Math.min(g.lowest, line);
    g.order.splice(at ?? g.order.length, 0, frame);
    g.ids = null;
    g.byLine.set(line, frame);
    g.totals.added(frame);
    this.byNumber[frame.no] = frame;
    return frame;
  }

  remove(group: number, line: number): Frame {
    const g = this.group(group);
    const frame = g.byLine.get(line) as Frame;
    frame.alive = false;
    g.order.splice(g.order.indexOf(frame), 1);
    g.ids = null;
    g.byLine.delete(line);
    g.totals.removed(frame);
    this.byNumber[frame.no] = undefined;
    return frame;
  }

  move(group: number, line: number, to: number): void {
    const g = this.group(group);
    const frame = g.byLine.get(line) as Frame;
    g.order.splice(g.order.indexOf(frame), 1);
    g.order.splice(to, 0, frame);
    g.ids = null;
  }

  /** Why lines may not be changed so, as a sentence; null when they may. */
  problem(edit: Extract<Edit, { kind: 'addLine' | 'removeLine' | 'moveLine' }>, { group, definition }: PlanLines): string | null {
    const { order, byLine, lowest } = this.group(group);
    if (edit.kind === 'addLine') {
      if (order.length >= MAX_LINES) return `${definition.label} can hold at most ${MAX_LINES} lines.`;
      // an id below every earlier one: a removed line's id is never used again, so that edits replayed mean the same
      return Number.isInteger(edit.line) && edit.line < lowest ? null : 'A new line needs a number of its own.';
    }
    if (!byLine.has(edit.line)) return `The line of ${definition.label} no longer exists.`;
    return edit.kind === 'moveLine' && !(edit.to >= 0 && edit.to < order.length) ? 'The line cannot be moved there.' : null;
  }

  /** The sum of a column; null where one of its values is no number, and why must be looked for. */
  total(group: number, at: number): number | null {
    const { order, totals } = this.group(group);
    if (this.mayBeEmptied(group)) return null;
    return this.isEmptied(group) ? 0 : totals.of(at, order);
  }
  /** Takes note that a line's value has changed. */
  note(group: number, at: number, from: Result, to: Result): void {
    this.group(group).totals.changed(at, from, to);
  }

  /** All lines' values of a field, in order; at -1 the lines' ids. The first error, else waiting, stands for the whole. Cost: lines. */
  values(group: number, at: number): Result {
    if (this.mayBeEmptied(group)) return Waiting.value;
    const order = this.isEmptied(group) ? [] : this.group(group).order;
    const values: Datum[] = [];
    let waiting = false;
    for (const frame of order) {
      const value = at < 0 ? frame.line : (frame.values[at] ?? null);
      if (value instanceof FormulaError) return value;
      if (!isDatum(value)) waiting = true;
      else if (Array.isArray(value)) for (const one of value as readonly Datum[]) values.push(one);
      else values.push(value);
    }
    return waiting ? Waiting.value : values;
  }
}
