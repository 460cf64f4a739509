import { waitingParts } from '../choices/narrowing.ts';
import { linksShown, shownTextOf } from '../choices/shownText.ts';
import { FILES } from '../model/tables.ts';
import type { DataEnv, Env } from '../formula/env.ts';
import { FormulaError, type Result, Waiting, isDatum } from '../formula/errors.ts';
import { type Datum, type Row, same } from '../values/types.ts';
import { type DataCache } from './cache.ts';
import { storedOf } from './candidates.ts';
import { waitsHidden } from './cells.ts';
import { Frame } from './frame.ts';
import { CALCULATED, followFill, givesOnce, isLockedByFill } from '../form/fills/index.ts';
import { dataEnv } from './picks.ts';
import { BitQueue, Heap, type Smallest } from './graph.ts';
import { LineFrames } from './lineFrames.ts';
import { BEFORE_OFFER, offerNow } from './offers.ts';
import { type Origin, firstOrigin } from '../model/origin.ts';
import type { Cell, CellKind, LinesKind, Plan, PlanChoices, PlanField, PlanLines, PlanValue } from './plan.ts';
import { type Cause, type CellChange, type Change, type CheckState, type Offer, type RefusedEdit, addressOf } from './state.ts';
import { treatChoice } from './treat.ts';
import { type Reason, UNSET, type ValueState, changed, filled } from '../model/valueState.ts';
import { type Want, wantKey } from './wants.ts';

/** What the host knows when an entry opens; read once. */
export interface EntryContext {
  readonly mode: 'new' | 'edit' | 'view';
  readonly today: string;
  readonly now: string;
  readonly me: number | null;
  readonly url?: Readonly<Record<string, string>>;
  /** the record the entry is opened under */
  readonly parent?: number | null;
}

/** A stored record as an entry opens it: values by column, its lines in order, origins by address (see `addressOf`). */
export interface StoredRecord {
  readonly values: Readonly<Record<string, Datum>>;
  readonly origins: Readonly<Record<string, Origin>>;
  readonly lines?: Readonly<Record<string, readonly StoredLine[]>>;
}
export interface StoredLine {
  readonly id: number;
  readonly values: Readonly<Record<string, Datum>>;
}

/** How many calls, and how many changes in all, the trace keeps: enough to read, not so many that a long session grows. */
const TRACE_DEPTH = 100;
const TRACE_CHANGES = 2000;
/** A dirty cell is one number: its id, then the number of its frame, so that cells come out in dependency order. */
const FRAMES = 2 ** 21;

/**
 * The working of an entry: frames with values, dirty cells computed in dependency order, wants noted by the cell that
 * lacks them. What people do to it, and how it is read, stands in `Entry`.
 */
export abstract class Settling {
  protected readonly root: Frame;
  protected readonly lineFrames: LineFrames;
  /** without lines a cell's number is its id alone */
  protected readonly frames: number;

  protected readonly dirty: Smallest;
  protected readonly wantsByCell = new Map<number, Map<string, Want>>();
  protected readonly waitingSince = new Map<number, Reason>();
  protected collecting: Map<string, Want> | null = null;
  protected readonly fillUps: { frame: Frame; field: PlanField }[] = [];
  /** fields whose filling up waits for a row; until then their own lists cannot judge them */
  protected heldBack: readonly { frame: Frame; field: PlanField }[] = [];
  protected changes: CellChange[] = [];
  /** numbers of series read by the cell being computed, and by all, by cell: those still held are taken at save */
  protected seriesNow: Map<string, number> | null = null;
  protected readonly seriesRead = new Map<number, ReadonlyMap<string, number>>();
  private readonly data: DataEnv;
  protected computed = 0;
  protected readonly history: Change[] = [];
  private traced = 0;

