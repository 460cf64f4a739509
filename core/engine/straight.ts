import { CALCULATED, fillOrigin, followFill, givesOnce, isLockedByFill } from '../form/fills/index.ts';
import type { Env } from '../formula/env.ts';
import { type Result, Waiting, isDatum } from '../formula/errors.ts';
import type { Formula } from '../formula/formula.ts';
import { NO_ORIGIN, type Origin } from '../model/origin.ts';
import { type Reason, UNSET, type ValueState } from '../model/valueState.ts';
import { waitingParts } from '../choices/narrowing.ts';
import { holdsFiles } from '../values/kinds/index.ts';
import { same } from '../values/types.ts';
import { arithmeticValue } from './arithmeticValue.ts';
import { type BackfillOutcome, type Given, type Over, inTheWay, mayReplace } from './backfill.ts';
import { DataCache } from './cache.ts';
import { heldChecks } from './cells/checks.ts';
import { CELLS } from './cells/index.ts';
import { waitsHidden } from './cells/shown.ts';
import { allMet, anyMet, anyShows, anyUntold, formulasIn, mayLose } from './conditions.ts';
import type { EntryContext, StoredRecord } from './context.ts';
import type { Extent } from './extent.ts';
import { storedOrigin } from './frames.ts';
import { type Finding, type FindingKind, type Weighed, findingOf, noteStanding } from './impact.ts';
import { type KnownList, KnownLists, asksBeyond, noteOffered, slotsDriving } from './knownLists.ts';
import type { Cell, Plan, PlanField, PlanValue } from './plan.ts';
import { BEFORE_OFFER, type OfferWorld, isOffered, offerNow, offersAlike } from './offers.ts';
import { type Offer, addressOf } from './state.ts';
import { treatChoice } from './treat.ts';
import { type FieldIssue, wrongWith } from './verify.ts';

/*
 * The straight way through a record that is only worked out: for a backfill, or for what a draft would do. Of most records nothing comes
 * but what formulas give, and what an entry keeps beside them (offers, causes, what is lacking) is made and thrown away again a hundred
 * thousand times. Here the cells of an extent are gone through in their order over a few arrays that all records share.
 *
 * It knows the good case alone. Where a form has more in the extent (lines, files, numbers of series, choices that are filled), there is no
 * straight way; and of a record that has more to it (something it reads is not here yet, or is an error; a choice would go) it says nothing:
 * then the record is opened as an entry. What it does say is what the entry comes to (held by property tests).
 */

/** A cell that is gone through: whether a field is shown, what it offers, or its value. */
interface Step {
  readonly kind: 'shown' | 'choices' | 'value';
  readonly field: PlanField;
  /** the places of the steps that read it */
  readonly readers: readonly number[];
  readonly isArithmetic: boolean;
}
/** How a step is due: not; because the record was opened; because something it reads has changed. */
const [DONE, OPENED, CHANGED] = [0, 1, 2] as const;
/** What a backfill gave a field: nothing at all; an empty value; another. */
const [NOTHING, EMPTY, FULL] = [0, 1, 2] as const;

const MODE = 'edit';
const NO_ISSUES: readonly FieldIssue[] = [];
const NONE_NEXT: Weighed['next'] = new Map();
const NONE: BackfillOutcome = { given: [], problems: [] };

/** Who asks, and when: what formulas read beside the record. */
export type StraightContext = Pick<EntryContext, 'today' | 'now' | 'me' | 'roles' | 'calendar'>;

/** The straight way of some fields of a form. One serves any number of records, one after the other. */
export class Straight {
  /** fields whose value is computed, in the order of the form */
  private readonly computed: readonly PlanField[];
  private readonly judged: readonly PlanField[];
  /** those of them that may be warned of */
  private readonly warning: readonly PlanField[];
  /** fields that are only read, and stand as they are stored */
  private readonly read: readonly PlanField[];
  /** all that it looks at of what is stored, by column */
  readonly columns: ReadonlySet<string>;
  /** the steps that read a value, by the field’s `at` */
  private readonly readers: (readonly number[])[];

