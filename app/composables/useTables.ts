import type { Column, Subset } from '~~/core/form/tables.ts';

export interface TableSummary {
  readonly key: string;
  readonly label: string;
  readonly shown: string | null;
  readonly columns: readonly Column[];
  readonly rows: number;
  readonly large: boolean;
  readonly subsets?: readonly Subset[];
  readonly children: readonly { readonly table: string; readonly column: string }[];
}

/** All tables of the workspace with counts and children. */
export const fetchTables = (): Promise<TableSummary[]> => api<TableSummary[]>('tables');
