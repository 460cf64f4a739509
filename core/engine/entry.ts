import { fitProblem, fitValue } from '../form/fit.ts';
import type { Env } from '../formula/env.ts';
import { FormulaError, type Result, Waiting, isDatum } from '../formula/errors.ts';
import { foldText } from '../values/text.ts';
import { type Row, same } from '../values/types.ts';
import { DataCache } from './cache.ts';
import { type Frame } from './frame.ts';
import { fillOrigin, givesOnce, isLockedByFill } from '../form/fills/index.ts';
import { NO_ORIGIN, type Origin } from '../model/origin.ts';
import type { Plan, PlanField, PlanLines } from './plan.ts';
import { narrowRows } from '../choices/narrowing.ts';
import { readsMe } from './compile.ts';
import { type Cause, type Change, type CheckState, type Edit, type Offer, type RefusedEdit, addressOf } from './state.ts';
import { type EntryContext, Settling, type StoredRecord } from './settling.ts';
import { type Answered, type ListAsked, type Want, wantKey } from './wants.ts';
import { type ValueState, changed } from '../model/valueState.ts';

/** Stands for the filling up in the register of wants by cell. */
const FILL_UPS = -1;
/** Stands for what changes by hand set in other fields. */
const SPREADS = -2;
/** Stands for a fill that is given from outside. */
const GIVING = -3;
const NO_WANTS: readonly Want[] = [];
const SUPPLIED = { kind: 'supply' } as const;

/** What stands typed in a field and is no value of its type, with a sentence that says why. */
export interface Unreadable {
  readonly text: string;
  readonly message: string;
}

/** Opens an entry and settles it. Without a record it is new. Cost: every cell once. */
export function openEntry(
  plan: Plan,
  context: EntryContext,
  cache: DataCache = new DataCache(),
  record: StoredRecord | null = null,
): Entry {
  return new Entry(plan, context, cache, record);
}

/**
 * A record while it is being typed. It changes only through `apply`, `supply` and `retry`; each settles and gives
 * back what changed. It never waits: what it lacks stands in `wants`.
 */
export class Entry extends Settling {
  private readonly edits: Edit[] = [];
  private spreading: { frame: Frame; field: PlanField }[] = [];
  private readonly unread = new Map<string, Unreadable>();

  constructor(plan: Plan, context: EntryContext, cache: DataCache, record: StoredRecord | null) {
    super(plan, context, cache, record);
    this.settle({ kind: 'open' });
  }

  // ---- reading ----

  /** What was done lately, oldest first: the trace is made of it. */
  get trace(): readonly Change[] {
    return this.history;
  }

  /** The edits applied so far, in order: what is sent to be saved. */
  get log(): readonly Edit[] {
    return this.edits;
  }

  slot(field: string): number {
    const slot = this.plan.slots.get(field);
    if (slot === undefined) throw new RangeError(`The form has no field “${field}”.`);
    return slot;
  }
  field = (path: string): PlanField => this.plan.fields[this.slot(path)] as PlanField;

  private frame(field: PlanField, line: number | null): Frame {
    if (field.group === null) return this.root;
    const frame = line === null ? undefined : this.lineFrames.get(field.group, line);
    if (!frame) throw new RangeError(`There is no line ${line ?? ''} of “${field.key}”.`);
    return frame;
  }
  private at<T>(path: string, line: number | null, of: (frame: Frame) => readonly T[]): T {
    const field = this.field(path);
    return of(this.frame(field, line))[field.at] as T;
  }

  // `line` names the line for a field of lines

  state = (field: string, line: number | null = null): ValueState => this.at(field, line, (f) => f.states);
  value = (field: string, line: number | null = null): Result => this.state(field, line).value;
  offer = (field: string, line: number | null = null): Offer | null => this.at(field, line, (f) => f.offers);
  checks = (field: string, line: number | null = null): readonly CheckState[] => this.at(field, line, (f) => f.checks);

