import { narrowRows, narrowWhole, skippedParts, waitingParts } from '../choices/narrowing.ts';
import type { Env } from '../formula/env.ts';
import { FormulaError, type Result, Waiting, isDatum } from '../formula/errors.ts';
import type { Datum, Row } from '../values/types.ts';
import type { DataCache } from './cache.ts';
import { distinctRows, sortedWhole, storedOf } from './candidates.ts';
import type { Plan, PlanAsk, PlanField } from './plan.ts';
import type { Offer } from './state.ts';
import type { Want } from './wants.ts';

/** What working out an offer reads, and where it says what it lacks. */
export interface OfferWorld {
  readonly plan: Plan;
  readonly env: Env;
  /** a field's value by slot, of the form or of the line the field stands in */
  valueAt(slot: number): Result;
  readonly cache: DataCache;
  want(want: Want): void;
}

/** An offer before anything is known. */
export const BEFORE_OFFER: Offer = {
  status: 'loading', waitsFor: [], rows: null, total: 0, capped: false, all: null, funnel: null, only: null, reason: null,
  params: [], open: [], key: '',
}; // prettier-ignore

/** What a field offers now. What it lacks is wanted and the offer is 'loading'. Cost: rows × parts for a small source. */
export function offerNow(field: PlanField, world: OfferWorld): Offer {
  const choices = field.choices as NonNullable<PlanField['choices']>;
  const { narrowing, source } = choices;
  const open = [...skippedParts(narrowing, world.valueAt)];
  // what only skipped parts ask makes no difference to the list, so it is no part of what tells two lists apart
  const counting = new Set((narrowing?.parts ?? []).flatMap((p, i) => (open.includes(i) ? [] : p.params)));
  let stopped: Result = null;
  const params = (narrowing?.params ?? []).map((param, i): Datum => {
    const value = counting.has(i) ? param.run(world.env) : null;
    if (isDatum(value)) return value;
    stopped = value;
    return null;
  });
  const key = JSON.stringify([params, open]);
  const base = { ...BEFORE_OFFER, params, open, key };
  const stop = stopped as Result;
  if (stop instanceof Waiting) return { ...base, status: 'loading' };
  if (stop instanceof FormulaError) return { ...base, status: 'failed', reason: stop.message };
  const waiting = source.waiting === 'all' ? [] : [...waitingParts(narrowing, world.valueAt)];
  if (waiting.length) {
    const slots = new Set(waiting.flatMap((p) => narrowing?.parts[p]?.drivers ?? []).filter((s) => world.valueAt(s) === null));
    // a small table is fetched while the list still waits, so that choosing the parent needs no request
    if (!choices.large && choices.table !== null && !world.cache.table(choices.table)) world.want({ kind: 'table', table: choices.table });
    return { ...base, status: 'waiting', waitsFor: [...slots].map((s) => (world.plan.fields[s] as PlanField).key) };
  }
  if (choices.asks) return offerAsked(field, choices.asks, base, params, world);
  if (choices.large) return offerLarge(field, base, world);
  return narrowed(field, choices.options ?? 'table', base, params, world);
}

/** Candidates that a feed gives, or that a row or a JSON value has. They wait for the values they are asked with. */
function offerAsked(field: PlanField, asks: PlanAsk, base: Offer, params: readonly Datum[], world: OfferWorld): Offer {
  const given: Record<string, Datum> = {};
  for (const { name, formula } of asks.formulas) {
    const value = formula.run(world.env);
    if (value instanceof Waiting) return { ...base, status: 'loading' };
    if (value instanceof FormulaError) return { ...base, status: 'failed', reason: value.message };
    if (value === null) {
      const waitsFor = formula.slots.filter((s) => world.valueAt(s) === null).map((s) => (world.plan.fields[s] as PlanField).key);
      return { ...base, status: 'waiting', waitsFor, key: `${base.key} ${name}` };
    }
    given[name] = isDatum(value) ? value : null;
  }
  const asked = { ...base, key: JSON.stringify([base.key, given]) };
  if (asks.feed === null) {
    const rows = asks.rows(given, world);
    return rows instanceof Waiting ? { ...asked, status: 'loading' } : narrowed(field, rows, asked, params, world);
  }
  const want: Want = { kind: 'feed', feed: asks.feed, params: given };
  const answer = world.cache.answer(want);
  if (answer?.kind === 'failed') return { ...asked, status: 'failed', reason: answer.reason };
  if (answer?.kind === 'items') return narrowed(field, answer.items, asked, params, world);
  world.want(want);
  return { ...asked, status: 'loading' };
}

/** Narrows known candidates, or a table that is sent whole, in memory. */
function narrowed(field: PlanField, source: readonly Row[] | 'table', base: Offer, params: readonly Datum[], world: OfferWorld): Offer {
  const choices = field.choices as NonNullable<PlanField['choices']>;
  const all = source === 'table' ? world.cache.table(choices.table ?? '')?.rows : source;
  if (!all) {
    const want: Want = { kind: 'table', table: choices.table as string };
    const reason = world.cache.failureOf(want);
    if (reason !== null) return { ...base, status: 'failed', reason };
    world.want(want);
    return { ...base, status: 'loading' };
  }
  world.env.params = params;
  const candidates = source === 'table' ? sortedWhole(all, field) : all;
  const open = new Set(base.open);
  const {
    rows: left,
    waiting,
    failed,
    funnel,
  } = source === 'table'
    ? narrowWhole(choices.narrowing, candidates, open, world.env, base.key)
    : narrowRows(choices.narrowing, candidates, open, world.env);
  world.env.params = [];
  if (waiting) return { ...base, status: 'loading' };
  const reason = failed instanceof FormulaError ? failed.message : null;
  const rows = choices.values === null ? left : distinctRows(left, choices.values);
  const first = rows[0];
  return {
    ...base,
    status: 'ready',
    rows,
    total: rows.length,
    all: all.length,
    funnel,
    only: rows.length === 1 && first ? storedOf(field, first) : null,
    reason,
  };
}

function offerLarge(field: PlanField, base: Offer, world: OfferWorld): Offer {
  const want: Want = { kind: 'count', field: field.key, params: base.params, open: base.open };
  const answer = world.cache.answer(want);
  if (answer?.kind === 'failed') return { ...base, status: 'failed', reason: answer.reason };
  if (answer?.kind !== 'count') {
    world.want(want);
    return { ...base, status: 'loading' };
  }
  const all = world.plan.tables.get(field.choices?.table ?? '')?.rows ?? null;
  return { ...base, status: 'ready', total: answer.total, capped: answer.capped, only: answer.only, all };
}
