import type { EntryContext, StoredRecord } from '~~/core/engine/context.ts';
import { type Entry, type Unreadable, openEntry } from '~~/core/engine/entry.ts';
import { DataCache } from '~~/core/engine/cache.ts';
import type { PageWant } from '~~/core/engine/meant.ts';
import { LINES_KINDS, type Plan, type PlanField } from '~~/core/engine/plan.ts';
import type { MoveMade, MoveState } from '~~/core/engine/moves.ts';
import type { Step } from '~~/core/form/steps.ts';
import { ruleName } from '~~/core/form/rules.ts';
import type { ValueState } from '~~/core/model/valueState.ts';
import {
  type Change,
  type CheckPlace,
  type CheckState,
  type Edit,
  type FieldWords,
  type Offer,
  addressOf,
  parseAddress,
} from '~~/core/engine/state.ts';
import { type Answered, type Want, batches, tableOfWant } from '~~/core/engine/wants.ts';
import type { ChoiceHow } from '~~/core/evidence/entryUse.ts';
import type { FieldIssue } from '~~/core/engine/verify.ts';
import { fileNumbers } from '~~/core/values/kinds/index.ts';
import type { Moment } from '~~/core/engine/moment.ts';
import { FILES } from '~~/core/model/tables.ts';
import { type Result, isDatum, isFormulaError, isWaiting } from '~~/core/formula/errors.ts';
import type { Datum, Row } from '~~/core/values/types.ts';

/** How many rows of a large list are read at once. */
export const FIRST_PAGE = 60;
/** Lists whose first page is read ahead, of one change. */
const MOST_AHEAD = 3;
/** How long edits of a block are made before the screen gets its turn, in milliseconds. */
const TURN = 24;
/** Choices whose manner is noted, of one entry. */
const MOST_CHOICES = 500;
/** How many things that filled in are announced of one change. */
const MOST_ANNOUNCED = 4;
/** What the moves go by among the versions: no field can be called so. */
const LIFE = ' life';

/** One thing the trace shows: what happened, when, how long settling took and how many requests it needed. */
export interface TraceStep {
  readonly number: number;
  readonly at: string;
  readonly change: Change;
  readonly milliseconds: number;
  requests: number;
  /** of data that came: how long it was waited for, in milliseconds */
  readonly waited: number;
}

/** A field as a screen shows it. Screens name fields by address: a path, with `#` and the line for a field of lines. */
export interface FieldView {
  readonly field: PlanField;
  readonly state: ValueState;
  readonly value: Datum;
  readonly error: string | null;
  /** whether the error is that something could not be had, so that it can be asked for again */
  readonly canRetry: boolean;
  readonly waiting: boolean;
  readonly offer: Offer | null;
  readonly shown: boolean;
  readonly required: boolean;
  readonly locked: boolean;
  readonly differs: boolean;
  readonly checks: readonly CheckState[];
  readonly words: FieldWords;
  /** what stands typed and cannot be read as a value of the field, and why */
  readonly unreadable: Unreadable | null;
  /** what is wrong with the files that stand in it */
  readonly filesProblem: string | null;
}

export type EntryHost = ReturnType<typeof useEntryHost>;

/**
 * Runs an entry in the browser: opens it, applies edits, gets what it wants in one request a settle, and tells Vue
 * which fields changed, so that only those are drawn again.
 */