  isShown = (field: string, line: number | null = null): boolean => this.at(field, line, (f) => f.shown);
  /** A hidden field is never required. */
  isRequired = (field: string, line: number | null = null): boolean => this.at(field, line, (f) => f.required) && this.isShown(field, line);
  /** Calculations are locked: nobody types them. */
  isLocked = (field: string, line: number | null = null): boolean =>
    this.at(field, line, (f) => f.locked) || isLockedByFill(this.field(field).definition) || this.context.mode === 'view';

  /**
   * Whether a field is hidden from the person signed in, and not merely by what the record holds: a condition that asks who
   * they are does not hold. What is withheld is neither told to them nor taken from them.
   */
  isWithheld(field: string, line: number | null = null): boolean {
    const planField = this.field(field);
    if (!planField.isPersonal || this.isShown(field, line)) return false;
    const { env } = this.frame(planField, line);
    return planField.shown.some((f) => readsMe(f) && f.run(env) !== true);
  }

  /** The ids of a group's lines, in order. Throws RangeError when the form has no such lines. */
  lines(key: string): readonly number[] {
    return this.lineFrames.ids(this.group(key).group);
  }
  linesShown = (key: string): boolean => this.lineFrames.shown(this.group(key).group);
  /** Whether nobody has entered anything in a line: it is neither judged nor saved. */
  isBlankLine = (key: string, line: number): boolean => this.lineFrames.get(this.group(key).group, line)?.isBlank ?? true;
  /** An id for a line to be added: one that no line has or had. */
  freeLine = (key: string): number => this.lineFrames.free(this.group(key).group);

  group(key: string): PlanLines {
    const group = this.plan.lines.find((l) => l.key === key);
    if (!group) throw new RangeError(`The form has no lines “${key}”.`);
    return group;
  }

  /** The values as formulas read them, for explanations. */
  get environment(): Env {
    return this.root.env;
  }
  environmentOf = (field: string, line: number | null): Env => this.frame(this.field(field), line).env;

  /** Everything still lacking, each want once. */
  get wants(): readonly Want[] {
    if (this.wantsByCell.size === 0) return NO_WANTS;
    const all = new Map<string, Want>();
    for (const wants of this.wantsByCell.values()) for (const [key, want] of wants) all.set(key, want);
    return [...all.values()];
  }

  /** Whether the field's value stays a person's although a prefill would give another. */
  differs(field: string, line: number | null = null): boolean {
    const { value, suggestion, origin } = this.state(field, line);
    return suggestion !== undefined && isDatum(suggestion) && origin.kind !== this.field(field).value?.kind && !same(value, suggestion);
  }

  /** The list a field shows, as list wants carry it. */
  asked(field: string, line: number | null = null): ListAsked {
    const offer = this.offer(field, line);
    return { field, params: offer?.params ?? [], open: offer?.open ?? [] };
  }

  // ---- what was typed and cannot be read ----

  /**
   * Notes what stands typed in a field without being a value of its type, and why; null when it can be read again. The value
   * stays what it was, and the entry cannot be saved while it stands there.
   */
  noteUnreadable(field: string, line: number | null, unreadable: Unreadable | null): void {
    const address = addressOf(this.field(field).key, line);
    if (unreadable) this.unread.set(address, unreadable);
    else this.unread.delete(address);
  }
  unreadable = (field: string, line: number | null = null): Unreadable | null => this.unread.get(addressOf(field, line)) ?? null;

  // ---- changing ----

  /** Applies edits in order, each settled before the next. Edits that may not be made are refused and change nothing. */
  apply(edits: readonly Edit[]): Change {
    const refused: RefusedEdit[] = [];
    for (const edit of edits) {
      const message = this.editProblem(edit);
      if (message !== null) {
        refused.push({ field: edit.field, line: edit.line ?? null, message });
        continue;
      }
      this.edits.push(edit);
      this.perform(edit);
      this.run();
    }
    return this.finish({ kind: 'edit', edits }, refused);
  }

