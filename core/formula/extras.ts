import type { Datum } from '../values/types.ts';
import type { Template } from './template.ts';
import type { ColumnShape, FeedShape, Source } from './scope.ts';
import type { Syntax } from './syntax.ts';
import type { Checked } from './check.ts';

/** A small table kept with a form: keys to a value. */
export interface ValueMap {
  readonly label: string;
  /** by folded key, written out */
  readonly values: ReadonlyMap<string, string | number>;
}

/** PICK or GATHER, taken apart: which table, under which condition, in which order. */
export interface PickPart {
  readonly kind: 'pick';
  readonly table: string;
  readonly condition: Syntax;
  /** the column that decides which row comes first; the lowest id decides where it is equal or there is none */
  readonly sort: { readonly column: string; readonly descending: boolean } | null;
  readonly many: boolean;
  /** types and bindings of the formula it stands in, with the candidate bound as in a narrowing */
  readonly checked: Pick<Checked, 'types' | 'bindings' | 'extras' | 'text' | 'problems' | 'type'>;
}

/** ANYOF, ALLOF, NONEOF or COUNTOF, taken apart: what is asked of each, and which fields of lines that reads. */
export interface EachPart {
  readonly kind: 'each';
  readonly of: 'any' | 'all' | 'none' | 'count';
  readonly condition: Syntax;
  readonly lines: Extract<Source, { kind: 'lines' }> | null;
  /** the columns of the lines that the condition reads */
  readonly reads: readonly string[];
}

/** What the checker found out about a call that reads more than its arguments. */
export type Extra =
  | PickPart
  | EachPart
  | { readonly kind: 'series' }
  | { readonly kind: 'map'; readonly map: ValueMap }
  | { readonly kind: 'feed'; readonly feed: FeedShape }
  | { readonly kind: 'last'; readonly column: string }
  | { readonly kind: 'attribute'; readonly table: string | null; readonly columns: ReadonlyMap<string, ColumnShape> }
  | { readonly kind: 'template'; readonly template: Template; readonly holes: ReadonlyMap<string, Syntax>; readonly leavesOut: boolean };

/** What a call may ask of the world around the entry; each may still be waiting. */
export type FeedParams = Readonly<Record<string, Datum>>;
