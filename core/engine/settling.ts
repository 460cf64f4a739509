import { FormulaError, type Result, Waiting } from '../formula/errors.ts';
import { type Reason, type ValueState, changed, suggested } from '../model/valueState.ts';
import type { Origin } from '../model/origin.ts';
import { same } from '../values/types.ts';
import { arithmeticValue } from './arithmeticValue.ts';
import type { DataCache } from './cache.ts';
import { staysStored } from '../form/fills/index.ts';
import { CellKeys } from './cellKey.ts';
import { CELLS } from './cells/index.ts';
import { allMet, anyMet, anyShows, anyUntold } from './conditions.ts';
import type { EntryContext, StoredRecord } from './context.ts';
import { Dirty } from './dirty.ts';
import { Effects } from './effects/index.ts';
import type { Frame } from './frame.ts';
import { Frames } from './frames.ts';
import { Lacks } from './lacks.ts';
import { BEFORE_OFFER } from './offers.ts';
import type { Cell, CellKind, Changed, LinesKind, Plan, PlanField, PlanLines } from './plan.ts';
import type { Cause } from './state.ts';
import { Trace } from './trace.ts';

const OPENED: Cause = { kind: 'open' };
/** Cells that only tell people something: no other cell reads them, no effect rests on them. */
const TELLING: ReadonlySet<CellKind | LinesKind> = new Set(['checks', 'words']);

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
  /** whether a field was given what its fill gives: what rests on it follows, as if somebody had entered it */
  isGiven = false;
  /** the keys of cells that only tell people something, while they are put off; see `EntryContext.tellsLate` */
  private putOff: number[] | null;
  private readonly hasTriggers: boolean;
  /** whether something that moves rest on may have changed since they were told */
  movesMayDiffer = true;
  private readonly readByMoves: Uint8Array | null;
  /** by slot, what was told last of a field's value */
  private readonly told: (Changed | undefined)[] = [];

  constructor(
    readonly plan: Plan,
    readonly context: EntryContext,
    readonly cache: DataCache,
    record: StoredRecord | null,
  ) {
    // nobody reads what happened in a record that is only worked out
    this.trace = new Trace(context.clock, !context.isQuiet);
    this.putOff = context.tellsLate ? [] : null;
    const hasLines = plan.lines.length > 0;
    this.hasTriggers = plan.rules.some((r) => r.triggers.length > 0 || r.definition.reaches.length > 0);
    this.readByMoves = plan.steps?.reads ?? null;
    this.keys = new CellKeys(hasLines);
    this.dirty = new Dirty(plan.cellTable, this.keys, hasLines, context.extent?.cells ?? null);
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
    const { cells, cellOf } = this.plan;
    const cell = cellOf[kind][of] as number;
    if (cell >= 0) this.markReaders(frame, cells[cell] as Cell, reason);
  }
  private markReaders(frame: Frame, { id, cause }: Cell, reason: Reason): void {
    const { dirty } = this;
    const { cellTable: table, across } = this.plan;
    const { readers, group } = table;
    const own = group[id] as number;
    const to = table.readersFrom[id + 1] as number;
    for (let i = table.readersFrom[id] as number; i < to; i++) {
      const reader = readers[i] as number;
      const where = group[reader] as number;
      if (where === own) dirty.mark(frame, reader, reason, cause);
      else for (const line of this.framesOf(where)) dirty.mark(line, reader, reason, cause);
    }
    if (own >= 0)
      for (const reader of across[id] ?? [])
        for (const other of this.framesOf(group[reader] as number)) dirty.mark(other, reader, reason, cause);
  }
  private framesOf = (group: number): readonly Frame[] => this.frames.of(group < 0 ? null : group);

  // ---- computing ----

  /** Computes until nothing is dirty and no effect can act; or until so many cells are computed: then false, and it is to be gone on with. */
  run(most = Infinity): boolean {
    const { dirty, keys, frames, effects, trace } = this;
    const { cells, cellTable: table } = this.plan;
    // where cells are timed they all go the long way
    const isTimed = trace.clock !== undefined;
    for (let left = most; ;) {
      for (let key = dirty.pop(); key !== undefined; key = dirty.pop()) {
        const frame = frames.numbered(keys.frameOf(key));
        if (!frame?.alive) continue;
        const id = keys.cellOf(key);
        const cell = cells[id] as Cell;
        // it stays marked, so that it is put off once
        if (this.putOff !== null && TELLING.has(cell.kind)) {
          this.putOff.push(key);
          continue;
        }
        const local = table.local[id] as number;
        const reason = frame.reasons[local] ?? 'change';
        const cause = frame.causes[local] ?? OPENED;
        frame.reasons[local] = null;
        trace.computed++;
        if (table.isArithmetic[id] === 1 && !isTimed && this.computeArithmetic(frame, cell, cause, reason)) this.lacks.none(key);
        else this.compute(key, cell, frame, cause, reason);
        if (--left <= 0) return false;
      }
      if (!effects.pending) return true;
      effects.run();
      if (!dirty.size) return true;
    }
  }

  /** Whether what only tells people something is put off. */
  get tellsLate(): boolean {
    return this.putOff !== null;
  }
  /** Puts off what only tells people something, until `tell`. */
  tellLater(): void {
    this.putOff ??= [];
  }
  /** What was put off is to be computed after all; nothing is put off any more. */
  tell(): void {
    for (const key of this.putOff ?? []) this.dirty.putBack(key);
    this.putOff = null;
  }

  private compute(key: number, { kind, slot }: Cell, frame: Frame, cause: Cause, reason: Reason): void {
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

  /**
   * Computes a cell of plain arithmetic that its calculation filled before, or whose stored value it leaves as it is: most cells of a large
   * form, on the shortest way. It looks nothing up, so that it lacks nothing. False, and nothing is done, where it is not such a cell or
   * its operands give no number.
   */
  private computeArithmetic(frame: Frame, cell: Cell, cause: Cause, reason: Reason): boolean {
    const { plan } = this;
    const { arithmetic: all } = plan;
    const { slot } = cell;
    const at = all.at[slot] as number;
    if (!frame.shown[at] || frame.isAside(at)) return false;
    const isCalculated = frame.isCalculated(at);
    if (!isCalculated && !(reason === 'open' && staysStored(plan.fields[slot] as PlanField, frame.state(at)))) return false;
    const value = arithmeticValue(all, slot, frame.env);
    if (value !== value) return false;
    if (!isCalculated) {
      this.suggest(frame, cell, at, value, cause);
      return true;
    }
    this.setCalculated(frame, cell, at, value, cause, reason);
    return true;
  }

  /** A mistake of ours in one cell is an error at that cell, told with its field; what does not rest on it goes on. */
  private broken(kind: CellKind | LinesKind, field: PlanField | undefined, frame: Frame, cause: Cause, e: unknown): void {
    const message = `This could not be computed (${e instanceof Error ? e.message : 'unknown'}).`;
    if (kind === 'value' && field) {
      this.setState(frame, field, changed(frame.state(field.at), { value: new FormulaError('broken', message) }), cause, 'change');
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
    if (
      kind === 'linesShown' &&
      lines.setUntold(group, !to && (anyUntold(own.shown, root.env, mode) || anyUntold(own.showing, root.env, mode)))
    )
      this.markDependents(root, 'lines', group, reason);
    if (from === to) return;
    lines.setState(group, kind, to);
    this.trace.note(own.key, null, kind, cause, from, to);
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
    this.trace.note(field.key, frame.line, cell, cause, from, to);
    this.markDependents(frame, cell, field.slot, reason);
  }

  /**
   * Why those are computed that read a value which changed. A scratch field is computed afresh whenever an entry opens: that is no change
   * of the record. One that waits has not changed yet, and where the answer brings what stood there before it never did: nothing that
   * rests on it is taken for changed in one order of the answers and not in another.
   */
  private onward(frame: Frame, { slot }: Cell, at: number, from: Result, to: Result, reason: Reason): Reason {
    if (to === Waiting.value) {
      frame.waits(at, from);
      return 'open';
    }
    const stood = frame.stood(at);
    if (stood !== undefined && same(stood, to)) return 'open';
    return reason === 'open' && !(this.plan.fields[slot] as PlanField).definition.column ? 'open' : 'change';
  }

  /** A field's value, and how it stands. `reason` is why it was computed. */
  setState(frame: Frame, field: PlanField, next: ValueState, cause: Cause, reason: Reason): void {
    const before = frame.state(field.at);
    frame.put(field.at, next);
    const valueChanged = !same(before.value, next.value);
    const looksChanged =
      (before.origin !== next.origin && before.origin.kind !== next.origin.kind) ||
      before.gone !== next.gone ||
      (before.suggestion !== next.suggestion && !same(before.suggestion ?? null, next.suggestion ?? null));
    if (!valueChanged && !looksChanged) return;
    this.trace.noteOf(this.toldOf(field, next.origin), frame.line, cause, before.value, next.value);
    if (!valueChanged) return;
    frame.values[field.at] = next.value;
    this.valueChanged(frame, this.valueCell(field), field.at, before.value, next.value, reason);
  }
  /** What is told of a value that changed: what was told of the field last, where the value came from there again. */
  private toldOf({ slot, key }: PlanField, origin: Origin): Changed {
    const last = this.told[slot];
    return last?.origin === origin ? last : (this.told[slot] = { field: key, cell: 'value', origin });
  }
  /** The cell of a field's value. */
  valueCell = ({ slot }: PlanField): Cell => this.plan.cells[this.plan.cellOf.value[slot] as number] as Cell;
  /** The same for what a calculation gives a field that its calculation filled before: most cells, on the shortest way. */
  setCalculated(frame: Frame, cell: Cell, at: number, value: Result, cause: Cause, reason: Reason): void {
    const before = frame.values[at] ?? null;
    if (before === value || same(before, value)) return;
    this.trace.noteOf(cell.calculated, frame.line, cause, before, value);
    frame.calculate(at, value);
    this.valueChanged(frame, cell, at, before, value, reason);
  }
  /** The same for what a calculation would give a stored value that stays. */
  private suggest(frame: Frame, { slot }: Cell, at: number, suggestion: number, cause: Cause): void {
    const before = frame.state(at);
    if (before.suggestion === suggestion) return;
    frame.put(at, suggested(before, suggestion));
    this.trace.note((this.plan.fields[slot] as PlanField).key, frame.line, 'value', cause, before.value, before.value, before.origin);
  }
  private valueChanged(frame: Frame, cell: Cell, at: number, from: Result, to: Result, reason: Reason): void {
    if (cell.group !== null) this.frames.lines.note(cell.group, at, from, to);
    this.markReaders(frame, cell, this.onward(frame, cell, at, from, to, reason));
    if (this.readByMoves?.[cell.slot] === 1) this.movesMayDiffer = true;
    if (this.hasTriggers && this.isEdited) this.effects.changed(this.plan.fields[cell.slot] as PlanField, to);
  }
}