  private readonly values: Result[];
  /** null: as it is stored */
  private readonly origins: (Origin | null)[];
  private readonly suggestions: (Result | undefined)[];
  private readonly pending: Uint8Array;
  private readonly done: Uint8Array;
  private readonly shown: Uint8Array;
  private readonly offers: (Offer | null)[];
  private readonly offerKeys: (string | null)[];
  private readonly offerOpens: (readonly number[])[];
  /** the lists of a field that were met, and the one of this record */
  private readonly lists: (KnownLists | null)[];
  private readonly listNow: (KnownList | null)[];
  private readonly due: Uint8Array;
  /** whether a backfill gave it something: `EMPTY`, or `FULL` */
  private readonly wanted: Uint8Array;
  private readonly env: { -readonly [K in keyof Env]: Env[K] };
  private record: StoredRecord = { values: {}, origins: {} };
  private readonly world: { -readonly [K in keyof OfferWorld]: OfferWorld[K] };
  /** whether the record has more to it */
  private isLeft = false;
  private isGiven = false;

  private constructor(
    private readonly plan: Plan,
    private readonly asked: readonly PlanField[],
    private readonly steps: readonly Step[],
    extent: Extent,
    slotsRead: ReadonlySet<number>,
    columnsRead: readonly string[],
  ) {
    this.computed = plan.own.filter(({ slot }) => steps.some((s) => s.kind === 'value' && s.field.slot === slot));
    this.judged = plan.own.filter(({ slot }) => extent.judged[slot] === 1);
    this.warning = this.judged.filter((f) => f.checks.some((c) => c.severity === 'warning'));
    const stands = new Set([...slotsRead, ...this.judged.map((f) => f.slot)]);
    this.read = plan.own.filter((f) => stands.has(f.slot) && !this.computed.includes(f));
    this.columns = new Set([...columnsRead, ...[...this.computed, ...this.read].flatMap((f) => f.definition.column ?? [])]);
    const { length } = plan.own;
    this.readers = new Array<readonly number[]>(length).fill([]);
    for (const { kind, field, readers } of steps) if (kind === 'value') this.readers[field.at] = readers;
    this.values = new Array<Result>(length).fill(null);
    this.origins = new Array<Origin | null>(length).fill(null);
    this.suggestions = new Array<Result | undefined>(length).fill(undefined);
    [this.pending, this.done, this.shown] = [new Uint8Array(length), new Uint8Array(length), new Uint8Array(length).fill(1)];
    this.offers = new Array<Offer | null>(length).fill(null);
    this.offerKeys = new Array<string | null>(length).fill(null);
    this.offerOpens = new Array<readonly number[]>(length).fill(UNSET.offerOpen);
    this.lists = plan.own.map((f) => KnownLists.of(f));
    this.listNow = new Array<KnownList | null>(length).fill(null);
    this.due = new Uint8Array(steps.length);
    this.wanted = new Uint8Array(length);
    // no formula that is taken asks it; if one did, the record would be opened as an entry
    const more = (): Waiting => {
      this.isLeft = true;
      return Waiting.value;
    };
    this.env = {
      values: this.values,
      outer: null,
      candidate: null,
      each: null,
      params: [],
      today: '',
      now: '',
      me: null,
      roles: [],
      calendar: undefined,
      mode: MODE,
      url: {},
      parent: null,
      before: null,
      row: (table, id) => {
        const row = this.world.cache.row(table, id);
        return row === undefined ? more() : row;
      },
      lines: more,
      item: () => (more(), null),
      data: { pick: more, series: more, last: more, feed: more },
    };
    const valueAt = (slot: number): Result => this.values[(plan.fields[slot] as PlanField).at] ?? null;
    this.world = { plan, env: this.env, valueAt, cache: NO_DATA, want: more };
  }

  /**
   * The straight way of giving fields (see `toGive`) in an extent of a form; null where what is in it has more to it. Cost: linear in the
   * cells of the form.
   */
  static of(plan: Plan, asked: readonly PlanField[], extent: Extent): Straight | null {
    const within = (c: Cell): boolean => extent.cells[c.id] === 1;
    const cells = plan.cells.filter(within);
    if (asked.some((f) => f.group !== null) || cells.some((c) => c.group !== null || !KNOWN.has(c.kind))) return null;
    const fields = [...new Set(cells.map((c) => c.slot))].map((slot) => plan.fields[slot] as PlanField);
    if (fields.some((f) => (f.choices && f.value) || holdsFiles(f.definition.type))) return null;
    const formulas = fields.flatMap(formulasOf);
    if (formulas.some(asksMore)) return null;
    const inOrder = cells.filter(isStep);
    const places = new Map(inOrder.map((c, i) => [c.id, i]));
    const steps = inOrder.map(({ id, kind, slot }): Step => ({
      kind,
      field: plan.fields[slot] as PlanField,
      readers: (plan.dependents[id] ?? []).flatMap((d) => places.get(d) ?? []),
      isArithmetic: kind === 'value' && plan.cellTable.isArithmetic[id] === 1,
    }));
    return new Straight(
      plan,
      asked,
      steps,
      extent,
      new Set([...formulas.flatMap((f) => f.slots), ...fields.flatMap((f) => slotsDriving(f.choices))]),
      formulas.flatMap(savedColumns),
    );
  }

