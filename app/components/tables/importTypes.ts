import type { ColumnType } from '~~/core/form/tables.ts';

export interface ImportColumn {
  header: string;
  key: string;
  label: string;
  type: ColumnType;
  target: string | null;
  examples: string[];
  filled: number;
  distinct: number;
  known: boolean;
  take: boolean;
}
export interface ImportGuess {
  label: string;
  key: string;
  shown: string | null;
  columns: ImportColumn[];
  rows: number;
}
export interface PackageLook {
  readonly tables: readonly { readonly key: string; readonly label: string; readonly columns: number; readonly links: readonly string[] }[];
}
export interface UnmatchedText {
  readonly value: string;
  readonly count: number;
  readonly firstLine: number;
  readonly near: readonly { readonly id: number; readonly text: string }[];
}
export interface ImportCheck {
  readonly rows: number;
  readonly bad: readonly { readonly line: number; readonly column: string; readonly text: string; readonly message: string }[];
  readonly badCount: number;
  readonly unmatched: Readonly<Record<string, readonly UnmatchedText[]>>;
}
export type Repair = { to: number } | { empty: true } | { add: true };
export type Repairs = Record<string, Record<string, Repair>>;

export const importTarget = (c: Pick<ImportColumn, 'type' | 'target'>): string | null =>
  c.type === 'person' ? 'people' : c.type === 'link' || c.type === 'links' ? c.target : null;
