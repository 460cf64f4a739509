import type { ValueMap } from './extras.ts';
import type { Type } from '../values/typing.ts';

/** Where a name's value is read from at run time. */
export type Source =
  /**
   * A field's value. `slot` is its number in the plan; `at` its place among the values of its own frame (the form, or a
   * line), where that differs; `outer` when a line's formula reads a field of the form.
   */
  | { readonly kind: 'slot'; readonly slot: number; readonly at?: number; readonly outer?: boolean }
  /** all lines of a group; `columns` gives the place of each line field, `first` the slot of the first */
  | { readonly kind: 'lines'; readonly group: number; readonly first: number; readonly columns: ReadonlyMap<string, number> }
  | { readonly kind: 'candidate' }
  /** the row that PICK or GATHER looks at: `choice` inside their condition */
  | { readonly kind: 'picked' }
  /** the one of a list that ANYOF and its kin look at: `each` inside their condition; `lines` when the list is a group of lines */
  | { readonly kind: 'each'; readonly lines: Extract<Source, { kind: 'lines' }> | null }
  /** my record of this form saved last */
  | { readonly kind: 'last' }
  | { readonly kind: 'me' }
  | { readonly kind: 'entry' }
  /** the record this entry was opened under */
  | { readonly kind: 'parent' }
  /** on edit, the stored values by column */
  | { readonly kind: 'before'; readonly columns: ReadonlyMap<string, string> };

/** What a name stands for where a formula is written. */
export interface Binding {
  readonly name: string;
  readonly label: string;
  readonly type: Type;
  readonly source: Source;
}

export interface ColumnShape {
  readonly key: string;
  readonly label: string;
  readonly type: Type;
}

/** What the checker needs to know of a table. */
export interface TableShape {
  readonly key: string;
  readonly label: string;
  /** the column that names a row to people */
  readonly shown: string | null;
  readonly columns: ReadonlyMap<string, ColumnShape>;
}

/** A feed as a formula asks it. */
export interface FeedShape {
  readonly key: string;
  readonly label: string;
  readonly params: readonly { readonly key: string; readonly label: string; readonly type: Type; readonly required: boolean }[];
  readonly members: ReadonlyMap<string, Type>;
}

/** The names a formula may use, and the tables their paths lead through. */
export interface Scope {
  readonly bindings: ReadonlyMap<string, Binding>;
  readonly tables: ReadonlyMap<string, TableShape>;
  readonly feeds?: ReadonlyMap<string, FeedShape>;
  readonly maps?: ReadonlyMap<string, ValueMap>;
}

export const withBinding = (scope: Scope, binding: Binding): Scope => ({
  ...scope,
  bindings: new Map(scope.bindings).set(binding.name, binding),
});