  /** What a backfill of the fields comes to in a stored record (see `backfill`); null where that is for an entry to say. Cost: the cells of the extent. */
  backfill(record: StoredRecord, context: StraightContext, cache: DataCache, over: Over): BackfillOutcome | null {
    return this.open(record, context, cache) ? this.give(over, this.issues()) : null;
  }
  /** The same for `weigh`. */
  weigh(record: StoredRecord, context: StraightContext, cache: DataCache): Weighed | null {
    if (!this.open(record, context, cache)) return null;
    const issues = this.issues();
    const standing = this.standing(issues);
    const changed = this.differences();
    const outcome = this.give('filled', issues);
    const next = changed.length ? new Map(changed.map((g) => [addressOf(g.field, null), g])) : NONE_NEXT;
    return outcome && { standing, next, outcome };
  }

  // ---- what an entry does when it opens and settles ----

  /** Whether the record could be opened. */
  private open(record: StoredRecord, { today, now, me, roles, calendar }: StraightContext, cache: DataCache): boolean {
    const { env, values } = this;
    this.record = record;
    this.world.cache = cache;
    [this.isLeft, this.isGiven] = [false, false];
    [env.today, env.now, env.me, env.roles, env.calendar, env.before] = [today, now, me, roles ?? [], calendar, record.values];
    for (const { at, definition } of this.read) values[at] = (definition.column && record.values[definition.column]) ?? null;
    for (const field of this.computed) {
      const { at } = field;
      const { column } = field.definition;
      values[at] = (column && record.values[column]) ?? null;
      this.origins[at] = column ? null : NO_ORIGIN;
      this.suggestions[at] = undefined;
      this.pending[at] = !column && givesOnce(field) ? 1 : 0;
      this.done[at] = column ? 1 : 0;
      this.shown[at] = 1;
      if (!field.choices) continue;
      this.offers[at] = BEFORE_OFFER;
      this.offerKeys[at] = null;
      this.offerOpens[at] = UNSET.offerOpen;
    }
    this.wanted.fill(NOTHING);
    this.due.fill(OPENED);
    return this.run();
  }
  /** Goes through what is due. False when the record has more to it. */
  private run(): boolean {
    const { due, steps } = this;
    for (let i = 0; i < steps.length; i++) {
      const why = due[i];
      if (why === DONE) continue;
      due[i] = DONE;
      const step = steps[i] as Step;
      const reason = why === OPENED ? 'open' : 'change';
      if (step.kind === 'value') this.compute(step, reason);
      else if (step.kind === 'shown') this.show(step, reason);
      else this.offer(step, reason);
      if (this.isLeft) return false;
    }
    return true;
  }
  private mark(readers: readonly number[], reason: Reason): void {
    for (const reader of readers)
      if (reason === 'change') this.due[reader] = CHANGED;
      else if (this.due[reader] === DONE) this.due[reader] = OPENED;
  }
  private show({ field, readers }: Step, reason: Reason): void {
    const { shown, showing, at } = field;
    const isMeant = allMet(shown, this.env, MODE) && anyShows(showing, this.env, MODE);
    if (!isMeant && (anyUntold(shown, this.env, MODE) || anyUntold(showing, this.env, MODE))) this.isLeft = true;
    const waits = waitsHidden(field) && waitingParts(field.choices?.narrowing ?? null, this.world.valueAt).length > 0;
    const holds = isMeant && !waits;
    if ((this.shown[at] === 1) === holds) return;
    this.shown[at] = holds ? 1 : 0;
    this.mark(readers, reason);
  }
  private offer({ field, readers }: Step, reason: Reason): void {
    const { at } = field;
    const before = this.offers[at] as Offer;
    const list = this.lists[at]?.find(this.world) ?? null;
    const now = list ? list.offer : offerNow(field, this.world, before);
    this.listNow[at] = list ?? this.lists[at]?.note(now, this.world) ?? null;
    this.offers[at] = now;
    if (before !== now && !offersAlike(before, now)) this.mark(readers, reason);
  }
  /** Whether a choice stays as it is, now that it was looked at what it is chosen from. */
  private stays(field: PlanField, reason: Reason): boolean {
    const { at } = field;
    const offer = this.offers[at] as Offer;
    const value = this.values[at] as Result;
    const list = this.listNow[at];
    const isFirst = this.offerKeys[at] === null;
    // as `treatChoice` has it: what is offered where it is first looked at stays, and so does nothing, where there is not one alone to take
    if (list && isFirst && (value === null ? offer.total !== 1 : isDatum(value) && list.offered.has(value))) {
      this.offerKeys[at] = offer.key;
      this.offerOpens[at] = offer.open;
      return true;
    }
    const state = this.stateOf(field);
    const next = treatChoice(field, state, {
      plan: this.plan,
      offer,
      reason,
      isOffered: (one) => isOffered(field, offer, one, this.world),
    });
    this.offerKeys[at] = next.offerKey;
    this.offerOpens[at] = next.offerOpen;
    const stays = same(next.value, state.value) && next.origin === state.origin && !next.gone;
    if (stays && list && isFirst && isDatum(value) && value !== null) noteOffered(list, value);
    return stays;
  }
  private compute(step: Step, reason: Reason): void {
    const { field } = step;
    const { at, value: fill } = field;
    const before = this.values[at] as Result;
    // it is emptied, and by what; or it is not to be given
    if (this.shown[at] === 0 && mayLose(field) && (fill || before !== null)) this.isLeft = true;
    if (field.choices && !this.stays(field, reason)) this.isLeft = true;
    if (!fill || this.isLeft) return;
    if (fill.definition.kind === 'calculation') {
      const now = this.valueOf(step);
      this.suggestions[at] = now;
      if (reason === 'open' && this.origins[at] === null && !fill.definition.always) return;
      this.origins[at] = CALCULATED;
      this.set(at, before, now, reason, field, step.readers);
      return;
    }
    const next = followFill(fill.definition, this.stateOf(field), {
      reason,
      isTouched: this.isGiven,
      waits: () => fill.awaits.some((slot) => this.values[(this.plan.fields[slot] as PlanField).at] === null),
      run: () => this.valueOf(step),
    });
    this.origins[at] = next.origin.kind === 'stored' ? null : next.origin;
    this.suggestions[at] = next.suggestion;
    this.pending[at] = next.pending ? 1 : 0;
    this.done[at] = next.done ? 1 : 0;
    this.set(at, before, next.value, reason, field, step.readers);
  }
  private set(at: number, from: Result, to: Result, reason: Reason, { definition }: PlanField, readers: readonly number[]): void {
    if (from === to || same(from, to)) return;
    this.values[at] = to;
    // a scratch field is computed afresh whenever a record opens: that is no change of the record
    this.mark(readers, reason === 'open' && !definition.column ? 'open' : 'change');
  }
  /** What a field's fill gives now. */
  private valueOf({ field, isArithmetic }: Pick<Step, 'field' | 'isArithmetic'>): Result {
    const number = isArithmetic ? arithmeticValue(this.plan.arithmetic, field.slot, this.env) : NaN;
    if (number === number) return number;
    const value = (field.value as PlanValue).fitted(this.env);
    if (value === Waiting.value) this.isLeft = true;
    return value;
  }
  private stateOf(field: PlanField): ValueState {
    const { at } = field;
    return {
      value: this.values[at] as Result,
      origin: this.originOf(field),
      suggestion: this.suggestions[at],
      gone: false,
      offerKey: this.offerKeys[at] as string | null,
      offerOpen: this.offerOpens[at] as readonly number[],
      pending: this.pending[at] === 1,
      done: this.done[at] === 1,
    };
  }
  private originOf = ({ at, key }: PlanField): Origin => this.origins[at] ?? storedOrigin(this.record.origins[key]);