  /** Why an edit may not be made, as a sentence; null when it may. The same check serves the screen and the server. */
  editProblem(edit: Edit): string | null {
    if (edit.kind === 'addLine' || edit.kind === 'removeLine' || edit.kind === 'moveLine') {
      const lines = this.plan.lines.find((l) => l.key === edit.field);
      if (!lines) return `The form has no lines “${edit.field}”.`;
      return this.context.mode === 'view' ? `${lines.definition.label} cannot be changed here.` : this.lineFrames.problem(edit, lines);
    }
    const slot = this.plan.slots.get(edit.field);
    const field = slot === undefined ? undefined : this.plan.fields[slot];
    if (!field) return `The form has no field “${edit.field}”.`;
    const { label } = field.definition;
    const line = edit.line ?? null;
    if (field.group !== null && !this.lineFrames.get(field.group, line ?? 0)) return `The line of ${label} is not there any more.`;
    if (edit.kind === 'takeSuggestion')
      return this.state(edit.field, line).suggestion === undefined ? `${label} has no suggestion to take.` : null;
    if (isLockedByFill(field.definition)) return `${label} is calculated and cannot be typed.`;
    if (this.isLocked(edit.field, line)) return `${label} is locked.`;
    if (this.isWithheld(edit.field, line)) return `${label} is not shown to you, so you cannot fill it in.`;
    return edit.kind === 'set' ? fitProblem(field.definition, field.column, edit.value) : null;
  }

  /**
   * Gives a field what its default, prefill or calculation gives now, whatever stands in it, and settles. Returns the value
   * given; undefined when there is nothing to give (no such rule, hidden, or a default or prefill that is empty); Waiting
   * while something is wanted (call again when it has been supplied); or the error that it comes to, which changes nothing.
   */
  give(path: string, line: number | null = null): Result | undefined {
    const field = this.field(path);
    const frame = this.frame(field, line);
    if (!field.value || (!frame.shown[field.at] && field.definition.hiddenValue === 'clear')) return undefined;
    this.collecting = null;
    this.seriesNow = null;
    const value = field.value.fitted(frame.env);
    const wants = this.collecting as Map<string, Want> | null;
    this.collecting = null;
    if (wants) this.wantsByCell.set(GIVING, wants);
    else this.wantsByCell.delete(GIVING);
    if (!isDatum(value)) return value;
    const { kind } = field.value;
    if (value === null && !isLockedByFill(field)) return undefined;
    if (this.seriesNow) this.seriesRead.set((this.plan.cellOf.value[field.slot] as number) * this.frames + frame.no, this.seriesNow);
    const state = frame.states[field.at] as ValueState;
    const offer = frame.offers[field.at] ?? null;
    const origin = fillOrigin(kind);
    const next: ValueState = {
      value,
      origin,
      suggestion: givesOnce(field) ? undefined : value,
      gone: false,
      offerKey: offer?.key ?? null,
      offerOpen: offer?.open ?? [],
      pending: false,
      done: true,
    };
    const changesNothing = same(state.value, value) && state.origin.kind === origin.kind;
    this.setState(frame, field, next, SUPPLIED, 'change');
    if (changesNothing) return value;
    this.markOwn(frame, 'value', field, 'change', SUPPLIED);
    this.settle(SUPPLIED);
    return value;
  }

  /** Takes answers in and settles on. Answers to questions no longer asked stay in the cache and change nothing. */
  supply(answered: readonly Answered[]): Change {
    this.cache.supply(answered, (want) => tableOfWant(this.plan, want));
    const keys = new Set(answered.map((a) => wantKey(a.want)));
    for (const [key, wants] of [...this.wantsByCell]) {
      if (key < 0 || ![...wants.keys()].some((k) => keys.has(k))) continue;
      const cell = Math.floor(key / this.frames);
      const frame = this.frameNumbered(key);
      if (frame)
        this.mark(frame, cell, frame.reasons[this.plan.cells[cell]?.local ?? 0] ?? this.waitingSince.get(key) ?? 'change', {
          kind: 'supply',
        });
    }
    return this.settle({ kind: 'supply' });
  }

  /** Asks again for what failed. */
  retry(): Change {
    this.cache.forgetFailures();
    this.eachField((field, frame) => {
      if (frame.offers[field.at]?.status === 'failed') this.markOwn(frame, 'choices', field, 'change', { kind: 'supply' });
      if (wasNotHad(frame.values[field.at] ?? null)) this.markOwn(frame, 'value', field, 'change', { kind: 'supply' });
    });
    return this.settle({ kind: 'supply' });
  }

