import { narrowingOf } from '../../core/choices/narrowing.ts';
import { subsetScope } from '../../core/choices/subsets.ts';
import { isDatum } from '../../core/formula/errors.ts';
import { formula } from '../../core/formula/formula.ts';
import { shapesOf } from '../../core/model/tables.ts';
import { YESNO } from '../../core/values/typing.ts';
import { Lookup } from '../database/lookups';
import { type ColumnsRead, type EntryRow, entryRows, rowAfter } from '../database/rows';
import { Refused } from './errors';
import { type JobHandle } from './jobs';
import { NOBODY } from './owners';
import { othersFirst } from './pace';
import { type RelatedRows, outsideEnv, readRelated } from './wants';
import type { Workspace } from './workspace';

/*
 * The records of a table in parts, so that several threads go through them beside each other: which part is done where, and in which
 * order what comes of them is kept.
 */

/** Records read at once. */
export const PAGE = 500;
/** The most records of one part. */
const MOST = 4000;
/** How long all that comes of one part may be, in characters, before it ends early: it is held in memory until it is kept. */
export const MOST_FOUND = 16e6;

/** Some records of a table: those with numbers after one and up to another, a stretch of a subset, or those named. */
export type Part =
  | { readonly after: number; readonly until: number | null }
  | { readonly subset: string; readonly offset: number; readonly limit: number }
  | { readonly rows: readonly number[] };
export const EVERY: Part = { after: 0, until: null };

/** Which records: of a subset of the table, these very ones, or all. */
export interface Which {
  readonly subset: string | null;
  readonly rows?: readonly number[] | null | undefined;
}

/** The records of a part, a page at a time; `read` tells which columns of the next. Throws Refused when there is no such subset. */
export async function* recordPages(
  ws: Workspace,
  key: string,
  part: Part,
  read: () => ColumnsRead = () => undefined,
): AsyncGenerator<readonly EntryRow[]> {
  const table = await ws.modelTable(key);
  if ('rows' in part) {
    for (let i = 0; i < part.rows.length; i += PAGE) yield await entryRows(ws.db, table, { ids: part.rows.slice(i, i + PAGE) }, read());
    return;
  }
  if ('after' in part) {
    for (let after = part.after; ;) {
      const rows = await entryRows(ws.db, table, { after, until: part.until, limit: PAGE }, read());
      if (rows.length) yield rows;
      if (rows.length < PAGE) return;
      after = rows.at(-1)!.row.id;
    }
  }
  const subset = (table.subsets ?? []).find((s) => s.key === part.subset);
  if (!subset) throw new Refused(422, 'values', `${table.label} has no subset “${part.subset}”.`, {});
  const tables = await ws.tables();
  const related: RelatedRows = new Map();
  const env = outsideEnv(ws, NOBODY, related);
  const narrowing = narrowingOf(formula(subset.condition, subsetScope({ tables: shapesOf(tables) }, table.key), YESNO));
  const lookup = new Lookup(ws.db, table, { narrowing, sort: [], search: [] }, env);
  const params = narrowing.params.map((p) => {
    const value = p.run(env);
    return isDatum(value) ? value : null;
  });
  if (lookup.asksInMemory({ params, open: [] })) await readRelated(ws, tables, related, NOBODY);
  const end = part.offset + part.limit;
  for (let offset = part.offset; offset < end; offset += PAGE) {
    const { rows, more } = await lookup.page({ params, open: [] }, '', offset, Math.min(PAGE, end - offset));
    if (rows.length) yield await entryRows(ws.db, table, { ids: rows.map((r) => r.id) }, read());
    if (!more) return;
  }
}

/** Records in parts of about `size`, in their order. Of a subset parts are given on and on: the first that holds fewer is the last. */
async function* partsOf(ws: Workspace, table: string, { subset, rows }: Which, size: number): AsyncGenerator<Part> {
  if (rows) for (let i = 0; i < rows.length; i += size) yield { rows: rows.slice(i, i + size) };
  else if (subset !== null) for (let offset = 0; ; offset += size) yield { subset, offset, limit: size };
  else
    for (let after = 0; ;) {
      const until = await rowAfter(ws.db, table, after, size);
      yield { after, until };
      if (until === null) return;
      after = until;
    }
}