  constructor(
    readonly plan: Plan,
    readonly context: EntryContext,
    readonly cache: DataCache,
    record: StoredRecord | null,
  ) {
    this.frames = plan.lines.length ? FRAMES : 1;
    this.dirty = plan.lines.length ? new Heap() : new BitQueue(plan.cells.length);
    this.data = dataEnv(
      plan,
      cache,
      (want) => this.want(want),
      (name, number) => (this.seriesNow ??= new Map()).set(name, number),
    );
    this.root = this.makeFrame(
      0,
      null,
      plan.own,
      plan.frameCells.form,
      (f) => this.initial(f, record?.values ?? null, record?.origins[f.key]),
      record,
    );
    this.lineFrames = new LineFrames(plan.lines, (no, line, group, stored) => {
      const { first, count } = plan.lines[group] as PlanLines;
      const fields = plan.fields.slice(first, first + count);
      const start = (f: PlanField): ValueState => this.initial(f, stored?.values ?? null, record?.origins[addressOf(f.key, line)]);
      return this.makeFrame(no, line, fields, plan.frameCells.lines[group] ?? 0, start, null);
    });
    for (const group of plan.lines) {
      const stored = record?.lines?.[group.key] ?? [];
      for (const line of stored) this.lineFrames.add(group.group, line.id, null, line);
      if (!record && context.mode === 'new') for (let i = 1; i <= group.definition.start; i++) this.lineFrames.add(group.group, -i);
    }
    for (const cell of plan.cells) for (const frame of this.framesOf(cell.group)) this.mark(frame, cell.id, 'open', { kind: 'open' });
  }

  protected makeFrame(
    no: number,
    line: number | null,
    fields: readonly PlanField[],
    cells: number,
    initial: (field: PlanField) => ValueState,
    record: StoredRecord | null,
  ): Frame {
    const { plan, context, cache } = this;
    return new Frame(no, line, fields, cells, initial, (frame) => {
      const outer = line === null ? null : this.root.env;
      const env: Env = {
        values: frame.values,
        outer,
        candidate: null,
        params: [],
        today: context.today,
        now: context.now,
        me: context.me,
        mode: context.mode,
        url: context.url ?? {},
        parent: context.parent ?? null,
        before: outer ? outer.before : (record?.values ?? null),
        row: (table, id) => this.readRow(table, id),
        lines: (group, at) => this.lineFrames.values(group, at),
        total: (group, at) => this.lineFrames.total(group, at),
        item: (slot) => this.itemOf(frame, slot),
        data: this.data,
      };
      const valueAt = (slot: number): Result => {
        const field = plan.fields[slot] as PlanField;
        return (field.group === null ? this.root.values : frame.values)[field.at] ?? null;
      };
      return { env, world: { plan, env, valueAt, cache, want: (want) => this.want(want) } };
    });
  }

  protected initial(field: PlanField, values: Readonly<Record<string, Datum>> | null, was: Origin | undefined): ValueState {
    const column = field.definition.column;
    if (values && column) {
      const origin: Origin = { kind: 'stored', was: was ? firstOrigin(was) : { kind: 'typed' } };
      return changed(UNSET, { value: values[column] ?? null, origin, done: true });
    }
    return changed(UNSET, { pending: givesOnce(field) });
  }

  /** The row (or option) that a choice field's value stands for. */
  protected candidateRow(frame: Frame, field: PlanField, value: Result): Row | null | Waiting {
    if (!field.choices || !isDatum(value) || value === null) return null;
    const { options, table, stores } = field.choices;
    if (stores === 'row' && table !== null) return typeof value === 'number' ? this.readRow(table, value) : null;
    return (options ?? frame.offers[field.at]?.rows)?.find((r) => r.value === value) ?? null;
  }

  protected itemOf(frame: Frame, slot: number): Row | null {
    const field = this.plan.fields[slot] as PlanField;
    const row = this.candidateRow(frame, field, frame.values[field.at] ?? null);
    return row instanceof Waiting ? null : row;
  }

  // ---- settling ----

  /** What is done when no cell is dirty any more; it may make some dirty again. */
  protected abstract runEffects(): void;
  protected abstract get hasEffects(): boolean;

  protected framesOf(group: number | null): readonly Frame[] {
    return group === null ? [this.root] : this.lineFrames.of(group);
  }
  protected frameNumbered(key: number): Frame | undefined {
    const no = key % this.frames;
    return no === 0 ? this.root : this.lineFrames.numbered(no);
  }

  protected mark(frame: Frame, cell: number, reason: Reason, cause: Cause): void {
    const local = this.plan.cells[cell]?.local ?? 0;
    if (frame.reasons[local] === null) {
      this.dirty.push(cell * this.frames + frame.no);
      frame.reasons[local] = reason;
      frame.causes[local] = cause;
    } else if (reason === 'change') frame.reasons[local] = 'change';
  }