  /**
   * Asks anew for the lists of fields whose choices the server would not take: what was known of them is out of date. What is
   * no longer offered is then said at its field.
   */
  reread(fields: readonly { readonly field: string; readonly line?: number | null }[]): Change {
    for (const { field } of fields) {
      const { table } = this.field(field).choices ?? {};
      if (table) this.cache.forgetTable(table, (want) => tableOfWant(this.plan, want));
    }
    const tables = new Set(fields.map(({ field }) => this.field(field).choices?.table));
    this.eachField((field, frame) => {
      if (field.choices?.table && tables.has(field.choices.table)) this.markOwn(frame, 'choices', field, 'change', SUPPLIED);
    });
    return this.settle(SUPPLIED);
  }

  /** Computes every cell anew; for tests and for proving that nothing was missed. A settled entry gives no changes. */
  recomputeAll(): Change {
    for (const cell of this.plan.cells) for (const frame of this.framesOf(cell.group)) this.mark(frame, cell.id, 'open', { kind: 'open' });
    this.run();
    const change: Change = { what: { kind: 'supply' }, changes: this.changes, computed: this.computed, refused: [] };
    this.changes = [];
    this.computed = 0;
    return change;
  }

  /** Every field in every frame: those of the form, then those of each line. */
  eachField(visit: (field: PlanField, frame: Frame) => void): void {
    for (const field of this.plan.own) visit(field, this.root);
    for (const { group } of this.plan.lines)
      for (const frame of this.lineFrames.of(group)) for (const field of frame.fields) visit(field, frame);
  }

  private perform(edit: Edit): void {
    if (edit.kind === 'addLine' || edit.kind === 'removeLine' || edit.kind === 'moveLine') {
      this.changeLines(edit);
      return;
    }
    const field = this.field(edit.field);
    const frame = this.frame(field, edit.line ?? null);
    const state = frame.states[field.at] as ValueState;
    const cause: Cause = { kind: 'edit' };
    const offerKey = frame.offers[field.at]?.key ?? null;
    const offerOpen = frame.offers[field.at]?.open ?? [];
    if (edit.kind === 'takeSuggestion') {
      const value = state.suggestion ?? null;
      // of nothing to take nothing is the origin, but for a field that is its formula's alone
      const origin = field.value && (value !== null || isLockedByFill(field)) ? fillOrigin(field.value.kind) : NO_ORIGIN;
      this.setState(frame, field, changed(state, { value, origin, gone: false, offerKey, offerOpen }), cause, 'change');
      if (!same(state.value, value)) this.spreading.push({ frame, field });
      this.markOwn(frame, 'value', field, 'change', cause);
      return;
    }
    this.unread.delete(addressOf(field.key, frame.line));
    const value = edit.kind === 'clear' ? null : fitValue(field.definition, field.column, edit.value);
    const by = edit.kind === 'set' ? edit.by : undefined;
    const origin: Origin = { kind: value === null ? 'emptied' : (by ?? (field.choices ? 'chosen' : 'typed')) };
    this.setState(frame, field, changed(state, { value, origin, gone: false, offerKey, offerOpen, pending: false }), cause, 'change');
    if (!same(state.value, value)) this.spreading.push({ frame, field });
    if (value !== null && field.choices) this.fillUps.push({ frame, field });
    // judged once everything above has settled: a forged choice is flagged, a hidden field cleared
    this.markOwn(frame, 'value', field, 'change', cause);
    this.runFillUps();
  }

