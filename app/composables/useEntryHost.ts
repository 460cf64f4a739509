import { type Entry, type EntryContext, type StoredRecord, openEntry } from '~~/core/engine/entry.ts';
import { DataCache } from '~~/core/engine/cache.ts';
import type { Plan, PlanField } from '~~/core/engine/plan.ts';
import type { Change, CheckState, Edit, Offer, ValueState } from '~~/core/engine/state.ts';
import { type Answered, type Want, wantKey } from '~~/core/engine/wants.ts';
import type { FieldIssue } from '~~/core/engine/verify.ts';
import { type Result, isDatum, isFormulaError, isWaiting } from '~~/core/formula/errors.ts';
import type { Datum, Row } from '~~/core/values/types.ts';

/** One thing the trace shows: what happened, when, how long settling took and how many requests it needed. */
export interface TraceStep {
  readonly number: number;
  readonly at: string;
  readonly change: Change;
  readonly milliseconds: number;
  requests: number;
}

/** A field as a screen shows it. */
export interface FieldView {
  readonly field: PlanField;
  readonly state: ValueState;
  readonly value: Datum;
  readonly error: string | null;
  readonly waiting: boolean;
  readonly offer: Offer | null;
  readonly shown: boolean;
  readonly required: boolean;
  readonly locked: boolean;
  readonly differs: boolean;
  readonly checks: readonly CheckState[];
}

export type EntryHost = ReturnType<typeof useEntryHost>;

/**
 * Runs an entry in the browser: opens it, applies edits, gets what it wants in one request a settle, and tells Vue
 * which fields changed, so that only those are drawn again.
 */