  // ---- what a backfill does ----

  private give(over: Over, issues: readonly FieldIssue[]): BackfillOutcome | null {
    const { values, origins, suggestions, wanted } = this;
    for (const field of this.asked) {
      const { at } = field;
      const before = values[at] as Result;
      // a version of the form that fills it no more, or not yet
      if (!field.value) continue;
      if (before !== null && !mayReplace(before, this.originOf(field), over)) continue;
      const isOnce = givesOnce(field);
      const known = suggestions[at];
      const value = known !== undefined && isDatum(known) && !isOnce ? known : this.valueOf({ field, isArithmetic: false });
      if (this.isLeft || !isDatum(value)) return null;
      if (value === null && !isLockedByFill(field)) continue;
      origins[at] = fillOrigin(field.value.kind);
      suggestions[at] = isOnce ? undefined : value;
      this.pending[at] = 0;
      this.done[at] = 1;
      this.isGiven = true;
      wanted[at] = value === null ? EMPTY : FULL;
      const readers = this.readers[at] as readonly number[];
      this.set(at, before, value, 'change', field, readers);
      if (readers.length && !this.run()) return null;
    }
    const given = this.differences();
    if (!given.length) return this.isLeft ? null : NONE;
    const problems = inTheWay(given, issues, this.issues());
    // what was given and did not stay is for an entry to say
    if (this.isLeft || this.computed.some((f) => wanted[f.at] === FULL && values[f.at] === null)) return null;
    if (problems.length) return { given: [], problems };
    return given.some((g) => g.asked) ? { given, problems } : NONE;
  }
  /** What a save would write that is not in the stored record. */
  private differences(): Given[] {
    const found: Given[] = [];
    const { values, origins } = this.record;
    for (const field of this.computed) {
      const { column } = field.definition;
      if (!column) continue;
      const value = this.values[field.at] as Result;
      const from = values[column] ?? null;
      const to = isDatum(value) ? value : null;
      if (from === to || same(from, to)) continue;
      found.push({
        field: field.key,
        line: null,
        place: null,
        from,
        to,
        origin: this.originOf(field),
        was: origins[field.key] ?? null,
        asked: this.wanted[field.at] !== NOTHING,
      });
    }
    return found;
  }
  /** What is wrong with the record as it stands now, as `verify` judges it. */
  private issues(): readonly FieldIssue[] {
    let found: FieldIssue[] | null = null;
    for (const field of this.judged) {
      const said = this.issueOf(field);
      if (said) (found ??= []).push({ field: field.key, line: null, ...said });
    }
    return found ?? NO_ISSUES;
  }
  private issueOf(field: PlanField): Pick<FieldIssue, 'code' | 'message'> | null {
    const { at, checks } = field;
    if (checks.length) {
      const error = heldChecks(field, this.env, MODE).find((c) => c.state.severity === 'error');
      if (error) return { code: 'check', message: error.state.message };
    }
    return this.shown[at] === 0 ? null : wrongWith(field, this.values[at] as Result, () => this.isRequired(field));
  }
  private isRequired({ required, filling }: PlanField): boolean {
    return anyMet(required, this.env, MODE) && !anyMet(filling, this.env, MODE);
  }
  /** What stands against the record, as `weigh` tells it. */
  private standing(issues: readonly FieldIssue[]): Weighed['standing'] {
    const found = new Map<string, Finding>();
    const note = (kind: FindingKind, { key, definition }: PlanField, message: string): void => {
      const stored = (definition.column && this.record.values[definition.column]) ?? null;
      noteStanding(found, kind, { field: key, line: null, place: null }, stored, message);
    };
    for (const issue of issues) {
      const kind = findingOf(issue);
      if (kind) note(kind, this.plan.fields[this.plan.slots.get(issue.field) as number] as PlanField, issue.message);
    }
    for (const field of this.warning)
      for (const { state } of heldChecks(field, this.env, MODE)) if (state.severity === 'warning') note('warning', field, state.message);
    return found;
  }
}

