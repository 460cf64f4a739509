import type { Given, Over } from '~~/core/engine/backfill.ts';
import type { Column } from '~~/core/form/tables.ts';

export type { Given, Over } from '~~/core/engine/backfill.ts';

export type BackfillRecordState = 'proposed' | 'refused' | 'written' | 'skipped' | 'putBack';
export interface BackfillView {
  readonly id: number;
  readonly version: number;
  readonly asked: { readonly fields: readonly string[]; readonly over: Over; readonly subset: string | null };
  readonly state: 'previewed' | 'applied' | 'undone';
  readonly looked: number;
  readonly by: string;
  readonly appliedAt: string | null;
  readonly undoneAt: string | null;
  readonly records: Readonly<Record<BackfillRecordState, number>>;
  readonly current: boolean;
}
export interface BackfillOffer {
  readonly form: string;
  readonly version: number;
  readonly records: number;
  readonly fields: readonly {
    readonly field: string;
    readonly label: string;
    readonly lines: string | null;
    readonly kind: string;
    readonly formula: string;
  }[];
  readonly subsets: readonly { readonly key: string; readonly label: string }[];
  readonly earlier: readonly BackfillView[];
}
export interface BackfillPage {
  readonly rows: readonly {
    readonly row: number;
    readonly text: string;
    readonly state: BackfillRecordState;
    readonly given: readonly Given[];
    readonly problem: string | null;
  }[];
  readonly total: number;
  readonly fields: Readonly<
    Record<
      string,
      {
        readonly label: string;
        readonly lines: string | null;
        readonly column: Column | null;
        readonly options: Readonly<Record<string, string>>;
      }
    >
  >;
  readonly linked: Readonly<Record<string, Record<number, string>>>;
}