  private changeLines(edit: Extract<Edit, { kind: 'addLine' | 'removeLine' | 'moveLine' }>): void {
    const { group, key } = this.group(edit.field);
    const from = this.lineFrames.ids(group).length;
    const cause: Cause = { kind: 'edit' };
    if (edit.kind === 'addLine') {
      const frame = this.lineFrames.add(group, edit.line, edit.at ?? null);
      for (const cell of this.plan.cells) if (cell.group === group) this.mark(frame, cell.id, 'change', cause);
    } else if (edit.kind === 'removeLine') {
      const frame = this.lineFrames.remove(group, edit.line);
      for (const wanted of [...this.wantsByCell.keys()])
        if (wanted >= 0 && wanted % this.frames === frame.no) this.wantsByCell.delete(wanted);
    } else this.lineFrames.move(group, edit.line, edit.to);
    this.changes.push({ field: key, line: edit.line, cell: 'lines', cause, from, to: this.lineFrames.ids(group).length, origin: null });
    this.markDependents(this.root, 'lines', group, key, 'change');
  }

  protected get hasEffects(): boolean {
    return this.fillUps.length > 0 || this.spreading.length > 0;
  }
  protected runEffects(): void {
    if (this.fillUps.length) this.runFillUps();
    // what is set elsewhere is computed from settled values
    if (!this.dirty.size) this.runSpreads();
  }

  /** What a change by hand sets and clears in other fields, and what those set in turn. */
  private runSpreads(): void {
    const later: typeof this.spreading = [];
    this.collecting = null;
    for (let next = this.spreading.shift(); next; next = this.spreading.shift()) {
      const { frame, field } = next;
      if (frame.alive && this.spread(frame, field) === 'waiting') later.push(next);
      // each settles before the next is computed
      if (this.dirty.size) break;
    }
    if (this.collecting) this.wantsByCell.set(SPREADS, this.collecting);
    else this.wantsByCell.delete(SPREADS);
    this.collecting = null;
    this.spreading.push(...later);
  }

  private spread(frame: Frame, field: PlanField): 'done' | 'waiting' {
    const effects: { target: PlanField; value: Result }[] = [];
    for (const { slot, formula, when } of field.spreads) {
      const met = when ? when.run(frame.env) : true;
      const value = met === true && formula ? formula.run(frame.env) : null;
      if (met instanceof Waiting || value instanceof Waiting) return 'waiting';
      if (met === true) effects.push({ target: this.plan.fields[slot] as PlanField, value });
    }
    for (const { target, value } of effects) {
      const home = target.group === null ? this.root : frame;
      const before = home.states[target.at] as ValueState;
      const fitted = isDatum(value) ? fitValue(target.definition, target.column, value) : value;
      const origin: Origin = { kind: 'spread', from: field.key };
      const cause: Cause = { kind: 'cell', field: field.key, cell: 'value' };
      const isNew = !same(before.value, fitted);
      if (!isNew && before.origin.kind === 'spread') continue;
      this.setState(home, target, changed(before, { value: fitted, origin, gone: false, offerKey: null, pending: false }), cause, 'change');
      this.markOwn(home, 'value', target, 'change', cause);
      if (fitted !== null && target.choices) this.fillUps.push({ frame: home, field: target });
      if (isNew && target.spreads.length) this.spreading.push({ frame: home, field: target });
    }
    return 'done';
  }

  /** The numbers of series that values rest on: what a save takes. By the name of the series. */
  get seriesTaken(): ReadonlyMap<string, number> {
    const taken = new Map<string, number>();
    for (const [key, numbers] of this.seriesRead) {
      const frame = this.frameNumbered(key);
      const field = this.plan.fields[this.plan.cells[Math.floor(key / this.frames)]?.slot ?? -1];
      const state = field && frame?.alive ? frame.states[field.at] : undefined;
      if (field?.value && state?.value !== null && state?.origin.kind === field.value.kind && givesOnce(field))
        for (const [name, number] of numbers) taken.set(name, number);
    }
    return taken;
  }
  /** Feeds that a value waits for. */
  get feedsAwaited(): ReadonlySet<string> {
    const awaited = new Set<string>();
    for (const [key, wants] of this.wantsByCell) {
      if (key >= 0 && this.plan.cells[Math.floor(key / this.frames)]?.kind !== 'value') continue;
      for (const want of wants.values()) if (want.kind === 'feed') awaited.add(want.feed);
    }
    return awaited;
  }

