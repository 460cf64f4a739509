import type { Result } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { type Column, targetOf } from '../../core/model/tables.ts';
import { apart } from '../../core/values/text.ts';
import type { Datum } from '../../core/values/types.ts';
import type { RowStamp } from '../database/rows';
import { Packing } from '../database/staging';
import { type FileAt, openImport } from '../imports/files';
import { Refused } from './errors';
import { type ImportPlan, type LinkKeys, goalOf, readerOf } from './importReaders';
import type { JobHandle } from './jobs';
import { Pace } from './pace';
import type { Workspace } from './workspace';

/*
 * Going through a file: its texts are taken apart, read as values and packed as they are stored, where nobody waits for it. What has to be
 * written is handed on, part by part.
 */

/** A row of a file whose link leads to a row that is to be added. */
export interface Pending {
  readonly row: number;
  readonly column: Column;
  readonly text: string;
}

export type ImportCheck = Result<typeof contract.imports.check>;
type BadValue = ImportCheck['bad'][number];
const MOST_BAD = 200;

export interface PassAsked {
  readonly plan: ImportPlan;
  readonly file: FileAt;
  readonly keys: LinkKeys;
  /** what the rows are stamped with that are handed on; null only looks */
  readonly stamp: RowStamp | null;
}
export interface Passed extends ImportCheck {
  readonly pending: readonly Pending[];
  /** links between the rows of the file, by column and line */
  readonly within: ReadonlyMap<string, ReadonlyMap<number, number>>;
}

/** Goes through a file once. Rows are handed on packed, to be written while it goes on, until something does not fit. */
export async function passOver(ws: Workspace, { plan, file: at, keys, stamp }: PassAsked, job: JobHandle): Promise<Passed> {
  const file = await openImport(at.name, at.source);
  const goal = await goalOf(ws, plan, file);
  const packing = stamp && new Packing(goal.used, stamp);
  const handing = new Handing(job);
  const bad: BadValue[] = [];
  let badCount = 0;
  const readers = await Promise.all(
    goal.columns.map((column) =>
      column
        ? readerOf(ws, column, plan, keys, (line, text, message) => {
            badCount++;
            if (bad.length < MOST_BAD) bad.push({ line, column: column.key, text: text.slice(0, 60), message });
          })
        : null,
    ),
  );
  const used = readers.flatMap((reader, at) => (reader ? [{ reader, at }] : []));
  const inside = used.flatMap(({ reader, at }) => {
    const { within } = reader;
    // where the columns stand that say which row is meant
    return within ? [{ within, at, by: within.by.map((key) => plan.columns.findIndex((c) => c?.key === key)) }] : [];
  });
  const pending: Pending[] = [];
  const pace = new Pace();
  let rows = 0;
  for await (const batch of file.lines()) {
    for (const cells of batch) {
      rows++;
      const values = new Array<Datum>(used.length);
      for (let i = 0; i < used.length; i++) {
        const { reader, at } = used[i] as (typeof used)[number];
        values[i] = reader.read(cells[at] as string, rows + 1) ?? null;
      }
      for (const { within, at, by } of inside) {
        within.row(rows, by.map((i) => cells[i] as string).join(' '));
        if ((cells[at] as string).trim() !== '') within.link(rows, cells[at] as string);
      }
      if (!packing || badCount) continue;
      const row = packing.put(values);
      for (const { reader, at } of used)
        if (reader.adds(cells[at] as string)) pending.push({ row, column: reader.column, text: apart(cells[at] as string) });
    }
    if (packing?.full) await handing.on(packing.take());
    job.at(file.read() * 0.95, packing ? 'reading and writing' : 'looking');
    await pace.rest();
  }
  if (!rows) throw new Refused(422, 'file', 'The file has a header line but no rows.', {});
  if (packing && !badCount) await handing.on(packing.take());
  await handing.done();
  const unmatched = Object.fromEntries(
    used.filter(({ reader }) => targetOf(reader.column)).map(({ reader }) => [reader.column.key, reader.unmatched()]),
  );
  const within = new Map(used.flatMap(({ reader }) => (reader.within ? [[reader.column.key, reader.within.links()]] : [])));
  return { rows, bad, badCount, unmatched, pending, within };
}

/** Hands parts on, one after the other: the next is made while the last is being taken. */
class Handing {
  private last: Promise<unknown> = Promise.resolve();
  constructor(private readonly job: JobHandle) {}

  async on(part: unknown): Promise<void> {
    await this.last;
    this.last = this.job.give?.(part) ?? Promise.resolve();
    // told by whoever waits for it next, not as nobody's
    this.last.catch(() => undefined);
  }
  done = (): Promise<unknown> => this.last;
}
