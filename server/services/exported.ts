import { Readable } from 'node:stream';
import type { View } from '../../core/choices/views.ts';
import type { Account } from '../database/accounts';
import { workspaceArchive } from './archiveOut';
import { type ToExport, exportCsv, exportJson, exportXlsx, wholeTable } from './exports';
import { impactCsv } from './impactView';
import { Cancelled, type JobHandle } from './jobs';
import { exportPackage } from './packages';
import { recordsToExport } from './records';
import type { Workspace } from './workspace';

/*
 * Files to keep, made in a thread and sent as they are made: rows are read, written out and packed where nobody waits for it. Whoever takes
 * a file slowly keeps the thread that makes it, so that little is made ahead of them, and somebody who takes nothing any more is let go.
 */

/** What is to be written out; plain data, since it goes from thread to thread. */
export type ExportAsked =
  | { readonly what: 'table'; readonly table: string; readonly as: 'csv' | 'json' | 'xlsx' | 'package' }
  | { readonly what: 'records'; readonly account: Account; readonly form: string; readonly view: View; readonly search: string; readonly as: 'csv' | 'xlsx' } // prettier-ignore
  | { readonly what: 'impact'; readonly form: string; readonly id: number }
  | { readonly what: 'tables' }
  | { readonly what: 'workspace' };

type Pieces = AsyncIterable<string | Uint8Array>;

/** The pieces of a file, in their order. Throws Refused where it cannot be made. */
async function piecesOf(ws: Workspace, asked: ExportAsked): Promise<Pieces> {
  if (asked.what === 'workspace') return workspaceArchive(ws);
  if (asked.what === 'tables')
    return exportPackage(
      ws,
      (await ws.modelTables()).map((t) => t.key),
    );
  if (asked.what === 'impact') return impactCsv(ws, asked.form, asked.id);
  if (asked.what === 'records')
    return written(ws, await recordsToExport(ws, asked.account, asked.form, asked.view, asked.search), asked.as);
  const whole = await wholeTable(ws, asked.table);
  return asked.as === 'package' ? exportPackage(ws, [whole.table.key]) : written(ws, whole, asked.as);
}
const written = (ws: Workspace, taken: ToExport, as: 'csv' | 'json' | 'xlsx'): Pieces | Promise<Pieces> =>
  as === 'csv' ? exportCsv(ws, taken) : as === 'json' ? exportJson(ws, taken) : exportXlsx(ws, taken);

/** How much of a file goes from thread to thread at once, in bytes. */
const PART = 65_536;
/** Makes a file and hands it on in parts. Throws Refused before the first of them where it cannot be made. */
export async function makeExport(ws: Workspace, asked: ExportAsked, job: JobHandle): Promise<void> {
  let pieces: Uint8Array[] = [];
  let size = 0;
  const handOn = async (): Promise<void> => {
    // where no thread is ended for it
    if (job.signal?.aborted) throw new Cancelled();
    await job.give?.(Buffer.concat(pieces));
    [pieces, size] = [[], 0];
  };
  for await (const piece of await piecesOf(ws, asked)) {
    const bytes = typeof piece === 'string' ? Buffer.from(piece) : piece;
    pieces.push(bytes);
    size += bytes.length;
    if (size >= PART) await handOn();
  }
  await handOn();
}

/** How much is made ahead of whoever takes it, in bytes; and how long they may take nothing before they are let go, in ms. */
const AHEAD = 2_000_000;
const STALLED = 120_000;

/** A file as a stream, once its first part is there. Throws Refused where it cannot be made. Destroyed, what makes it ends. */
export async function exported(ws: Workspace, asked: ExportAsked, stalled = STALLED): Promise<Readable> {
  const stop = new AbortController();
  let goOn: (() => void) | null = null;
  const file = new Readable({
    highWaterMark: AHEAD,
    read: () => goOn?.(),
    destroy(error, done) {
      stop.abort();
      goOn?.();
      done(error);
    },
  });
  // whoever takes it may not be there yet when it breaks off
  file.on('error', () => undefined);
  await new Promise<void>((begun, refused) => {
    const give = async (part: unknown): Promise<void> => {
      begun();
      if (file.destroyed || file.push(part)) return;
      const late = setTimeout(() => file.destroy(new Error('Nobody took what was exported.')), stalled);
      await new Promise<void>((taken) => (goOn = taken));
      goOn = null;
      clearTimeout(late);
    };
    ws.work.run('export', asked, { at: () => undefined, give, signal: stop.signal }).then(
      () => file.push(null),
      (e: unknown) => {
        // told before the first part; after it, all that can be done is to break off
        refused(e as Error);
        file.destroy(e as Error);
      },
    );
  });
  return file;
}