  protected markOwn(frame: Frame, kind: CellKind, field: PlanField, reason: Reason, cause: Cause): void {
    const cell = this.plan.cellOf[kind][field.slot] as number;
    if (cell >= 0) this.mark(frame, cell, reason, cause);
  }

  /** `of` is the field's slot, or the group for the cells of lines. */
  protected markDependents(frame: Frame, kind: CellKind | LinesKind, of: number, key: string, reason: Reason): void {
    const { cells, cellOf, dependents, across } = this.plan;
    const cell = cellOf[kind][of] as number;
    if (cell < 0) return;
    const near = dependents[cell] as readonly number[];
    const group = cells[cell]?.group ?? null;
    if (near.length === 0 && group === null) return;
    const cause: Cause = { kind: 'cell', field: key, cell: kind };
    for (const dependent of near) {
      const to = (cells[dependent] as Cell).group;
      if (to === group) this.mark(frame, dependent, reason, cause);
      else for (const line of this.framesOf(to)) this.mark(line, dependent, reason, cause);
    }
    if (group !== null)
      for (const dependent of across[cell] ?? [])
        for (const other of this.framesOf(cells[dependent]?.group ?? null)) this.mark(other, dependent, reason, cause);
  }

  protected settle(what: Change['what']): Change {
    this.run();
    return this.finish(what, []);
  }

  protected finish(what: Change['what'], refused: readonly RefusedEdit[]): Change {
    const change: Change = { what, changes: this.changes, computed: this.computed, refused };
    this.changes = [];
    this.computed = 0;
    if (change.changes.length || what.kind !== 'supply') {
      this.history.push(change);
      this.traced += change.changes.length;
      // the last call is kept whole, however much it changed
      while (this.history.length > TRACE_DEPTH || (this.traced > TRACE_CHANGES && this.history.length > 1))
        this.traced -= this.history.shift()?.changes.length ?? 0;
    }
    return change;
  }

  /** Computes dirty cells in dependency order until none is left. */
  protected run(): void {
    for (;;) {
      for (let key = this.dirty.pop(); key !== undefined; key = this.dirty.pop()) {
        // without lines there is one frame, and a cell's number is its id
        const frame = this.frames === 1 ? this.root : this.frameNumbered(key);
        if (frame?.alive) this.computeCell(key, this.frames === 1 ? key : Math.floor(key / this.frames), frame);
      }
      if (!this.hasEffects) return;
      this.runEffects();
      if (!this.dirty.size) return;
    }
  }

  protected computeCell(key: number, cell: number, frame: Frame): void {
    const { kind, slot, local } = this.plan.cells[cell] as { kind: CellKind | LinesKind; slot: number; local: number };
    const reason = frame.reasons[local] ?? 'change';
    const cause = frame.causes[local] ?? { kind: 'open' };
    frame.reasons[local] = null;
    frame.causes[local] = null;
    this.computed++;
    this.collecting = null;
    this.seriesNow = null;
    try {
      if (kind === 'linesShown') this.computeLinesShown(slot, cause, reason);
      else if (kind !== 'lines') this.computeField(kind, this.plan.fields[slot] as PlanField, frame, cause, reason);
    } catch (e) {
      this.broken(kind, this.plan.fields[slot], frame, cause, e);
    }
    const wants = this.collecting as Map<string, Want> | null;
    this.collecting = null;
    if (this.seriesNow) this.seriesRead.set(key, this.seriesNow);
    if (wants) {
      this.wantsByCell.set(key, wants);
      this.waitingSince.set(key, reason);
    } else if (this.wantsByCell.size) {
      this.wantsByCell.delete(key);
      this.waitingSince.delete(key);
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
      this.markDependents(frame, 'choices', field.slot, field.key, 'change');
    }
  }

  protected computeField(kind: CellKind, field: PlanField, frame: Frame, cause: Cause, reason: Reason): void {
    switch (kind) {
      case 'shown':
        this.setFlag(frame, frame.shown, kind, field, this.computeShown(field, frame), cause, reason);
        break;
      case 'required':
        this.setFlag(frame, frame.required, kind, field, field.required?.run(frame.env) === true, cause, reason);
        break;
      case 'locked':
        this.setFlag(frame, frame.locked, kind, field, field.locked?.run(frame.env) === true, cause, reason);
        break;
      case 'checks':
        this.computeChecks(frame, field, cause);
        break;
      case 'choices':
        this.computeChoices(frame, field, cause, reason);
        break;
      case 'value':
        this.computeValue(frame, field, cause, reason);
        break;
    }
  }

