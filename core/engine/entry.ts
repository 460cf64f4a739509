import { waitingParts } from '../choices/narrowing.ts';
import { fitProblem, fitValue } from '../form/fit.ts';
import type { Env } from '../formula/env.ts';
import { type Result, Waiting, isDatum } from '../formula/errors.ts';
import { type Datum, type Row, same } from '../values/types.ts';
import { DataCache } from './cache.ts';
import { storedOf } from './candidates.ts';
import { waitsHidden } from './compile.ts';
import { Heap } from './graph.ts';
import { BEFORE_OFFER, type OfferWorld, offerNow } from './offers.ts';
import { NO_ORIGIN, type Origin, firstOrigin, isPersons } from './origin.ts';
import type { CellKind, Plan, PlanField } from './plan.ts';
import type { Cause, CellChange, Change, CheckState, Edit, Offer, RefusedEdit, ValueState } from './state.ts';
import { CALCULATED, PREFILLED, UNSET, filled } from './values.ts';
import { type Answered, type ListAsked, type Want, wantKey } from './wants.ts';

/** What the host knows when an entry opens; read once. */
export interface EntryContext {
  readonly mode: 'new' | 'edit' | 'view';
  readonly today: string;
  readonly now: string;
  readonly me: number | null;
  readonly url?: Readonly<Record<string, string>>;
}

/** A stored record as an entry opens it: values by column, origins by field. */
export interface StoredRecord {
  readonly values: Readonly<Record<string, Datum>>;
  readonly origins: Readonly<Record<string, Origin>>;
}

type Reason = 'open' | 'change';
/** How many calls the trace keeps: enough to read, not so many that a long session grows. */
const TRACE_DEPTH = 100;
/** Stands for the filling up in the register of wants by cell. */
const FILL_UPS = -1;
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
export class Entry {
  private readonly states: ValueState[];
  private readonly values: Result[];
  private readonly offers: (Offer | null)[];
  private readonly shownStates: boolean[];
  private readonly requiredStates: boolean[];
  private readonly lockedStates: boolean[];
  private readonly checkStates: (readonly CheckState[])[];
  private readonly env: Env;
  private readonly world: OfferWorld;

  private readonly dirty = new Heap();
  private readonly reasons: (Reason | null)[];
  private readonly causes: (Cause | null)[];
  private readonly wantsByCell = new Map<number, Map<string, Want>>();
  private collecting: Map<string, Want> | null = null;
  private readonly fillUps: number[] = [];
  private changes: CellChange[] = [];
  private computed = 0;
  private readonly edits: Edit[] = [];
  private readonly history: Change[] = [];

  constructor(
    readonly plan: Plan,
    readonly context: EntryContext,
    readonly cache: DataCache,
    record: StoredRecord | null,
  ) {
    const { fields, cells } = plan;
    this.states = fields.map((f) => this.initial(f, record));
    this.values = this.states.map((s) => s.value);
    this.offers = fields.map((f) => (f.choices ? BEFORE_OFFER : null));
    this.shownStates = fields.map(() => true);
    this.requiredStates = fields.map(() => false);
    this.lockedStates = fields.map(() => false);
    this.checkStates = fields.map(() => []);
    this.reasons = cells.map(() => null);
    this.causes = cells.map(() => null);
    this.env = {
      values: this.values,
      candidate: null,
      params: [],
      today: context.today,
      now: context.now,
      me: context.me,
      mode: context.mode,
      url: context.url ?? {},
      row: (table, id) => this.readRow(table, id),
    };
    this.world = { plan, env: this.env, values: this.values, cache, want: (want) => this.want(want) };
    for (const cell of cells) this.mark(cell.id, 'open', { kind: 'open' });
    this.settle({ kind: 'open' });
  }