  /** Choosing a row first fills the empty fields that its narrowing equates, and so on upwards. */
  private runFillUps(): void {
    const later: { frame: Frame; field: PlanField }[] = [];
    this.collecting = null;
    for (let next = this.fillUps.pop(); next !== undefined; next = this.fillUps.pop()) {
      const { frame, field } = next;
      if (!frame.alive || !field.choices?.fills.length) continue;
      const rows = this.rowsMeant(frame, field);
      if (rows instanceof Waiting) later.push(next);
      else if (rows.length) this.fillUp(frame, field, rows);
    }
    // what could not go on for want of a row goes on when the row comes
    this.fillUps.push(...later);
    if (this.collecting) this.wantsByCell.set(FILL_UPS, this.collecting);
    else this.wantsByCell.delete(FILL_UPS);
    this.collecting = null;
    for (const held of this.heldBack)
      if (held.frame.alive && !later.some((l) => l.frame === held.frame && l.field === held.field))
        this.markOwn(held.frame, 'value', held.field, 'change', { kind: 'supply' });
    this.heldBack = later;
  }

  /** The candidates that a field's value may stand for: the row, the option, or all rows that have the value in the column. */
  private rowsMeant(frame: Frame, field: PlanField): readonly Row[] | Waiting {
    const { value } = frame.states[field.at] as ValueState;
    const { table, values, narrowing } = field.choices as NonNullable<PlanField['choices']>;
    if (values === null || table === null) {
      const row = this.candidateRow(frame, field, value);
      return row instanceof Waiting ? row : row ? [row] : [];
    }
    const all = this.cache.table(table)?.rows;
    if (!all) {
      this.want({ kind: 'table', table });
      return Waiting.value;
    }
    if (typeof value !== 'string') return [];
    const key = foldText(value);
    const having = all.filter((r) => typeof r[values] === 'string' && foldText(r[values]) === key);
    const offer = frame.offers[field.at];
    const left = narrowRows(narrowing, having, new Set(offer?.open ?? []), { ...frame.env, params: offer?.params ?? [] });
    return left.waiting ? Waiting.value : left.rows;
  }

  /** Where the rows meant agree on what stands above, it is filled in; where they do not, nothing can be told. */
  private fillUp(frame: Frame, field: PlanField, rows: readonly Row[]): void {
    for (const part of field.choices?.narrowing?.parts ?? []) {
      if (!part.equates) continue;
      const parent = this.plan.fields[part.equates.slot] as PlanField;
      const home = parent.group === null ? this.root : frame;
      const above = home.states[parent.at] as ValueState;
      if (above.value !== null) continue;
      const { candidate } = part.equates;
      const found = rows.map((row) => {
        frame.env.candidate = row;
        return candidate(frame.env);
      });
      frame.env.candidate = null;
      const [value = null] = found;
      if (value === null || !isDatum(value) || !found.every((v) => isDatum(v) && same(v, value))) continue;
      // a calculated parent follows its own formula
      if (isLockedByFill(parent)) continue;
      const cause: Cause = { kind: 'cell', field: field.key, cell: 'value' };
      const origin: Origin = { kind: 'filledUp', from: field.key };
      this.setState(home, parent, changed(above, { value, origin, gone: false, offerKey: null, pending: false }), cause, 'change');
      this.markOwn(home, 'value', parent, 'change', cause);
      // the list below was narrowed by what it itself filled: that is no change of its driver
      frame.states[field.at] = changed(frame.states[field.at] as ValueState, { offerKey: null });
      this.fillUps.push({ frame: home, field: parent });
    }
  }
}

export type { EntryContext, StoredLine, StoredRecord } from './settling.ts';

/** A value that could not be looked up, and may be had when asked again. */
const wasNotHad = (value: Result): boolean => value instanceof FormulaError && value.code === 'notAvailable';

/** The table whose rows an answer to this want brings. */
export function tableOfWant(plan: Plan, want: Want): string | null {
  if (want.kind === 'picked') return plan.picks[want.pick]?.table ?? null;
  if (want.kind === 'last') return plan.form.table;
  return 'field' in want ? (plan.fields[plan.slots.get(want.field) ?? -1]?.choices?.table ?? null) : null;
}
