import type { Column, Tables } from '../../core/model/tables.ts';
import { readRaw } from '../database/reading';
import { type BackfillPart, computeBackfill } from '../services/backfillPreview';
import { type ReadyAsked, readyToWrite } from '../services/backfillWrite';
import { findBreakages, findFormsByFeed } from '../services/breakage';
import { type ImpactInput, computeImpact } from '../services/impact';
import { countCoverage } from '../services/coverage';
import type { FileAt } from '../imports/files';
import { type Guess, guessColumns } from '../services/importGuess';
import { type PassAsked, passOver } from '../services/importPass';
import { type FillsAsked, countFills } from '../services/evidence';
import { type ExportAsked, makeExport } from '../services/exported';
import { type LongSave, workOut } from '../services/longSaves';
import { findProposals } from '../services/proposals';
import { type RehearsalsAsked, performRehearsals } from '../services/rehearsals';
import { type Conversion, previewConversion } from '../services/retyping';
import { findTogether } from '../services/together';
import { type ReshapeAsked, reshapeNow } from './reshapes';
import type { Workspace } from '../services/workspace';
import type { JobHandle } from '../services/jobs';

/** Every task, by name. Inputs and results are plain data: they go from thread to thread. */
export const TASKS = {
  /** One statement that only reads. */
  sql: (ws: Workspace, { sql, bindings }: { sql: string; bindings: readonly (string | number | null)[] }, _: JobHandle) =>
    readRaw(ws.db, sql, bindings),
  /** Something that makes tables others. */
  reshape: (ws: Workspace, asked: ReshapeAsked, _: JobHandle) => reshapeNow(ws, asked),
  /** What saving an entry of very many lines writes, handed on part by part. */
  save: (ws: Workspace, asked: LongSave, job: JobHandle) => workOut(ws, asked, job),
  /** Every cascade of a form's draft with its counts, and names that differ only in spelling. */
  coverage: (ws: Workspace, { form }: { form: string }, job: JobHandle) => countCoverage(ws, form, job),
  /** What a backfill would give some of the records. */
  backfill: (ws: Workspace, input: BackfillPart, job: JobHandle) => computeBackfill(ws, input, job),
  /** Some records of a backfill as they are to be written. */
  backfillReady: (ws: Workspace, input: ReadyAsked, _: JobHandle) => readyToWrite(ws, input),
  /** What a draft would do to some of the records that exist. */
  impact: (ws: Workspace, input: ImpactInput, job: JobHandle) => computeImpact(ws, input, job),
  /** How well the fills of a form work, counted over its history. */
  fillsUse: (ws: Workspace, { form, asked }: { form: string; asked: FillsAsked }, job: JobHandle) => countFills(ws, form, asked, job),
  /** What the records of a form propose for it. */
  proposals: (ws: Workspace, { form }: { form: string }, job: JobHandle) => findProposals(ws, form, job),
  /** Columns of a table that come together. */
  together: (ws: Workspace, { table }: { table: string }, job: JobHandle) => findTogether(ws, table, job),
  /** Rehearsals of a form, with what came of each step. */
  rehearse: (ws: Workspace, input: RehearsalsAsked & { form: string }, job: JobHandle) => performRehearsals(ws, input, job),
  /** The rows of a file as a table takes them, handed on part by part; and what does not fit. */
  importPass: (ws: Workspace, input: PassAsked, job: JobHandle) => passOver(ws, input, job),
  /** What the columns of a file seem to be. */
  importGuess: (ws: Workspace, { file, into }: { file: FileAt; into: string | null }, job: JobHandle): Promise<Guess> =>
    guessColumns(ws, file, into, job),
  /** A file to keep, handed on part by part. */
  export: (ws: Workspace, asked: ExportAsked, job: JobHandle) => makeExport(ws, asked, job),
  /** The errors that forms would gain with other tables. */
  breakages: (ws: Workspace, { tables }: { tables: Tables }, _: JobHandle) => findBreakages(ws, tables),
  /** By feed, the forms that ask it. */
  formsByFeed: (ws: Workspace, __: object, _: JobHandle) => findFormsByFeed(ws),
  /** What another type would make of a column's values. */
  retype: (ws: Workspace, input: { table: string; from: Column; to: Column }, job: JobHandle): Promise<Conversion> =>
    previewConversion(ws, input, job),
};
export type Tasks = typeof TASKS;
