import type { Split } from '../../core/engine/split.ts';
import type { Column, Subset } from '../../core/model/tables.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import type { Database } from './connection';

/** Rows of one column that a repair changed, each with what stood there. */
export interface Moved {
  readonly table: string;
  readonly column: string;
  readonly rows: readonly (readonly [id: number, was: Datum, is: Datum])[];
}
/** What a repair did, so that it can be undone: values that were changed, rows that were merged into another, columns that were split off. */
export interface RepairDone {
  readonly moved: readonly Moved[];
  readonly dropped: readonly Row[];
  readonly split?: SplitDone;
}
/** Columns that became tables of their own, with what stood in them and which drafts and subsets were written anew. */
export interface SplitDone {
  readonly groups: readonly {
    readonly split: Split;
    readonly by: Column;
    readonly columns: readonly Column[];
    /** the columns of the table before, in their order */
    readonly order: readonly string[];
    /** by row: its number, the row it links to since, what stood in `by`, what stood in each of `columns` */
    readonly rows: readonly (readonly [id: number, link: number | null, by: Datum, ...columns: Datum[]])[];
  }[];
  readonly drafts: readonly { readonly form: string; readonly revision: number; readonly before: string }[];
  readonly subsets: readonly { readonly table: string; readonly before: readonly Subset[]; readonly after: readonly Subset[] }[];
}
export interface Repair extends RepairDone {
  readonly id: number;
  readonly table: string;
  readonly undone: boolean;
}

/** Notes what a repair did; gives its number. Call inside the transaction of the repair. */
export async function noteRepair(db: Database, table: string, account: number, at: string, done: RepairDone): Promise<number> {
  const [id] = (await db('repairs').insert({ table_key: table, account_id: account, at, done: JSON.stringify(done) })) as number[];
  return id as number;
}
export async function repairById(db: Database, id: number): Promise<Repair | null> {
  const [row] = (await db('repairs').where({ id })) as { id: number; table_key: string; undone_at: string | null; done: string }[];
  return row ? { id: row.id, table: row.table_key, undone: row.undone_at !== null, ...(JSON.parse(row.done) as RepairDone) } : null;
}
export const markUndone = async (db: Database, id: number, at: string): Promise<void> =>
  void (await db('repairs').where({ id }).update({ undone_at: at }));
