import { FormulaError } from '../formula/errors.ts';
import { type Reason, type ValueState, changed } from '../model/valueState.ts';
import { same } from '../values/types.ts';
import type { DataCache } from './cache.ts';
import { CellKeys } from './cellKey.ts';
import { CELLS } from './cells/index.ts';
import { allMet, anyMet, anyShows } from './conditions.ts';
import type { EntryContext, StoredRecord } from './context.ts';
import { Dirty } from './dirty.ts';
import { Effects } from './effects/index.ts';
import type { Frame } from './frame.ts';
import { Frames } from './frames.ts';
import { Lacks } from './lacks.ts';
import { BEFORE_OFFER } from './offers.ts';
import type { Cell, CellKind, LinesKind, Plan, PlanField, PlanLines } from './plan.ts';
import type { Cause } from './state.ts';
import { Trace } from './trace.ts';

const OPENED: Cause = { kind: 'open' };

/**
 * The working of an entry: dirty cells are computed in the order they depend on each other, and when none is left, effects act, which
 * may make some dirty again. It holds the parts together; each does one thing: frames (values), dirty cells, what is lacking, the trace,
 * effects. What people do to an entry, and how it is read, stands in `Entry`.
 */
export class Settling {
  readonly keys: CellKeys;
  readonly dirty: Dirty;
  readonly lacks = new Lacks();
  readonly trace: Trace;
  readonly frames: Frames;
  readonly effects: Effects;
  /** whether anybody has edited yet: until then what changes is the opening, and no rule acts on it */
  isEdited = false;
  private readonly hasTriggers: boolean;

  constructor(
    readonly plan: Plan,
    readonly context: EntryContext,
    readonly cache: DataCache,
    record: StoredRecord | null,
  ) {
    this.trace = new Trace(context.clock);
    const hasLines = plan.lines.length > 0;
    this.hasTriggers = plan.rules.some((r) => r.triggers.length > 0 || r.definition.reaches.length > 0);
    this.keys = new CellKeys(hasLines);
    this.dirty = new Dirty(plan.cells, this.keys, hasLines);
    this.frames = new Frames(plan, context, cache, this.lacks, record);
    this.effects = new Effects(this);
    this.markAll();
    this.effects.moment('opens');
  }

  // ---- what is to be computed ----

  markAll(): void {
    for (const cell of this.plan.cells) for (const frame of this.frames.of(cell.group)) this.dirty.mark(frame, cell.id, 'open', OPENED);
  }
  /** A cell of a field is to be computed, where it has one. */
  markOwn(frame: Frame, kind: CellKind, field: PlanField, reason: Reason, cause: Cause): void {
    const cell = this.plan.cellOf[kind][field.slot] as number;
    if (cell >= 0) this.dirty.mark(frame, cell, reason, cause);
  }
  /** What reads a cell that has changed is to be computed. `of` is the field's slot, or the group for the cells of lines. */
  markDependents(frame: Frame, kind: CellKind | LinesKind, of: number, reason: Reason): void {
    const { cells, cellOf, dependents, across } = this.plan;
    const cell = cellOf[kind][of] as number;
    if (cell < 0) return;
    const near = dependents[cell] as readonly number[];
    const { group, cause } = cells[cell] as Cell;
    if (near.length === 0 && group === null) return;
    for (const dependent of near) {
      const to = (cells[dependent] as Cell).group;
      if (to === group) this.dirty.mark(frame, dependent, reason, cause);
      else for (const line of this.frames.of(to)) this.dirty.mark(line, dependent, reason, cause);
    }
    if (group !== null)
      for (const dependent of across[cell] ?? [])
        for (const other of this.frames.of(cells[dependent]?.group ?? null)) this.dirty.mark(other, dependent, reason, cause);
  }

  // ---- computing ----

  /** Computes until nothing is dirty and no effect can act. */
  run(): void {
    const { dirty, keys, frames, effects } = this;
    for (;;) {
      for (let key = dirty.pop(); key !== undefined; key = dirty.pop()) {
        const frame = frames.numbered(keys.frameOf(key));
        if (frame?.alive) this.compute(key, keys.cellOf(key), frame);
      }
      if (!effects.pending) return;
      effects.run();
      if (!dirty.size) return;
    }
  }

