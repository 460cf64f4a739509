import type { Datum, Row } from '../values/types.ts';

/** What an entry needs to know and cannot compute: plain, de-duplicated, answered by the host in one round trip. */
export type Want =
  | { readonly kind: 'table'; readonly table: string }
  | { readonly kind: 'row'; readonly table: string; readonly id: number }
  /** how many candidates of a large source are left, and which, when it is one */
  | ({ readonly kind: 'count' } & ListAsked)
  /** whether one row (by id) or value of a large source is offered */
  | ({ readonly kind: 'offered'; readonly value: number | string } & ListAsked)
  /** one page of what a large source offers */
  | ({ readonly kind: 'page'; readonly search: string; readonly offset: number; readonly limit: number } & ListAsked)
  | ({ readonly kind: 'funnel' } & ListAsked);

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
  | { readonly kind: 'funnel'; readonly all: number; readonly remaining: readonly number[] }
  | { readonly kind: 'failed'; readonly reason: string };

/** The same want has the same key. */
export const wantKey = (want: Want): string => JSON.stringify(want);

/** A want with its answer, as it travels. */
export interface Answered {
  readonly want: Want;
  readonly answer: Answer;
}