  protected want(want: Want): void {
    this.collecting ??= new Map();
    this.collecting.set(wantKey(want), want);
  }

  protected readRow(table: string, id: number): Row | null | Waiting {
    const row = this.cache.row(table, id);
    if (row !== undefined) return row;
    const known = this.plan.tables.get(table);
    if (!known && table !== FILES) return null;
    this.want(!known || known.large ? { kind: 'row', table, id } : { kind: 'table', table });
    return Waiting.value;
  }

  protected computeShown(field: PlanField, frame: Frame): boolean {
    if (!field.shown.every((f) => f.run(frame.env) === true)) return false;
    return !(waitsHidden(field) && waitingParts(field.choices?.narrowing ?? null, frame.world.valueAt).size > 0);
  }

  protected computeLinesShown(group: number, cause: Cause, reason: Reason): void {
    const lines = this.plan.lines[group] as PlanLines;
    const from = this.lineFrames.shown(group);
    const to = lines.shown.every((f) => f.run(this.root.env) === true);
    if (from === to) return;
    this.lineFrames.show(group, to);
    this.changes.push({ field: lines.key, line: null, cell: 'linesShown', cause, from, to, origin: null });
    this.markDependents(this.root, 'linesShown', group, lines.key, reason);
  }

  protected setFlag(frame: Frame, flags: boolean[], cell: CellKind, field: PlanField, to: boolean, cause: Cause, reason: Reason): void {
    const from = flags[field.at] as boolean;
    if (from === to) return;
    flags[field.at] = to;
    this.changes.push({ field: field.key, line: frame.line, cell, cause, from, to, origin: null });
    this.markDependents(frame, cell, field.slot, field.key, reason);
  }

  protected computeChecks(frame: Frame, field: PlanField, cause: Cause): void {
    const held: CheckState[] = [];
    for (const check of field.checks)
      if (check.when.run(frame.env) === true) held.push({ message: check.message, severity: check.severity });
    const before = frame.checks[field.at] ?? [];
    if (before.length === held.length && before.every((c, i) => c.message === held[i]?.message)) return;
    frame.checks[field.at] = held;
    const text = (list: readonly CheckState[]): Result => list.map((c) => c.message).join(' ') || null;
    this.changes.push({ field: field.key, line: frame.line, cell: 'checks', cause, from: text(before), to: text(held), origin: null });
  }

  protected computeChoices(frame: Frame, field: PlanField, cause: Cause, reason: Reason): void {
    const before = frame.offers[field.at] as Offer;
    const offer = offerNow(field, frame.world);
    frame.offers[field.at] = offer;
    // the tables that shown texts lead to are asked for with the list
    const [first] = offer.rows ?? [];
    if (first && field.choices?.shownAs) shownTextOf(field.choices, first, frame.env.row);
    if (field.choices) this.readShownLinks(field.choices, offer.rows ?? []);
    const sameRows =
      before.rows === offer.rows || (before.rows?.length === offer.rows?.length && before.rows?.every((r, i) => r === offer.rows?.[i]));
    if (before.key === offer.key && before.status === offer.status && before.total === offer.total && sameRows) return;
    const count = (o: Offer): Result => (o.status === 'ready' ? o.total : null);
    this.changes.push({ field: field.key, line: frame.line, cell: 'choices', cause, from: count(before), to: count(offer), origin: null });
    this.markDependents(frame, 'choices', field.slot, field.key, reason);
  }

  /** Asks for the rows that shown columns lead to, so that a list shows what they are known by: small tables, once. */
  private readShownLinks(choices: PlanChoices, rows: readonly Row[]): void {
    for (const { column, target } of linksShown(choices, this.plan.tables)) {
      if (this.plan.tables.get(target)?.large || this.cache.table(target)) continue;
      const id = rows.map((r) => [r[column] ?? null].flat()[0]).find((v) => typeof v === 'number');
      if (typeof id === 'number') this.readRow(target, id);
    }
  }