  private initial(field: PlanField, record: StoredRecord | null): ValueState {
    const column = field.definition.column;
    if (record && column) {
      const was = record.origins[field.key];
      const origin: Origin = { kind: 'stored', was: was ? firstOrigin(was) : { kind: 'typed' } };
      return { ...UNSET, value: record.values[column] ?? null, origin, done: true };
    }
    return { ...UNSET, pending: field.value?.kind === 'default' };
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

  state(field: string): ValueState {
    return this.states[this.slot(field)] as ValueState;
  }

  value(field: string): Result {
    return this.state(field).value;
  }

  offer(field: string): Offer | null {
    return this.offers[this.slot(field)] ?? null;
  }

  isShown = (field: string): boolean => this.shownStates[this.slot(field)] ?? true;
  /** A hidden field is never required. */
  isRequired = (field: string): boolean => (this.requiredStates[this.slot(field)] ?? false) && this.isShown(field);
  /** Calculations are locked: nobody types them. */
  isLocked(field: string): boolean {
    const slot = this.slot(field);
    return (
      (this.lockedStates[slot] ?? false) || this.plan.fields[slot]?.definition.value?.kind === 'calculation' || this.context.mode === 'view'
    );
  }
  checks = (field: string): readonly CheckState[] => this.checkStates[this.slot(field)] ?? [];

  /** The values as formulas read them, for explanations. */
  get environment(): Env {
    return this.env;
  }

  /** Everything still lacking, each want once. */
  get wants(): readonly Want[] {
    const all = new Map<string, Want>();
    for (const wants of this.wantsByCell.values()) for (const [key, want] of wants) all.set(key, want);
    return [...all.values()];
  }

  /** Whether the field's value stays a person's although a prefill would give another. */
  differs(field: string): boolean {
    const { value, suggestion, origin } = this.state(field);
    return (
      suggestion !== undefined &&
      isDatum(suggestion) &&
      origin.kind !== 'prefill' &&
      origin.kind !== 'calculation' &&
      !same(value, suggestion)
    );
  }

  /** The list a field shows, as list wants carry it. */
  asked(field: string): ListAsked {
    const offer = this.offer(field);
    return { field, params: offer?.params ?? [], open: offer?.open ?? [] };
  }

  // ---- changing ----

  /** Applies edits in order, each settled before the next. Edits that may not be made are refused and change nothing. */
  apply(edits: readonly Edit[]): Change {
    const refused: RefusedEdit[] = [];
    for (const edit of edits) {
      const message = this.editProblem(edit);
      if (message !== null) {
        refused.push({ field: edit.field, message });
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
    const slot = this.plan.slots.get(edit.field);
    const field = slot === undefined ? undefined : this.plan.fields[slot];
    if (!field) return `The form has no field “${edit.field}”.`;
    const { label } = field.definition;
    if (edit.kind === 'takeSuggestion')
      return this.state(edit.field).suggestion === undefined ? `${label} has no suggestion to take.` : null;
    if (field.definition.value?.kind === 'calculation') return `${label} is calculated and cannot be typed.`;
    if (this.isLocked(edit.field)) return `${label} is locked.`;
    return edit.kind === 'set' ? fitProblem(field.definition, field.column, edit.value) : null;
  }

  /** Takes answers in and settles on. Answers to questions no longer asked stay in the cache and change nothing. */
  supply(answered: readonly Answered[]): Change {
    this.cache.supply(answered, (field) => this.plan.fields[this.plan.slots.get(field) ?? -1]?.choices?.table ?? null);
    const keys = new Set(answered.map((a) => wantKey(a.want)));
    for (const [cell, wants] of [...this.wantsByCell]) {
      if ([...wants.keys()].some((k) => keys.has(k)))
        this.mark(cell, this.reasons[cell] ?? this.waitingSince.get(cell) ?? 'change', { kind: 'supply' });
    }
    return this.settle({ kind: 'supply' });
  }

  /** Asks again for what failed. */
  retry(): Change {
    this.cache.forgetFailures();
    for (const { choices, slot } of this.plan.fields) {
      if (choices && this.offers[slot]?.status === 'failed') this.markOwn('choices', slot, 'change', { kind: 'supply' });
    }
    return this.settle({ kind: 'supply' });
  }

  /** Computes every cell anew; for tests and for proving that nothing was missed. A settled entry gives no changes. */
  recomputeAll(): Change {
    for (const cell of this.plan.cells) this.mark(cell.id, 'open', { kind: 'open' });
    this.run();
    const change: Change = { what: { kind: 'supply' }, changes: this.changes, computed: this.computed, refused: [] };
    this.changes = [];
    this.computed = 0;
    return change;
  }

  private perform(edit: Edit): void {
    const slot = this.slot(edit.field);
    const field = this.plan.fields[slot] as PlanField;
    const state = this.states[slot] as ValueState;
    const cause: Cause = { kind: 'edit' };
    const offerKey = this.offers[slot]?.key ?? null;
    const offerOpen = this.offers[slot]?.open ?? [];
    if (edit.kind === 'takeSuggestion') {
      const value = state.suggestion ?? null;
      const calculated = field.value?.kind === 'calculation';
      const origin: Origin = calculated ? { kind: 'calculation' } : value === null ? NO_ORIGIN : { kind: 'prefill' };
      this.setState(slot, { ...state, value, origin, gone: false, offerKey, offerOpen }, cause, 'change');
      this.markOwn('value', slot, 'change', cause);
      return;
    }
    const value = edit.kind === 'clear' ? null : fitValue(field.definition, field.column, edit.value);
    const origin: Origin = { kind: value === null ? 'emptied' : field.choices ? 'chosen' : 'typed' };
    this.setState(slot, { ...state, value, origin, gone: false, offerKey, offerOpen, pending: false }, cause, 'change');
    if (value !== null && field.choices) this.fillUps.push(slot);
    // judged once everything above has settled: a forged choice is flagged, a hidden field cleared
    this.markOwn('value', slot, 'change', cause);
    this.runFillUps();
  }

  /** Choosing a row first fills the empty fields that its narrowing equates, and so on upwards. */
  private runFillUps(): void {
    const later: number[] = [];
    this.collecting = null;
    for (let slot = this.fillUps.pop(); slot !== undefined; slot = this.fillUps.pop()) {
      const field = this.plan.fields[slot] as PlanField;
      if (!field.choices?.source.fillUp || !field.choices.narrowing?.parts.some((p) => p.equates)) continue;
      const row = this.candidateRow(field, this.states[slot]?.value ?? null);
      if (row instanceof Waiting) {
        later.push(slot);
        continue;
      }
      if (!row) continue;
      for (const part of field.choices.narrowing?.parts ?? []) {
        if (!part.equates) continue;
        const above = this.states[part.equates.slot] as ValueState;
        if (above.value !== null) continue;
        this.env.candidate = row;
        const value = part.equates.candidate(this.env);
        this.env.candidate = null;
        if (value === null || !isDatum(value)) continue;
        const parent = this.plan.fields[part.equates.slot] as PlanField;
        // a calculated parent follows its own formula
        if (parent.value?.kind === 'calculation') continue;
        this.setState(
          parent.slot,
          { ...above, value, origin: { kind: 'filledUp', from: field.key }, gone: false, offerKey: null, pending: false },
          { kind: 'cell', field: field.key, cell: 'value' },
          'change',
        );
        this.markOwn('value', parent.slot, 'change', { kind: 'cell', field: field.key, cell: 'value' });
        // the list below was narrowed by what it itself filled: that is no change of its driver
        this.states[slot] = { ...(this.states[slot] as ValueState), offerKey: null };
        this.fillUps.push(parent.slot);
      }
    }
    // what could not go on for want of a row goes on when the row comes
    this.fillUps.push(...later);
    if (this.collecting) this.wantsByCell.set(FILL_UPS, this.collecting);
    else this.wantsByCell.delete(FILL_UPS);
    this.collecting = null;
    for (const slot of this.heldBack) if (!later.includes(slot)) this.markOwn('value', slot, 'change', { kind: 'supply' });
    this.heldBack = later;
  }
  /** fields whose filling up waits for a row; until then their own lists cannot judge them */
  private heldBack: readonly number[] = [];

  /** The row (or option) that a choice field's value stands for. */
  private candidateRow(field: PlanField, value: Result): Row | null | Waiting {
    if (!field.choices || !isDatum(value) || value === null) return null;
    const { options, table, stores } = field.choices;
    if (options) return options.find((r) => r.value === value) ?? null;
    return stores === 'row' && table !== null && typeof value === 'number' ? this.readRow(table, value) : null;
  }

  // ---- settling ----

  private mark(cell: number, reason: Reason, cause: Cause): void {
    if (this.reasons[cell] === null) {
      this.dirty.push(cell);
      this.reasons[cell] = reason;
      this.causes[cell] = cause;
    } else if (reason === 'change') this.reasons[cell] = 'change';
  }

  private markOwn(kind: CellKind, slot: number, reason: Reason, cause: Cause): void {
    const cell = this.plan.cellOf[kind][slot] as number;
    if (cell >= 0) this.mark(cell, reason, cause);
  }

  private markDependents(kind: CellKind, slot: number, reason: Reason): void {
    const cell = this.plan.cellOf[kind][slot] as number;
    if (cell < 0) return;
    const cause: Cause = { kind: 'cell', field: (this.plan.fields[slot] as PlanField).key, cell: kind };
    for (const dependent of this.plan.dependents[cell] ?? []) this.mark(dependent, reason, cause);
  }

  private settle(what: Change['what']): Change {
    this.run();
    return this.finish(what, []);
  }

  private finish(what: Change['what'], refused: readonly RefusedEdit[]): Change {
    const change: Change = { what, changes: this.changes, computed: this.computed, refused };
    this.changes = [];
    this.computed = 0;
    if (change.changes.length || what.kind !== 'supply') {
      this.history.push(change);
      if (this.history.length > TRACE_DEPTH) this.history.shift();
    }
    return change;
  }

  /** Computes dirty cells in dependency order until none is left. */
  private run(): void {
    for (;;) {
      for (let cell = this.dirty.pop(); cell !== undefined; cell = this.dirty.pop()) this.computeCell(cell);
      if (!this.fillUps.length) return;
      this.runFillUps();
      if (!this.dirty.size) return;
    }
  }

  private readonly waitingSince = new Map<number, Reason>();

  private computeCell(cell: number): void {
    const { kind, slot } = this.plan.cells[cell] as { kind: CellKind; slot: number };
    const reason = this.reasons[cell] ?? 'change';
    const cause = this.causes[cell] ?? { kind: 'open' };
    this.reasons[cell] = null;
    this.causes[cell] = null;
    this.computed++;
    this.collecting = null;
    const field = this.plan.fields[slot] as PlanField;
    switch (kind) {
      case 'shown':
        this.setFlag(this.shownStates, kind, field, this.computeShown(field), cause, reason);
        break;
      case 'required':
        this.setFlag(this.requiredStates, kind, field, field.required?.run(this.env) === true, cause, reason);
        break;
      case 'locked':
        this.setFlag(this.lockedStates, kind, field, field.locked?.run(this.env) === true, cause, reason);
        break;
      case 'checks':
        this.computeChecks(field, cause);
        break;
      case 'choices':
        this.computeChoices(field, cause, reason);
        break;
      case 'value':
        this.computeValue(field, cause, reason);
        break;
    }
    const wants = this.collecting as Map<string, Want> | null;
    this.collecting = null;
    if (wants) {
      this.wantsByCell.set(cell, wants);
      this.waitingSince.set(cell, reason);
    } else if (this.wantsByCell.size) {
      this.wantsByCell.delete(cell);
      this.waitingSince.delete(cell);
    }
  }

  private want(want: Want): void {
    this.collecting ??= new Map();
    this.collecting.set(wantKey(want), want);
  }

  private readRow(table: string, id: number): Row | null | Waiting {
    const row = this.cache.row(table, id);
    if (row !== undefined) return row;
    const known = this.plan.tables.get(table);
    if (!known) return null;
    this.want(known.large ? { kind: 'row', table, id } : { kind: 'table', table });
    return Waiting.value;
  }

  private computeShown(field: PlanField): boolean {
    if (!field.shown.every((f) => f.run(this.env) === true)) return false;
    return !(waitsHidden(field) && waitingParts(field.choices?.narrowing ?? null, this.values).size > 0);
  }

  private setFlag(flags: boolean[], cell: CellKind, field: PlanField, to: boolean, cause: Cause, reason: Reason): void {
    const from = flags[field.slot] as boolean;
    if (from === to) return;
    flags[field.slot] = to;
    this.changes.push({ field: field.key, cell, cause, from, to, origin: null });
    this.markDependents(cell, field.slot, reason);
  }

  private computeChecks(field: PlanField, cause: Cause): void {
    const held: CheckState[] = [];
    for (const check of field.checks)
      if (check.when.run(this.env) === true) held.push({ message: check.message, severity: check.severity });
    const before = this.checkStates[field.slot] ?? [];
    if (before.length === held.length && before.every((c, i) => c.message === held[i]?.message)) return;
    this.checkStates[field.slot] = held;
    const text = (list: readonly CheckState[]): Result => list.map((c) => c.message).join(' ') || null;
    this.changes.push({ field: field.key, cell: 'checks', cause, from: text(before), to: text(held), origin: null });
  }

  // ---- choices ----

  private computeChoices(field: PlanField, cause: Cause, reason: Reason): void {
    const before = this.offers[field.slot] as Offer;
    const offer = offerNow(field, this.world);
    this.offers[field.slot] = offer;
    const sameRows =
      before.rows === offer.rows || (before.rows?.length === offer.rows?.length && before.rows?.every((r, i) => r === offer.rows?.[i]));
    if (before.key === offer.key && before.status === offer.status && before.total === offer.total && sameRows) return;
    const count = (o: Offer): Result => (o.status === 'ready' ? o.total : null);
    this.changes.push({ field: field.key, cell: 'choices', cause, from: count(before), to: count(offer), origin: null });
    this.markDependents('choices', field.slot, reason);
  }

  /** Whether a value is among the choices now; Waiting when that is still being asked. */
  private isOffered(field: PlanField, value: Datum): boolean | Waiting {
    const offer = this.offers[field.slot] as Offer;
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

  // ---- values ----

  private setState(slot: number, next: ValueState, cause: Cause, reason: Reason): void {
    const before = this.states[slot] as ValueState;
    const field = this.plan.fields[slot] as PlanField;
    this.states[slot] = next;
    const valueChanged = !same(before.value, next.value);
    const looksChanged =
      before.origin.kind !== next.origin.kind || before.gone !== next.gone || !same(before.suggestion ?? null, next.suggestion ?? null);
    if (!valueChanged && !looksChanged) return;
    this.changes.push({ field: field.key, cell: 'value', cause, from: before.value, to: next.value, origin: next.origin });
    if (!valueChanged) return;
    this.values[slot] = next.value;
    this.markDependents('value', slot, reason);
  }

  private computeValue(field: PlanField, cause: Cause, reason: Reason): void {
    const before = this.states[field.slot] as ValueState;
    const cleared = !this.shownStates[field.slot] && field.definition.hiddenValue === 'clear';
    // a default is kept for the moment the field is first shown
    let next = cleared && before.pending ? before : this.formulaValue(field, before, reason);
    if (field.choices) next = this.treatChoice(field, next, reason);
    if (cleared && (next.value !== null || before.origin.kind === 'hidden')) {
      next = { ...next, value: null, origin: { kind: 'hidden' }, gone: false };
    }
    // scratch fields are computed afresh whenever an entry opens: that is no change of the record
    const onward: Reason = reason === 'open' && !field.definition.column ? 'open' : 'change';
    const taken =
      next.value !== before.value && (next.origin.kind === 'onlyOne' || next.origin.kind === 'prefill' || next.origin.kind === 'default');
    this.setState(field.slot, next, cause, onward);
    if (taken && field.choices && next.value !== null) this.fillUps.push(field.slot);
  }

  /** The value as the field's default, prefill or calculation has it. */
  private formulaValue(field: PlanField, before: ValueState, reason: Reason): ValueState {
    const rule = field.value;
    if (!rule) return before;
    if (rule.kind === 'default') {
      if (!before.pending) return before;
      const given = this.fitted(field, rule.formula.run(this.env));
      if (given instanceof Waiting) return { ...before, value: given };
      return { ...before, value: given, pending: false, origin: given === null ? NO_ORIGIN : { kind: 'default' } };
    }
    const suggestion = this.fitted(field, rule.formula.run(this.env));
    const stored = before.origin.kind === 'stored';
    const atOpen = stored && reason === 'open';
    if (rule.definition.kind === 'calculation') {
      if (atOpen && !rule.definition.always) return { ...before, suggestion };
      return filled(before, suggestion, CALCULATED, before.done);
    }
    if (atOpen) return { ...before, suggestion };
    const refills = rule.definition.kind === 'prefill' && rule.definition.typedOver === 'refill';
    const driverChanged = reason === 'change' && before.suggestion !== undefined && !same(before.suggestion, suggestion);
    const once = rule.definition.kind === 'prefill' && rule.definition.once && before.done;
    const follows = !once && (!isPersons(before.origin) || (refills && driverChanged));
    if (!follows) return { ...before, suggestion };
    const done = before.done || (isDatum(suggestion) && suggestion !== null);
    return filled(before, suggestion, suggestion === null ? NO_ORIGIN : PREFILLED, done);
  }

  private fitted(field: PlanField, result: Result): Result {
    return isDatum(result) ? fitValue(field.definition, field.column, result) : result;
  }

  /** What becomes of a choice when its list has changed (engine.md, "Settling" 3; job.md N10). */
  private treatChoice(field: PlanField, state: ValueState, reason: Reason): ValueState {
    const { source } = field.choices as NonNullable<PlanField['choices']>;
    const offer = this.offers[field.slot] as Offer;
    const { value } = state;
    // people know a row by its shown column, so the row of a choice is always fetched
    if (field.choices?.large) this.candidateRow(field, value);
    if (!isDatum(value) || this.heldBack.includes(field.slot)) return state;
    const untouched = state.origin.kind === 'stored' && (reason === 'open' || state.offerKey === null || state.offerKey === offer.key);
    const driverChanged = state.offerKey !== null && state.offerKey !== offer.key;
    const loading = offer.status === 'loading';
    const settled = loading ? state : { ...state, offerKey: offer.key, offerOpen: offer.open };
    // a driver was emptied: the list may offer all again, but the choice has lost what it belonged to
    const orphaned = driverChanged && source.onDriverChange !== 'keep' && offer.open.some((p) => !state.offerOpen.includes(p));
    if (value !== null) {
      if (!loading && (orphaned || (source.onDriverChange === 'clear' && driverChanged))) return this.cleared(field, settled);
      const offered = this.isOffered(field, value);
      if (offered instanceof Waiting) return state;
      if (offered) return settled.gone ? { ...settled, gone: false } : settled;
      const justChosen = isPersons(state.origin) && !driverChanged;
      if (untouched || justChosen || source.onDriverChange === 'keep' || field.value?.kind === 'calculation')
        return { ...settled, gone: true };
      return this.cleared(field, settled);
    }
    const mayTake = source.single === 'take' && offer.status === 'ready' && offer.total === 1 && offer.only !== null;
    const wasEmptied = (state.origin.kind === 'emptied' || untouched) && !driverChanged;
    if (mayTake && !wasEmptied && field.value?.kind !== 'calculation') {
      return { ...settled, value: offer.only, origin: { kind: 'onlyOne' }, gone: false };
    }
    return settled;
  }

  private cleared(field: PlanField, state: ValueState): ValueState {
    const { source, narrowing } = field.choices as NonNullable<PlanField['choices']>;
    const offer = this.offers[field.slot] as Offer;
    if (source.single === 'take' && offer.status === 'ready' && offer.total === 1 && offer.only !== null) {
      return { ...state, value: offer.only, origin: { kind: 'onlyOne' }, gone: false };
    }
    const by = (narrowing?.drivers ?? []).map((s) => (this.plan.fields[s] as PlanField).key);
    return { ...state, value: null, origin: { kind: 'cleared', by }, gone: false };
  }
}
