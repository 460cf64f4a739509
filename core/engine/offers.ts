import { type Narrowing, type NarrowingPart, isSkipped, narrowRows, skippedParts, waitingParts } from '../choices/narrowing.ts';
import type { Env } from '../formula/env.ts';
import { FormulaError, type Result, Waiting, isDatum } from '../formula/errors.ts';
import type { Datum, Row } from '../values/types.ts';
import type { DataCache } from './cache.ts';
import { distinctRows, sortedWhole, storedOf } from './candidates.ts';
import type { Plan, PlanAsk, PlanChoices, PlanField } from './plan.ts';
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

/** The key of an offer of which is not known yet what it is narrowed by. */
export const UNKNOWN = '';

/** What a narrowing is asked with now: its parameters, and the parts that are skipped. */
interface Asked {
  readonly params: readonly Datum[];
  readonly open: readonly number[];
}
interface Posed extends Asked {
  /** why parameters are not known: waiting, or an error */
  readonly stopped: Waiting | FormulaError | null;
}
const NOTHING_POSED: Posed = { params: [], open: [], stopped: null };

function posed(narrowing: Narrowing | null, { env, valueAt }: OfferWorld): Posed {
  if (!narrowing || narrowing.isFixed) return NOTHING_POSED;
  const open = skippedParts(narrowing, valueAt);
  // what only skipped parts ask makes no difference to the list, so it is no part of what tells two lists apart
  const counting = open.length ? new Set(narrowing.parts.flatMap((p, i) => (open.includes(i) ? [] : p.params))) : null;
  let stopped: Posed['stopped'] = null;
  const params = new Array<Datum>(narrowing.params.length).fill(null);
  for (let i = 0; i < params.length; i++) {
    const value = counting && !counting.has(i) ? null : (narrowing.params[i] as (typeof narrowing.params)[number]).run(env);
    if (isDatum(value)) params[i] = value;
    else stopped = value;
  }
  return { params, open, stopped };
}
/** The same for the same parameters and parts; most are numbers of rows, which need no quotes. */
const keyOf = ({ params, open }: Asked): string =>
  params.every((p) => p === null || typeof p === 'number')
    ? `[[${params.map((p) => p ?? 'null').join(',')}],[${open.join(',')}]]`
    : JSON.stringify([params, open]);

/** What is remembered by: most lists are narrowed by one row, whose number tells them apart as their key does. */
const shortOf = (asked: Asked): string | number => {
  const [first] = asked.params;
  return typeof first === 'number' && asked.params.length === 1 && !asked.open.length ? first : keyOf(asked);
};
const baseOf = (asked: Asked): Offer => ({ ...BEFORE_OFFER, params: asked.params, open: asked.open, key: keyOf(asked) });

/**
 * What a field offers now. What it lacks is wanted and the offer is 'loading'. `before` is what it offered last: where that is asked for again
 * it is given again, and nothing is made. Cost: rows × parts for a small source.
 */
export function offerNow(field: PlanField, world: OfferWorld, before: Offer | null = null): Offer {
  const choices = field.choices as NonNullable<PlanField['choices']>;
  const { narrowing, source } = choices;
  if (before && isAskedAgain(before, choices, world)) return before;
  const asked = posed(narrowing, world);
  const { open, stopped } = asked;
  if (stopped instanceof Waiting) return { ...baseOf(asked), status: 'loading', key: UNKNOWN };
  if (stopped instanceof FormulaError) return { ...baseOf(asked), status: 'failed', reason: stopped.message };
  const waiting = source.waiting === 'all' || !open.length ? [] : waitingParts(narrowing, world.valueAt);
  if (waiting.length) {
    const slots = new Set(waiting.flatMap((p) => narrowing?.parts[p]?.drivers ?? []).filter((s) => world.valueAt(s) === null));
    // a small table is fetched while the list still waits, so that choosing the parent needs no request
    if (!choices.large && choices.table !== null && !world.cache.table(choices.table)) world.want({ kind: 'table', table: choices.table });
    return { ...baseOf(asked), status: 'waiting', waitsFor: [...slots].map((s) => (world.plan.fields[s] as PlanField).key) };
  }
  if (choices.asks) return offerAsked(field, choices.asks, baseOf(asked), world);
  if (choices.large) return offerLarge(field, baseOf(asked), world);
  return offerWhole(field, asked, world);
}

/** Candidates that a feed gives, or that a row or a JSON value has. They wait for the values they are asked with. */
function offerAsked(field: PlanField, asks: PlanAsk, base: Offer, world: OfferWorld): Offer {
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
    return rows instanceof Waiting ? { ...asked, status: 'loading' } : narrowed(field, rows, asked, world);
  }
  const want: Want = { kind: 'feed', feed: asks.feed, params: given };
  const answer = world.cache.answer(want);
  if (answer?.kind === 'failed') return { ...asked, status: 'failed', reason: answer.reason };
  if (answer?.kind === 'items') return narrowed(field, answer.items, asked, world);
  world.want(want);
  return { ...asked, status: 'loading' };
}

/** Whether a field offers the same as before. */
export const offersAlike = (before: Offer, now: Offer): boolean =>
  before.key === now.key &&
  before.status === now.status &&
  before.total === now.total &&
  (before.rows === now.rows || (before.rows?.length === now.rows?.length && before.rows?.every((r, i) => r === now.rows?.[i]) === true));