/** The cells there may be in the extent: what lines have is more than the straight way knows. */
const KNOWN: ReadonlySet<Cell['kind']> = new Set(['shown', 'choices', 'value', 'required', 'locked', 'checks', 'words']);

const isStep = (c: Cell): c is Cell & Pick<Step, 'kind'> => c.kind === 'value' || c.kind === 'shown' || c.kind === 'choices';
const NO_DATA = new DataCache();

/** The formulas that decide what a field comes to; what it says beside that is not asked. */
const formulasOf = (field: PlanField): readonly Formula[] => [
  ...DECIDING.flatMap((kind) => CELLS[kind].formulas(field)),
  ...formulasIn(field.filling),
];
const DECIDING = ['shown', 'choices', 'value', 'required', 'checks'] as const;
/** The columns that a formula may read as they are stored, whatever stands in the fields. */
const savedColumns = ({ bindings }: Formula): readonly string[] =>
  [...bindings.values()].flatMap(({ source }) => (source.kind === 'before' ? [...source.columns.values()] : []));

/** What formulas may read, and ask beyond names: fields, rows that are linked or may be chosen, and who asks. */
const PLAIN_SOURCES: ReadonlySet<string> = new Set(['slot', 'me', 'entry', 'parent', 'before', 'candidate']);
const PLAIN_EXTRAS: ReadonlySet<string> = new Set(['map', 'template', 'attribute']);
const asksMore = (formula: Formula): boolean => asksBeyond(formula, PLAIN_SOURCES, PLAIN_EXTRAS);