  private compute(key: number, cell: number, frame: Frame): void {
    const { kind, slot, local } = this.plan.cells[cell] as Cell;
    const reason = frame.reasons[local] ?? 'change';
    const cause = frame.causes[local] ?? OPENED;
    frame.reasons[local] = null;
    frame.causes[local] = null;
    this.trace.computed++;
    const began = this.trace.clock?.();
    this.lacks.begin();
    try {
      if (kind === 'linesShown' || kind === 'linesRequired' || kind === 'linesLocked') this.computeLines(kind, slot, cause, reason);
      else if (kind !== 'lines') CELLS[kind].compute(this, frame, this.plan.fields[slot] as PlanField, cause, reason);
    } catch (e) {
      this.broken(kind, this.plan.fields[slot], frame, cause, e);
    }
    this.lacks.end(key, reason);
    if (began !== undefined) {
      const isOfLines = kind === 'lines' || kind === 'linesShown' || kind === 'linesRequired' || kind === 'linesLocked';
      this.trace.took((isOfLines ? this.plan.lines[slot]?.key : this.plan.fields[slot]?.key) ?? '', kind, began);
    }
  }

  /** A mistake of ours in one cell is an error at that cell, told with its field; what does not rest on it goes on. */
  private broken(kind: CellKind | LinesKind, field: PlanField | undefined, frame: Frame, cause: Cause, e: unknown): void {
    const message = `This could not be computed (${e instanceof Error ? e.message : 'unknown'}).`;
    if (kind === 'value' && field) {
      const state = frame.states[field.at] as ValueState;
      this.setState(frame, field, changed(state, { value: new FormulaError('broken', message) }), cause, 'change');
    } else if (kind === 'choices' && field) {
      frame.offers[field.at] = { ...BEFORE_OFFER, status: 'failed', reason: message };
      this.markDependents(frame, 'choices', field.slot, 'change');
    }
  }

  private computeLines(kind: Exclude<LinesKind, 'lines'>, group: number, cause: Cause, reason: Reason): void {
    const { root, lines } = this.frames;
    const own = this.plan.lines[group] as PlanLines;
    const { mode } = this.context;
    const from = lines.state(group, kind);
    const to =
      kind === 'linesShown'
        ? allMet(own.shown, root.env, mode) && anyShows(own.showing, root.env, mode)
        : anyMet(kind === 'linesRequired' ? own.required : own.locked, root.env, mode);
    if (from === to) return;
    lines.setState(group, kind, to);
    this.trace.note({ field: own.key, line: null, cell: kind, cause, from, to, origin: null });
    this.markDependents(root, kind, group, reason);
    // what is summed over them changes with them
    if (kind === 'linesShown' && own.definition.hiddenValue === 'clear') this.markDependents(root, 'lines', group, reason);
  }

  // ---- what has been computed ----

  /** A yes or no of a field: whether it is shown, required, locked. */
  setFlag(frame: Frame, flags: boolean[], cell: CellKind, field: PlanField, to: boolean, cause: Cause, reason: Reason): void {
    const from = flags[field.at] as boolean;
    if (from === to) return;
    flags[field.at] = to;
    this.trace.note({ field: field.key, line: frame.line, cell, cause, from, to, origin: null });
    this.markDependents(frame, cell, field.slot, reason);
  }

  /** A field's value, and how it stands. */
  setState(frame: Frame, field: PlanField, next: ValueState, cause: Cause, reason: Reason): void {
    const before = frame.states[field.at] as ValueState;
    frame.states[field.at] = next;
    const valueChanged = !same(before.value, next.value);
    const looksChanged =
      (before.origin !== next.origin && before.origin.kind !== next.origin.kind) ||
      before.gone !== next.gone ||
      (before.suggestion !== next.suggestion && !same(before.suggestion ?? null, next.suggestion ?? null));
    if (!valueChanged && !looksChanged) return;
    const { key, group, at } = field;
    this.trace.note({ field: key, line: frame.line, cell: 'value', cause, from: before.value, to: next.value, origin: next.origin });
    if (!valueChanged) return;
    frame.values[at] = next.value;
    if (group !== null) this.frames.lines.note(group, at, before.value, next.value);
    this.markDependents(frame, 'value', field.slot, reason);
    if (this.hasTriggers && this.isEdited) this.effects.changed(field, next.value);
  }
}