export function useEntryHost(fetchSome: (wants: readonly Want[]) => Promise<Answered[]>) {
  const entry = shallowRef<Entry | null>(null);
  const versions = reactive<Record<string, number>>({});
  /** goes up when everything may be another: thousands of lines have tens of thousands of addresses */
  const everything = ref(0);
  const steps = shallowRef<readonly TraceStep[]>([]);
  const announcement = ref('');
  const issues = shallowRef<readonly FieldIssue[]>([]);
  const failure = ref('');
  /** how choices were made in it, for what the records say of its lists */
  let chosenHow: ChoiceHow[] = [];
  /** a moment of the past that is shown instead of now */
  const moment = shallowRef<Moment | null>(null);
  let cache = new DataCache();
  let stepNumber = 0;
  let inFlight: Promise<void> | null = null;
  /** what is about to be asked: once, behind all that is done in one go, such as a block that is pasted */
  let due: Promise<void> | null = null;
  const requests = entryRequests(fetchSome);

  function open(
    plan: Plan,
    context: EntryContext,
    record: StoredRecord | null,
    answered: readonly Answered[] = [],
    keepCache = false,
  ): void {
    if (!keepCache) cache = new DataCache();
    cache.supply(answered, (want) => tableOfWant(plan, want));
    const started = performance.now();
    const opened = openEntry(plan, context, cache, record);
    entry.value = opened;
    chosenHow = [];
    steps.value = [];
    issues.value = [];
    bumpAll();
    const [first] = opened.trace;
    if (first) note(first, performance.now() - started);
    pump();
  }

  const bump = (address: string): void => void (versions[address] = (versions[address] ?? 0) + 1);
  const bumpAll = (): void => void everything.value++;
  /** Makes the caller depend on what stands at an address, or on lines by their key, and on nothing else. */
  const follow = (address: string): void => {
    void everything.value;
    void versions[address];
  };

  /** Shows how the entry stood at a moment of its past; null: as it is now. */
  function look(at: Moment | null): void {
    moment.value = at;
    bumpAll();
  }

  function note(change: Change, milliseconds: number, waited = 0): void {
    if (change.what.kind === 'supply' && !change.changes.length) return;
    const step: TraceStep = { number: ++stepNumber, at: new Date().toTimeString().slice(0, 8), change, milliseconds, requests: 0, waited };
    steps.value = [step, ...steps.value].slice(0, 200);
  }

  function touched(change: Change): void {
    if (entry.value?.plan.steps) bump(LIFE);
    for (const c of change.changes) bump(LINES_KINDS.some((k) => k === c.cell) ? c.field : addressOf(c.field, c.line));
    for (const r of change.refused) bump(addressOf(r.field, r.line));
    if (issues.value.length) {
      const changed = new Set(change.changes.map((c) => addressOf(c.field, c.line)));
      issues.value = issues.value.filter((i) => !changed.has(addressOf(i.field, i.line)));
    }
  }

  function apply(edits: Iterable<Edit>): Change | null {
    const current = entry.value;
    if (!current) return null;
    const started = performance.now();
    const change = current.apply(edits);
    note(change, performance.now() - started);
    touched(change);
    announce(change);
    pump();
    return change;
  }

  /** what is made in turns, one block after the other */
  let inTurns: Promise<unknown> = Promise.resolve();
  /**
   * Makes many edits, such as those of a pasted block, a few at a time, so that the screen stays live and shows what came of them. What is
   * given makes each when the one before has settled; a promise among them is waited for first. Ends early where another entry is opened.
   */
  function applyInTurns(edits: Iterator<Edit | Promise<unknown>>, turned: () => void = () => undefined): Promise<void> {
    const current = entry.value;
    const work = async (): Promise<void> => {
      for (let isDone = false; !isDone && entry.value === current;) {
        let waits: Promise<unknown> | null = null;
        const until = performance.now() + TURN;
        const some = function* (): Generator<Edit> {
          do {
            const { done, value } = edits.next();
            if (done) isDone = true;
            else if (value instanceof Promise) waits = value;
            else yield value;
          } while (!isDone && !waits && performance.now() < until);
        };
        apply(some());
        turned();
        await waits;
        await new Promise((resolve) => setTimeout(resolve));
      }
    };
    const mine = inTurns.then(work);
    inTurns = mine.catch(() => undefined);
    return mine;
  }

  /** Fetches what the entry wants until it wants nothing more that is not already under way. */
  function pump(): void {
    if (due) return;
    due = Promise.resolve().then(() => {
      due = null;
      return pumpOnce();
    });
    const mine: Promise<void> = Promise.all([inFlight, due]).then(() => {
      if (inFlight === mine) inFlight = null;
    });
    inFlight = mine;
  }
  async function pumpOnce(): Promise<void> {
    const current = entry.value;
    const wants = (current?.wants ?? []).filter((w) => !requests.isUnderWay(w));
    if (!current || !wants.length) return;
    const [newest] = steps.value;
    if (newest) {
      newest.requests += batches(wants).length;
      triggerRef(steps);
    }
    const asked = performance.now();
    let answered: readonly Answered[];
    const asking = requests.ask(wants);
    readAhead(current, wants);
    try {
      answered = await asking;
      failure.value = '';
    } catch (e) {
      failure.value = messageOf(e);
      answered = wants.map((want) => ({ want, answer: { kind: 'failed', reason: messageOf(e) } }));
    }
    if (entry.value !== current) return;
    const started = performance.now();
    const change = current.supply(answered);
    note(change, performance.now() - started, started - asked);
    touched(change);
    // fields that failed show it even when nothing else about them changed
    for (const { want, answer } of answered) if ('field' in want && answer.kind === 'failed') bump(want.field);
    // a row that came may be what a field is shown by; what failed shows in every line that asked
    if (answered.some((a) => a.want.kind === 'row' || a.answer.kind === 'failed')) bumpAll();
    announce(change);
    if (failure.value === '') await pumpOnce();
  }

  /**
   * A large list that is narrowed anew for an empty field is likely the next that is opened: its first page is asked for while nobody
   * waits for it, beside what is waited for.
   */
  function readAhead(current: Entry, wants: readonly Want[]): void {
    const pages = wants
      .filter((w) => w.kind === 'count')
      .filter(({ field }) => current.field(field).group === null && current.value(field) === null)
      .slice(0, MOST_AHEAD)
      .map(({ field, params, open }): Want => ({ kind: 'page', field, params, open, search: '', offset: 0, limit: FIRST_PAGE }))
      .filter((w) => cache.answer(w) === null && !requests.isUnderWay(w));
    // what could not be read ahead is asked for when the list is opened
    if (pages.length) void answeredPages(pages);
  }

  /** Has answered what somebody asks about the entry; it is known from then on. What cannot be had is known as failed. */
  async function learn(wants: readonly Want[]): Promise<void> {
    const current = entry.value;
    if (!current || !wants.length) return;
    const answered = await requests.answersTo(wants);
    touched(current.supply(answered));
    bumpAll();
  }

  function retry(): void {
    const current = entry.value;
    if (!current) return;
    touched(current.retry());
    bumpAll();
    pump();
  }

  function asked(current: Entry, address: string): ReturnType<Entry['asked']> {
    const { field, line } = parseAddress(address);
    return current.asked(field, line);
  }

  /** One page of a large list for the control that shows it. */
  async function page(
    address: string,
    search: string,
    offset: number,
    limit: number,
  ): Promise<{ rows: readonly Row[]; more: boolean; failed: string | null }> {
    const current = entry.value;
    if (!current) return { rows: [], more: false, failed: null };
    const known = pageKnown(address, search, offset, limit);
    if (known) return { ...known, failed: null };
    const [answered] = await answeredPages([{ kind: 'page', ...asked(current, address), search, offset, limit }]);
    const answer = answered?.answer;
    if (answer?.kind === 'page') return { rows: answer.rows, more: answer.more, failed: null };
    return { rows: [], more: false, failed: answer?.kind === 'failed' ? answer.reason : 'no answer' };
  }
  /** The same where it is known already. */
  function pageKnown(address: string, search: string, offset: number, limit: number): { rows: readonly Row[]; more: boolean } | null {
    const current = entry.value;
    const known = current && cache.answer({ kind: 'page', ...asked(current, address), search, offset, limit });
    return known?.kind === 'page' ? { rows: known.rows, more: known.more } : null;
  }

  /** Has pages of large lists answered in one go, those that are not known yet. What could not be had stays unknown; gives why, else "". */
  async function pages(wants: readonly PageWant[]): Promise<string> {
    const answered = await answeredPages(wants.filter((w) => cache.answer(w) === null));
    return answered.flatMap(({ answer }) => (answer.kind === 'failed' ? [answer.reason] : []))[0] ?? '';
  }
  /** What pages come to; those that could be had are known from then on. */
  async function answeredPages(wants: readonly Want[]): Promise<Answered[]> {
    const current = entry.value;
    const answered = await requests.answersTo(wants);
    if (entry.value === current) current?.supply(answered.filter((a) => a.answer.kind === 'page'));
    return answered;
  }

  /** The funnel of a large list, counted by the server. */
  async function funnel(address: string): Promise<{ all: number; remaining: readonly number[] } | null> {
    const current = entry.value;
    if (!current) return null;
    const [answered] = await requests.ask([{ kind: 'funnel', ...asked(current, address) }]);
    return answered?.answer.kind === 'funnel' ? answered.answer : null;
  }

  /** Notes how a choice was made, or that what was searched was not found. */
  function noteChoice(address: string, how: Omit<ChoiceHow, 'field'>): void {
    const { field } = parseAddress(address);
    const last = chosenHow.findLast((c) => c.field === field);
    // the same text left standing, however often its field is left
    if (how.at === null && last?.at === null && last.searched === how.searched) return;
    if (chosenHow.length < MOST_CHOICES) chosenHow.push({ field, ...how });
  }

  const choicesMade = (): readonly ChoiceHow[] => chosenHow;
  const choicesTold = (): void => void (chosenHow = []);

  /** What was chosen here last or most, where the field says so; nothing when that cannot be had. */
  async function usual(address: string): Promise<readonly Row[]> {
    const current = entry.value;
    if (!current) return [];
    const want: Want = { kind: 'usual', ...asked(current, address) };
    const [answered] = await requests.answersTo([want]);
    if (answered?.answer.kind !== 'usual') return [];
    current.supply([answered]);
    return answered.answer.rows;
  }

  function view(address: string): FieldView {
    follow(address);
    const current = entry.value as Entry;
    const { field: key, line } = parseAddress(address);
    const state = current.state(key, line);
    const result: Result = state.value;
    const now: FieldView = {
      field: current.field(key),
      state,
      value: isDatum(result) ? result : null,
      error: isFormulaError(result) ? result.message : null,
      canRetry: isFormulaError(result) && result.code === 'notAvailable',
      waiting: isWaiting(result),
      offer: current.offer(key, line),
      shown: current.isShown(key, line),
      required: current.isRequired(key, line),
      locked: current.isLocked(key, line),
      differs: current.differs(key, line),
      // those of a section or of the form are said there
      checks: current.checks(key, line).filter((c) => c.at.kind === 'field'),
      words: current.words(key, line),
      unreadable: current.unreadable(key, line),
      filesProblem: current.filesProblem(key, line),
    };
    return moment.value ? viewThen(now, moment.value, address) : now;
  }

  /** What filled in by itself, for screen readers: "Storage filled from Species: −20". */
  function announce(change: Change): void {
    const current = entry.value;
    if (!current) return;
    const parts: string[] = [];
    for (const c of change.changes) {
      if (parts.length >= MOST_ANNOUNCED) break;
      // a list that came to nothing, or could not be had, is told as what fills in is
      if (c.cell === 'choices' && c.cause.kind !== 'open') {
        const field = current.field(c.field);
        const offer = current.offer(c.field, c.line);
        if (offer?.status === 'failed' && offer.reason) parts.push(`${field.definition.label}: ${offer.reason}`);
        else if (offer?.status === 'ready' && offer.total === 0) parts.push(`${field.definition.label}: there is nothing to choose`);
      }
      if (c.cell !== 'value' || c.cause.kind === 'edit' || c.cause.kind === 'open') continue;
      const field = current.field(c.field);
      const place = c.line === null ? '' : `, line ${current.lines(c.field.split('.')[0] ?? '').indexOf(c.line) + 1}`;
      const label = `${field.definition.label}${place}`;
      if (c.to === null) parts.push(`${label} cleared`);
      else if (isFormulaError(c.to)) parts.push(`${label}: ${c.to.message}`);
      else if (isDatum(c.to)) parts.push(`${label} filled: ${showValue(current.plan, cache, field, c.to)}`);
    }
    if (parts.length) announcement.value = parts.join('. ');
  }

  const show = (address: string, value?: Datum): string => {
    follow(address);
    const current = entry.value;
    if (!current) return '';
    const { field: key, line } = parseAddress(address);
    const then = moment.value?.values.get(address);
    const result = value !== undefined ? value : then ? then.value : current.value(key, line);
    return isDatum(result) ? showValue(current.plan, cache, current.field(key), result, current.offer(key, line)) : '';
  };

  /** The label of a field or of lines, by path or address. */
  function label(address: string): string {
    const plan = entry.value?.plan;
    const { field } = parseAddress(address);
    return plan?.fields[plan.slots.get(field) ?? -1]?.definition.label ?? plan?.form.lines[field]?.label ?? field;
  }
  /** Sets a field by hand; null empties it. */
  const set = (address: string, value: Datum): Change | null =>
    apply([value === null ? { kind: 'clear', ...parseAddress(address) } : { kind: 'set', ...parseAddress(address), value }]);
  /** Notes what stands typed in a field and cannot be read, so that it is neither lost nor saved as empty; null when it can be. */
  function misread(address: string, unreadable: Unreadable | null): void {
    const { field, line } = parseAddress(address);
    entry.value?.noteUnreadable(field, line ?? null, unreadable);
    bump(address);
    if (!unreadable) issues.value = issues.value.filter((i) => addressOf(i.field, i.line) !== address || i.code !== 'unreadable');
  }
  /** Asks anew for the lists of fields whose choices the server did not take: they are out of date. */
  function reread(addresses: readonly string[]): void {
    const current = entry.value;
    const fields = addresses.map(parseAddress).filter(({ field }) => current?.plan.fields[current.plan.slots.get(field) ?? -1]?.choices);
    if (!current || !fields.length) return;
    const change = current.reread(fields);
    note(change, 0);
    touched(change);
    for (const { field, line } of fields) bump(addressOf(field, line));
    pump();
  }

  /** A group of lines as a screen shows it. */
  function lines(key: string): { ids: readonly number[]; shown: boolean; required: boolean; locked: boolean } {
    follow(key);
    const current = entry.value;
    const now = current && {
      ids: current.lines(key),
      shown: current.linesShown(key),
      required: current.linesRequired(key),
      locked: current.linesLocked(key),
    };
    return now ? (moment.value ? linesThen(now, moment.value, key) : now) : { ids: [], shown: false, required: false, locked: true };
  }

  /** What is said of a section, or of the whole form. */
  function placeChecks(at: Exclude<CheckPlace, { kind: 'field' }>): readonly CheckState[] {
    const current = entry.value;
    if (!current) return [];
    return current.plan.own.flatMap((f) => {
      if (!f.checks.some((c) => c.at.kind === at.kind)) return [];
      follow(f.key);
      return current
        .checks(f.key)
        .filter((c) => c.at.kind === at.kind && (c.at.kind !== 'section' || c.at.id === (at.kind === 'section' ? at.id : '')));
    });
  }
  /** Where the record stands in its life, the moves from there, and those that were made; null where the form has no steps. */
  function life(): { list: readonly Step[]; step: Step; now: readonly MoveState[]; made: readonly MoveMade[] } | null {
    follow(LIFE);
    const current = entry.value;
    const steps = current?.plan.form.steps;
    const then = moment.value?.values.get(steps?.field ?? '');
    const step = then ? steps?.list.find((s) => s.value === then.value) : current?.step;
    return current && steps && step && current.isShown(steps.field)
      ? { list: steps.list, step, now: then ? [] : current.movesNow, made: current.movesMade }
      : null;
  }
  /** What a move is called. */
  const moveLabel = (id: string): string => entry.value?.plan.form.steps?.moves.find((m) => m.id === id)?.label ?? 'a move';
  const holdsStep = (key: string): boolean => entry.value?.plan.form.steps?.field === key;
  function makeMove(id: string | null): Change | null {
    const field = entry.value?.plan.form.steps?.field;
    return field === undefined ? null : apply([id === null ? { kind: 'unmove', field } : { kind: 'move', field, move: id }]);
  }
  /** The files that stand in a field, with what is known of them. */
  function files(address: string): readonly { id: number; name: string; kind: string; size: number }[] {
    follow(address);
    const current = entry.value;
    if (!current) return [];
    const { field, line } = parseAddress(address);
    return fileNumbers(current.value(field, line)).map((id) => {
      const row = cache.row(FILES, id);
      return {
        id,
        name: String(row?.name ?? (row === null ? 'a file that is gone' : '…')),
        kind: String(row?.kind ?? ''),
        size: Number(row?.size ?? 0),
      };
    });
  }
  /** What a rule is called. */
  function ruleLabel(id: string): string {
    const rules = entry.value?.plan.form.rules ?? [];
    const at = rules.findIndex((r) => r.id === id);
    return at < 0 ? 'a rule' : `the rule “${ruleName(rules[at]!, at)}”`;
  }
  /** What is being made in turns is made; rules that act before saving do. */
  async function beforeSaving(): Promise<void> {
    // what is being pasted belongs to what is saved
    await inTurns;
    const current = entry.value;
    if (!current || (!current.plan.steps && !current.plan.rules.some((r) => r.definition.saves))) return;
    const change = current.beforeSaving();
    note(change, 0);
    touched(change);
    pump();
    await settled();
  }

  /** When nothing is on its way any more. */
  const settled = async (): Promise<void> => {
    while (inFlight) await inFlight;
  };

  return {
    label,
    set,
    misread,
    reread,
    lines,
    placeChecks,
    files,
    ruleLabel,
    life,
    moveLabel,
    makeMove,
    holdsStep,
    beforeSaving,
    settled,
    entry,
    steps,
    moment,
    look,
    announcement,
    issues,
    failure,
    open,
    apply,
    applyInTurns,
    retry,
    learn,
    page,
    pageKnown,
    pages,
    funnel,
    usual,
    noteChoice,
    choicesMade,
    choicesTold,
    view,
    show,
    cache: () => cache,
    versions,
  };
}
