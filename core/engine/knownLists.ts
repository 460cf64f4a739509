import { type Result, isDatum } from '../formula/errors.ts';
import type { Formula } from '../formula/formula.ts';
import type { Datum } from '../values/types.ts';
import type { DataCache } from './cache.ts';
import type { OfferWorld } from './offers.ts';
import type { PlanChoices, PlanField } from './plan.ts';
import type { Offer } from './state.ts';

/*
 * Lists of a field by the values they hang on. Where a hundred thousand records are gone through, the same few lists are met again and
 * again, and to ask for one (bind what it is narrowed by, name it, look it up) takes longer than all the rest of a choice that stays.
 */

/** A list, and which values were found to be offered by it. */
export interface KnownList {
  readonly offer: Offer;
  readonly offered: Set<Datum>;
}
/** Lists that were met with what is known of the data. */
interface Met {
  readonly version: number;
  readonly answers: number;
  readonly lists: Map<Datum, KnownList>;
}
/** How many lists of a field are kept, and how many values of each: a form has few, but a field may be narrowed by a number. */
const [MOST_LISTS, MOST_OFFERED] = [1000, 10_000];

export class KnownLists {
  private readonly met = new WeakMap<DataCache, Met>();
  private constructor(private readonly slots: readonly number[]) {}

  /** The lists of a field; null where what it offers hangs on more than what stands in other fields. */
  static of({ choices }: PlanField): KnownLists | null {
    if (!choices || choices.asks !== null) return null;
    const { narrowing } = choices;
    if (!narrowing) return new KnownLists([]);
    if (asksBeyond(narrowing.formula, SOURCES, EXTRAS)) return null;
    return new KnownLists([...new Set([...narrowing.formula.slots, ...narrowing.drivers, ...slotsDriving(choices)])]);
  }

  /** The list there is now; null when it was not met before. Cost: what its fields take to be read. */
  find({ cache, valueAt }: OfferWorld): KnownList | null {
    const met = this.met.get(cache);
    if (!met || met.version !== cache.version || met.answers !== cache.answerVersion) return null;
    return met.lists.get(this.keyOf(valueAt)) ?? null;
  }
  /** Notes what is offered now, and gives it as it is known from now on; null where it is not known well enough to be kept. */
  note(offer: Offer, { cache, valueAt }: OfferWorld): KnownList | null {
    const key = this.keyOf(valueAt);
    if (offer.status !== 'ready' || key === NO_KEY) return null;
    let met = this.met.get(cache);
    if (!met || met.version !== cache.version || met.answers !== cache.answerVersion || met.lists.size >= MOST_LISTS)
      this.met.set(cache, (met = { version: cache.version, answers: cache.answerVersion, lists: new Map<Datum, KnownList>() }));
    const list: KnownList = { offer, offered: new Set() };
    met.lists.set(key, list);
    return list;
  }

  private keyOf(valueAt: (slot: number) => Result): string | number {
    const [first, second] = this.slots;
    if (first === undefined) return 0;
    const value = valueAt(first);
    if (second === undefined && typeof value === 'number') return value;
    let key = '';
    for (const slot of this.slots) {
      const one = valueAt(slot);
      if (!isDatum(one) || (typeof one === 'object' && one !== null)) return NO_KEY;
      key += `${typeof one === 'string' ? JSON.stringify(one) : String(one)},`;
    }
    return key;
  }
}
/** Where a field's value is none that could name a list; an empty text is no key of one. */
const NO_KEY = '';

/** Notes that a value was found to be offered. */
export function noteOffered({ offered }: KnownList, value: Datum): void {
  if (offered.size < MOST_OFFERED) offered.add(value);
}

/** The slots of the fields by which a list is narrowed: those of levels further up too, which no formula of it names. */
export const slotsDriving = (choices: PlanChoices | null): readonly number[] =>
  (choices?.narrowing?.parts ?? []).flatMap((p) => [...p.drivers, ...(p.through ?? [])]);

/** Whether a formula goes through items, or reads a source or asks something beyond some kinds of both. */
export const asksBeyond = ({ items, bindings, extras }: Formula, sources: ReadonlySet<string>, asked: ReadonlySet<string>): boolean =>
  items.length > 0 ||
  [...bindings.values()].some((b) => !sources.has(b.source.kind)) ||
  [...extras.values()].some((e) => !asked.has(e.kind));
/** Fields, the candidate, and rows that are linked: those are told apart by the version of what is known. */
const SOURCES: ReadonlySet<string> = new Set(['slot', 'candidate']);
const EXTRAS: ReadonlySet<string> = new Set(['attribute', 'map']);
