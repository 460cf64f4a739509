import type { Column } from '../../core/model/tables.ts';
import type { BackfillAsked, BackfillRecord } from '../database/backfills';
import type { ImpactRow } from '../database/impacts';
import { readRaw } from '../database/reading';
import { computeBackfill } from '../services/backfillPreview';
import { type ImpactInput, computeImpact } from '../services/impact';
import { countCoverage } from '../services/coverage';
import { type FillsAsked, countFills } from '../services/evidence';
import { findProposals } from '../services/proposals';
import { type RehearsalsAsked, performRehearsals } from '../services/rehearsals';
import { type Conversion, previewConversion } from '../services/retyping';
import { findTogether } from '../services/together';
import type { Workspace } from '../services/workspace';
import type { Out } from './working';

/** Every task, by name. Input, batches and results are plain data: they go from thread to thread. */
export const TASKS = {
  /** One statement that only reads. */
  sql: (ws: Workspace, { sql, bindings }: { sql: string; bindings: readonly (string | number | null)[] }, _: Out<never>) =>
    readRaw(ws.db, sql, bindings),
  /** Every cascade of a form's draft with its counts, and names that differ only in spelling. */
  coverage: (ws: Workspace, { form }: { form: string }, out: Out<never>) => countCoverage(ws, form, out),
  /** What a backfill would give, record by record; gives how many records it looked at. */
  backfill: (
    ws: Workspace,
    input: { form: string; version: number; asked: BackfillAsked },
    out: Out<readonly Omit<BackfillRecord, 'id'>[]>,
  ) => computeBackfill(ws, input, out),
  /** What a draft would do to the records that exist; gives how many it looked at. */
  impact: (ws: Workspace, input: ImpactInput, out: Out<readonly ImpactRow[]>) => computeImpact(ws, input, out),
  /** How well the fills of a form work, counted over its history. */
  fillsUse: (ws: Workspace, { form, asked }: { form: string; asked: FillsAsked }, out: Out<never>) => countFills(ws, form, asked, out),
  /** What the records of a form propose for it. */
  proposals: (ws: Workspace, { form }: { form: string }, out: Out<never>) => findProposals(ws, form, out),
  /** Columns of a table that come together. */
  together: (ws: Workspace, { table }: { table: string }, out: Out<never>) => findTogether(ws, table, out),
  /** Rehearsals of a form, with what came of each step. */
  rehearse: (ws: Workspace, input: RehearsalsAsked & { form: string }, out: Out<never>) => performRehearsals(ws, input, out),
  /** What another type would make of a column's values. */
  retype: (ws: Workspace, input: { table: string; from: Column; to: Column }, out: Out<never>): Promise<Conversion> =>
    previewConversion(ws, input, out),
};
export type Tasks = typeof TASKS;
