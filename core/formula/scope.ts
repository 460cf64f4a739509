import type { Type } from './types.ts';

/** Where a name's value is read from at run time. */
export type Source =
  { readonly kind: 'slot'; readonly slot: number } | { readonly kind: 'candidate' } | { readonly kind: 'me' } | { readonly kind: 'entry' };

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

/** The names a formula may use, and the tables their paths lead through. */
export interface Scope {
  readonly bindings: ReadonlyMap<string, Binding>;
  readonly tables: ReadonlyMap<string, TableShape>;
}

export const withBinding = (scope: Scope, binding: Binding): Scope => ({
  tables: scope.tables,
  bindings: new Map(scope.bindings).set(binding.name, binding),
});