  /** Whether a value is among the choices now; Waiting when that is still being asked. */
  protected isOffered(frame: Frame, field: PlanField, value: Datum): boolean | Waiting {
    const offer = frame.offers[field.at] as Offer;
    if (offer.status === 'loading' || offer.status === 'failed') return Waiting.value;
    if (offer.status === 'waiting') return false;
    if (offer.rows) return offer.rows.some((r) => storedOf(field, r) === value);
    if (typeof value !== 'number' && typeof value !== 'string') return false;
    const want: Want = { kind: 'offered', field: field.key, params: offer.params, open: offer.open, value };
    const answer = this.cache.answer(want);
    if (answer?.kind === 'offered') return answer.offered;
    this.want(want);
    return Waiting.value;
  }

  protected setState(frame: Frame, field: PlanField, next: ValueState, cause: Cause, reason: Reason): void {
    const before = frame.states[field.at] as ValueState;
    frame.states[field.at] = next;
    const valueChanged = !same(before.value, next.value);
    const looksChanged =
      (before.origin !== next.origin && before.origin.kind !== next.origin.kind) ||
      before.gone !== next.gone ||
      (before.suggestion !== next.suggestion && !same(before.suggestion ?? null, next.suggestion ?? null));
    if (!valueChanged && !looksChanged) return;
    this.changes.push({
      field: field.key,
      line: frame.line,
      cell: 'value',
      cause,
      from: before.value,
      to: next.value,
      origin: next.origin,
    });
    if (!valueChanged) return;
    frame.values[field.at] = next.value;
    if (field.group !== null) this.lineFrames.note(field.group, field.at, before.value, next.value);
    this.markDependents(frame, 'value', field.slot, field.key, reason);
  }

  protected computeValue(frame: Frame, field: PlanField, cause: Cause, reason: Reason): void {
    const before = frame.states[field.at] as ValueState;
    // most cells of a form: a calculation that is shown and chooses nothing; what stands below comes to the same
    if (field.isPlain && frame.shown[field.at] && (before.origin === CALCULATED || before.origin.kind !== 'stored')) {
      const value = (field.value as PlanValue).fitted(frame.env);
      if (before.origin === CALCULATED && value === before.value && value === before.suggestion) return;
      const onward: Reason = reason === 'open' && !field.definition.column ? 'open' : 'change';
      this.setState(frame, field, filled(before, value, CALCULATED, before.done), cause, onward);
      return;
    }
    const cleared = !frame.shown[field.at] && field.definition.hiddenValue === 'clear';
    // a default is kept for the moment the field is first shown
    let next = cleared && before.pending ? before : this.followed(frame, field, before, reason);
    if (field.choices) next = this.treated(frame, field, next, reason);
    if (cleared && (next.value !== null || before.origin.kind === 'hidden')) {
      next = changed(next, { value: null, origin: { kind: 'hidden' }, gone: false });
    }
    // scratch fields are computed afresh whenever an entry opens: that is no change of the record
    const onward: Reason = reason === 'open' && !field.definition.column ? 'open' : 'change';
    const taken =
      next.value !== before.value && (next.origin.kind === 'onlyOne' || (next.origin.kind === field.value?.kind && !isLockedByFill(field)));
    // what is known of a file is fetched, so that it can be shown and judged
    if (field.definition.type === 'file' && typeof next.value === 'number') this.readRow(FILES, next.value);
    this.setState(frame, field, next, cause, onward);
    if (taken && field.choices && next.value !== null) this.fillUps.push({ frame, field });
  }

  private followed(frame: Frame, { value }: PlanField, before: ValueState, reason: Reason): ValueState {
    if (!value) return before;
    const waits = (): boolean => value.awaits.some((slot) => frame.world.valueAt(slot) === null);
    return followFill(value.definition, before, { reason, waits, run: () => value.fitted(frame.env) });
  }

  protected treated(frame: Frame, field: PlanField, state: ValueState, reason: Reason): ValueState {
    // people know a row by its shown column, so the row of a choice is always fetched
    if (field.choices?.large)
      for (const one of Array.isArray(state.value) ? (state.value as readonly Datum[]) : [state.value])
        this.candidateRow(frame, field, one);
    if (this.heldBack.length && this.heldBack.some((h) => h.frame === frame && h.field === field)) return state;
    const offer = frame.offers[field.at] as Offer;
    return treatChoice(field, state, { plan: this.plan, offer, reason, isOffered: (value) => this.isOffered(frame, field, value) });
  }
}
