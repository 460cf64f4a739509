import type { Datum, Row } from '../values/types.ts';
import type { Plan } from './plan.ts';

/** What an entry needs to know and cannot compute: plain, de-duplicated, answered by the host in one round trip. */
export type Want =
  | { readonly kind: 'table'; readonly table: string }
  | { readonly kind: 'row'; readonly table: string; readonly id: number }
  /** the items of a feed for these parameters */
  | { readonly kind: 'feed'; readonly feed: string; readonly params: Readonly<Record<string, Datum>> }
  /** how many candidates of a large source are left, and which, when it is one */
  | ({ readonly kind: 'count' } & ListAsked)
  /** whether one row (by id) or value of a large source is offered */
  | ({ readonly kind: 'offered'; readonly value: number | string } & ListAsked)
  /** one page of what a large source offers */
  | ({ readonly kind: 'page'; readonly search: string; readonly offset: number; readonly limit: number } & ListAsked)
  | ({ readonly kind: 'funnel' } & ListAsked)
  /** the rows that PICK or GATHER finds in a large table, by the number of the call in the plan */
  | { readonly kind: 'picked'; readonly pick: number; readonly params: readonly Datum[] }
  /** my record of this form saved last, of those whose column has the value where one is named */
  | { readonly kind: 'last'; readonly column: string | null; readonly value: Datum }
  /** the number next in a series */
  | { readonly kind: 'series'; readonly series: string }
  /** what was chosen here last, or most often, of what is offered: asked by the control, where the field says so */
  | ({ readonly kind: 'usual' } & ListAsked);

/** The most that is asked in one request. */
export const MAX_WANTS = 200;
/** The longest text that a list is searched for, in characters. */
export const LONGEST_SEARCH = 200;
/** A text as a list is searched for it: trimmed, and cut at what may be asked. */
export const searchFor = (text: string): string => text.trim().slice(0, LONGEST_SEARCH);

/** Wants as they are asked: more than one request may ask in several. */
export const batches = (wants: readonly Want[]): Want[][] =>
  Array.from({ length: Math.ceil(wants.length / MAX_WANTS) }, (_, i) => wants.slice(i * MAX_WANTS, (i + 1) * MAX_WANTS));

/** A field's narrowed list: the values its narrowing was given, and the parts that are skipped while they wait. */
export interface ListAsked {
  readonly field: string;
  readonly params: readonly Datum[];
  readonly open: readonly number[];
}

/** Counting stops here: more are "more than". */
export const COUNT_CAP = 10_000;

export type Answer =
  | { readonly kind: 'table'; readonly rows: readonly Row[] }
  | { readonly kind: 'row'; readonly row: Row | null }
  | { readonly kind: 'count'; readonly total: number; readonly capped: boolean; readonly only: number | string | null }
  | { readonly kind: 'offered'; readonly offered: boolean }
  | { readonly kind: 'page'; readonly rows: readonly Row[]; readonly more: boolean }
  | { readonly kind: 'usual'; readonly rows: readonly Row[] }
  | { readonly kind: 'picked'; readonly rows: readonly Row[]; readonly more: boolean }
  | { readonly kind: 'last'; readonly row: Row | null }
  | { readonly kind: 'number'; readonly next: number }
  | { readonly kind: 'items'; readonly items: readonly Row[] }
  | { readonly kind: 'funnel'; readonly all: number; readonly remaining: readonly number[] }
  | { readonly kind: 'failed'; readonly reason: string };

/** The same want has the same key, whichever order its properties come in: one that has travelled is built anew where it arrives. */
export function wantKey(want: Want): string {
  switch (want.kind) {
    case 'table':
      return `table ${want.table}`;
    case 'row':
      return `row ${want.table} ${want.id}`;
    case 'feed':
      return keyOf(want.kind, want.feed, ...Object.entries(want.params).sort(([a], [b]) => (a < b ? -1 : 1)));
    case 'offered':
      return keyOf(want.kind, want.field, want.params, want.open, want.value);
    case 'page':
      return keyOf(want.kind, want.field, want.params, want.open, want.search, want.offset, want.limit);
    case 'count':
    case 'funnel':
    case 'usual':
      return keyOf(want.kind, want.field, want.params, want.open);
    case 'picked':
      return keyOf(want.kind, want.pick, want.params);
    case 'last':
      return keyOf(want.kind, want.column, want.value);
    case 'series':
      return `series ${want.series}`;
  }
}
/** The same list, narrowed by the same, has the same key. */
export const listKey = ({ field, params, open }: ListAsked): string => keyOf(field, params, open);
const keyOf = (...parts: readonly unknown[]): string => JSON.stringify(parts);

/** A want with its answer, as it travels. */
export interface Answered {
  readonly want: Want;
  readonly answer: Answer;
}

/** The table whose rows an answer to this want brings. */
export function tableOfWant(plan: Plan, want: Want): string | null {
  if (want.kind === 'picked') return plan.picks[want.pick]?.table ?? null;
  if (want.kind === 'last') return plan.form.table;
  return 'field' in want ? (plan.fields[plan.slots.get(want.field) ?? -1]?.choices?.table ?? null) : null;
}