export function useEntryHost(fetchWants: (wants: readonly Want[]) => Promise<Answered[]>) {
  const entry = shallowRef<Entry | null>(null);
  const versions = reactive<Record<string, number>>({});
  const steps = shallowRef<readonly TraceStep[]>([]);
  const announcement = ref('');
  const issues = shallowRef<readonly FieldIssue[]>([]);
  const failure = ref('');
  let cache = new DataCache();
  let stepNumber = 0;
  const underWay = new Set<string>();

  function open(
    plan: Plan,
    context: EntryContext,
    record: StoredRecord | null,
    answered: readonly Answered[] = [],
    keepCache = false,
  ): void {
    if (!keepCache) cache = new DataCache();
    const tableOf = (field: string): string | null => plan.fields[plan.slots.get(field) ?? -1]?.choices?.table ?? null;
    cache.supply(answered, tableOf);
    const started = performance.now();
    const opened = openEntry(plan, context, cache, record);
    entry.value = opened;
    steps.value = [];
    issues.value = [];
    for (const { key } of plan.fields) versions[key] = (versions[key] ?? 0) + 1;
    const [first] = opened.trace;
    if (first) note(first, performance.now() - started);
    void pump();
  }

  function note(change: Change, milliseconds: number): void {
    if (change.what.kind === 'supply' && !change.changes.length) return;
    const step: TraceStep = { number: ++stepNumber, at: new Date().toTimeString().slice(0, 8), change, milliseconds, requests: 0 };
    steps.value = [step, ...steps.value].slice(0, 200);
  }

  function touched(change: Change): void {
    for (const c of change.changes) versions[c.field] = (versions[c.field] ?? 0) + 1;
    for (const r of change.refused) versions[r.field] = (versions[r.field] ?? 0) + 1;
    if (issues.value.length) {
      const changed = new Set(change.changes.map((c) => c.field));
      issues.value = issues.value.filter((i) => !changed.has(i.field));
    }
  }

  function apply(edits: readonly Edit[]): Change | null {
    const current = entry.value;
    if (!current) return null;
    const started = performance.now();
    const change = current.apply(edits);
    note(change, performance.now() - started);
    touched(change);
    announce(change);
    void pump();
    return change;
  }

  /** Fetches what the entry wants until it wants nothing more that is not already under way. */
  async function pump(): Promise<void> {
    const current = entry.value;
    const wants = (current?.wants ?? []).filter((w) => !underWay.has(wantKey(w)));
    if (!current || !wants.length) return;
    const keys = wants.map(wantKey);
    keys.forEach((k) => underWay.add(k));
    const [newest] = steps.value;
    if (newest) newest.requests++;
    let answered: Answered[];
    try {
      answered = await fetchWants(wants);
      failure.value = '';
    } catch (e) {
      failure.value = messageOf(e);
      answered = wants.map((want) => ({ want, answer: { kind: 'failed', reason: messageOf(e) } }));
    }
    keys.forEach((k) => underWay.delete(k));
    if (entry.value !== current) return;
    const started = performance.now();
    const change = current.supply(answered);
    note(change, performance.now() - started);
    touched(change);
    // fields that failed show it even when nothing else about them changed
    for (const { want } of answered) if ('field' in want) versions[want.field] = (versions[want.field] ?? 0) + 1;
    // a row that came may be what a field is shown by
    if (answered.some((a) => a.want.kind === 'row')) for (const { key } of current.plan.fields) versions[key] = (versions[key] ?? 0) + 1;
    announce(change);
    if (failure.value === '') await pump();
  }

  function retry(): void {
    const current = entry.value;
    if (!current) return;
    touched(current.retry());
    void pump();
  }

  /** One page of a large list for the control that shows it. */
  async function page(
    field: string,
    search: string,
    offset: number,
    limit: number,
  ): Promise<{ rows: readonly Row[]; more: boolean; failed: string | null }> {
    const current = entry.value;
    if (!current) return { rows: [], more: false, failed: null };
    const want: Want = { kind: 'page', ...current.asked(field), search, offset, limit };
    const known = cache.answer(want);
    const answer =
      known?.kind === 'page'
        ? known
        : (await fetchWants([want]).catch((e: unknown) => [{ want, answer: { kind: 'failed' as const, reason: messageOf(e) } }]))[0]
            ?.answer;
    if (answer?.kind === 'page') {
      current.supply([{ want, answer }]);
      return { rows: answer.rows, more: answer.more, failed: null };
    }
    return { rows: [], more: false, failed: answer?.kind === 'failed' ? answer.reason : 'no answer' };
  }

  /** The funnel of a large list, counted by the server. */
  async function funnel(field: string): Promise<{ all: number; remaining: readonly number[] } | null> {
    const current = entry.value;
    if (!current) return null;
    const [answered] = await fetchWants([{ kind: 'funnel', ...current.asked(field) }]);
    return answered?.answer.kind === 'funnel' ? answered.answer : null;
  }

  function view(key: string): FieldView {
    // reading the version makes the caller depend on this field alone
    void versions[key];
    const current = entry.value as Entry;
    const state = current.state(key);
    const result: Result = state.value;
    return {
      field: current.plan.fields[current.slot(key)] as PlanField,
      state,
      value: isDatum(result) ? result : null,
      error: isFormulaError(result) ? result.message : null,
      waiting: isWaiting(result),
      offer: current.offer(key),
      shown: current.isShown(key),
      required: current.isRequired(key),
      locked: current.isLocked(key),
      differs: current.differs(key),
      checks: current.checks(key),
    };
  }

  /** What filled in by itself, for screen readers: "Storage filled from Species: −20". */
  function announce(change: Change): void {
    const current = entry.value;
    if (!current) return;
    const parts: string[] = [];
    for (const c of change.changes) {
      if (c.cell !== 'value' || c.cause.kind === 'edit' || c.cause.kind === 'open') continue;
      const { field } = view(c.field);
      const label = field.definition.label;
      if (c.to === null) parts.push(`${label} cleared`);
      else if (isDatum(c.to)) parts.push(`${label} filled: ${showValue(current.plan, cache, field, c.to)}`);
    }
    if (parts.length) announcement.value = parts.slice(0, 4).join('. ');
  }

  const show = (key: string, value?: Datum): string => {
    void versions[key];
    const current = entry.value;
    if (!current) return '';
    const field = current.plan.fields[current.slot(key)] as PlanField;
    const result = value === undefined ? current.value(key) : value;
    return isDatum(result) ? showValue(current.plan, cache, field, result) : '';
  };

  return { entry, steps, announcement, issues, failure, open, apply, retry, page, funnel, view, show, cache: () => cache, versions };
}