/** The value that was found last among what is offered. */
const stayed = new WeakMap<Offer, Datum>();
/** Whether a value was found last among what this very offer has: nobody need look again. */
export const wasOffered = (offer: Offer, one: Result): boolean => one !== null && stayed.get(offer) === one;

/** Whether a value is among what a field offers now; Waiting while that is still being asked, and then it is wanted. */
export function isOffered(
  field: PlanField,
  offer: Offer,
  one: Datum,
  { cache, want }: Pick<OfferWorld, 'cache' | 'want'>,
): boolean | Waiting {
  if (offer.status === 'loading' || offer.status === 'failed') return Waiting.value;
  if (offer.status === 'waiting') return false;
  if (offer.rows) {
    for (const row of offer.rows) {
      if (storedOf(field, row) !== one) continue;
      stayed.set(offer, one);
      return true;
    }
    return false;
  }
  if (typeof one !== 'number' && typeof one !== 'string') return false;
  const asked: Want = { kind: 'offered', field: field.key, params: offer.params, open: offer.open, value: one };
  const answer = cache.answer(asked);
  if (answer?.kind === 'offered') return answer.offered;
  // what failed is asked again when somebody says so
  if (answer?.kind !== 'failed') want(asked);
  return Waiting.value;
}

/** The rows that a remembered offer was made of. */
const madeOf = new WeakMap<Offer, readonly Row[]>();
/** Whether an offer that is remembered is asked for as it was: the same rows, the same parts skipped, and the same parameters. */
function isAskedAgain(before: Offer, { narrowing, options, table }: PlanChoices, { cache, env, valueAt }: OfferWorld): boolean {
  const rows = madeOf.get(before);
  if (!rows || rows !== (options ?? cache.table(table ?? '')?.rows)) return false;
  if (!narrowing || narrowing.isFixed) return true;
  const { parts, params } = narrowing;
  for (let i = 0; i < parts.length; i++) if (isSkipped(parts[i] as NarrowingPart, valueAt) !== before.open.includes(i)) return false;
  for (let i = 0; i < params.length; i++) {
    const value = isCounting(narrowing, i, before.open) ? (params[i] as (typeof params)[number]).run(env) : null;
    if (value !== before.params[i]) return false;
  }
  return true;
}
/** Whether a parameter belongs to any part that is not skipped. */
function isCounting({ parts }: Narrowing, param: number, open: readonly number[]): boolean {
  for (let i = 0; i < parts.length; i++) if (!open.includes(i) && (parts[i] as NarrowingPart).params.includes(param)) return true;
  return open.length === 0;
}

type Remembered = Map<string | number, Offer>;
/** What whole tables and lists offered, by what is asked of them. */
const offered = new WeakMap<readonly Row[], WeakMap<PlanChoices, Remembered>>();
/** How many offers of one field are remembered. */
const MOST_REMEMBERED = 200;

/**
 * The offers of a field that are remembered for rows that stay, such as a whole table: asked the same, they offer the same again, where the
 * parts of the condition that are not skipped ask the rows alone. Null where it may come out otherwise. Nobody may change what it gives,
 * nor the rows.
 */
function remembered(rows: readonly Row[], choices: PlanChoices, skipped: readonly number[]): Remembered | null {
  if (choices.narrowing?.parts.some((p, i) => !p.asksRowsAlone && !skipped.includes(i))) return null;
  let ofRows = offered.get(rows);
  if (!ofRows) offered.set(rows, (ofRows = new WeakMap<PlanChoices, Remembered>()));
  let known = ofRows.get(choices);
  if (!known) ofRows.set(choices, (known = new Map<string | number, Offer>()));
  return known;
}

/** What a table that is sent whole offers, or a list of the form. What was offered before is not worked out again. */
function offerWhole(field: PlanField, asked: Asked, world: OfferWorld): Offer {
  const choices = field.choices as NonNullable<PlanField['choices']>;
  const all = choices.options ?? world.cache.table(choices.table ?? '')?.rows;
  if (!all) {
    const want: Want = { kind: 'table', table: choices.table as string };
    const reason = world.cache.failureOf(want);
    if (reason !== null) return { ...baseOf(asked), status: 'failed', reason };
    world.want(want);
    return { ...baseOf(asked), status: 'loading' };
  }
  const work = (): Offer => narrowed(field, choices.options ? all : sortedWhole(all, field), baseOf(asked), world);
  const known = remembered(all, choices, asked.open);
  if (!known) return work();
  const short = shortOf(asked);
  const before = known.get(short);
  if (before) return before;
  const offer = work();
  if (offer.status === 'ready') {
    if (known.size >= MOST_REMEMBERED) known.delete(known.keys().next().value as string);
    known.set(short, offer);
    madeOf.set(offer, all);
  }
  return offer;
}

/** Narrows known candidates in memory. `base` says what is asked of them. */
function narrowed(field: PlanField, candidates: readonly Row[], base: Offer, world: OfferWorld): Offer {
  const choices = field.choices as NonNullable<PlanField['choices']>;
  world.env.params = base.params;
  const { rows: left, waiting, failed, funnel } = narrowRows(choices.narrowing, candidates, new Set(base.open), world.env);
  world.env.params = [];
  if (waiting) return { ...base, status: 'loading' };
  const reason = failed instanceof FormulaError ? failed.message : null;
  const rows = choices.values === null ? left : distinctRows(left, choices.values);
  const first = rows[0];
  const only = rows.length === 1 && first ? storedOf(field, first) : null;
  return { ...base, status: 'ready', rows, total: rows.length, all: candidates.length, funnel, only, reason };
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