/** What a part came to: how many records it held, what is to be kept of them, and what the next part goes on with, where it needs that. */
export interface PartDone<R, C = null> {
  readonly looked: number;
  readonly found: readonly R[];
  readonly carry: C;
  /** what of the part was not looked at, where so much was found that it ended early */
  readonly rest?: Part | undefined;
}

/** What is left of a part when so many of its records were looked at, the last of them with this number. */
export function restOf(part: Part, looked: number, last: number): Part {
  if ('rows' in part) return { rows: part.rows.slice(looked) };
  return 'after' in part ? { after: last, until: part.until } : { ...part, offset: part.offset + looked, limit: part.limit - looked };
}
export interface Walk<R, C> {
  readonly table: string;
  readonly which: Which;
  /** about how many records there are */
  readonly total: number;
  /** what the first part begins with; where each part goes on with what the one before came to, they are done one after the other */
  readonly carry: C;
  readonly oneByOne: boolean;
  /** computes a part; its job is told how many records it has looked at */
  compute(part: Part, carry: C, job: JobHandle): Promise<PartDone<R, C>>;
  /** keeps what was found, in the order of the records */
  keep(found: readonly R[]): Promise<void>;
}

/** What is kept at once, so that nobody waits long for the main thread. */
const KEPT_AT_ONCE = 200;

/**
 * Goes through records in parts, as many beside each other as there are threads for it, and keeps what comes of them in their order. Gives
 * how many were looked at. When one part fails, or the job is cancelled, the others are ended and it throws.
 */
export async function inParts<R, C>(ws: Workspace, walk: Walk<R, C>, job: JobHandle): Promise<number> {
  const atOnce = walk.oneByOne ? 1 : ws.work.atOnce;
  const size = Math.min(MOST, Math.max(PAGE, Math.ceil(walk.total / (atOnce * 4))));
  // what came of one may wait while an earlier part is still at work, so that no thread does: they are taken in their order
  const ahead = walk.oneByOne ? 1 : atOnce + 1;
  const computing = new Set<Promise<unknown>>();
  const stop = new AbortController();
  const signal = job.signal ? AbortSignal.any([job.signal, stop.signal]) : stop.signal;
  const shares = new Map<number, number>();
  const tell = (): void => {
    const done = [...shares.values()].reduce((a, b) => a + b, 0);
    job.at(Math.min(1, done / walk.total), `looking at record ${Math.min(done + 1, walk.total)} of about ${walk.total}`);
  };
  let looked = 0;
  let carry = walk.carry;
  let isLast = false;
  const running: Promise<PartDone<R, C>>[] = [];
  const keepAll = async (found: readonly R[]): Promise<void> => {
    for (let i = 0; i < found.length; i += KEPT_AT_ONCE) {
      await walk.keep(found.slice(i, i + KEPT_AT_ONCE));
      await othersFirst();
      tell();
    }
  };
  // what came of one part is kept while the next are computed; no more than one waits for that, since it is held in memory
  let keeping = Promise.resolve();
  const take = async (): Promise<void> => {
    let own = 0;
    for (let next: Promise<PartDone<R, C>> | null = running.shift() as Promise<PartDone<R, C>>; next;) {
      const done: PartDone<R, C> = await next;
      own += done.looked;
      carry = done.carry;
      await keeping;
      keeping = keepAll(done.found);
      keeping.catch(() => undefined);
      // what comes behind it in the order of the records waits until the part is done
      next = done.rest ? walk.compute(done.rest, carry, { at: () => tell(), signal }) : null;
    }
    looked += own;
    if (walk.which.subset !== null && own < size) isLast = true;
  };
  try {
    let no = 0;
    for await (const part of partsOf(ws, walk.table, walk.which, size)) {
      while (running.length >= ahead) await take();
      while (computing.size >= atOnce) await Promise.race(computing);
      if (isLast) break;
      const own = no++;
      const at = (records: number): void => {
        shares.set(own, records);
        tell();
      };
      const done = walk.compute(part, carry, { at, signal });
      // one that fails while another is awaited, here or in keeping, is met when its turn comes
      const ended: Promise<unknown> = done.catch(() => undefined).then(() => computing.delete(ended));
      computing.add(ended);
      running.push(done);
    }
    while (running.length) await take();
    await keeping;
    return looked;
  } catch (e) {
    stop.abort();
    await Promise.allSettled([...running, keeping]);
    throw e;
  }
}
