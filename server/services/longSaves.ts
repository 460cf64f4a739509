import type { StoredLine, StoredRecord } from '../../core/engine/context.ts';
import type { Plan } from '../../core/engine/plan.ts';
import type { Edit } from '../../core/engine/state.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import { FeedFailure } from '../feeds/request';
import { publishedForm } from './forms';
import type { JobHandle } from './jobs';
import { type Played, replay } from './judging';
import type { Asker } from './owners';
import { Pace } from './pace';
import { type Outside, outsideOf } from './wants';
import { type LineOut, type WorkedOut, outOf } from './workedOut';
import type { Workspace } from './workspace';

/*
 * What a save writes is worked out here, where it is soon done; where there is very much of it, in a thread, so that nobody waits for it but
 * who saves. What goes there and what comes back does so in parts: to copy all of it at once would take as long as others may wait.
 */

/** A save of more edits, or of a record with more lines, is a long one. */
const LONG = 300;
/** How many edits, or lines, go at once. */
const PART = 100;
/** So many parts are on their way at once, so that the thread stands still for none. */
const AHEAD = 4;

/** By which form an entry is judged: its version, and the one that it was typed on. */
interface Published {
  readonly form: string;
  readonly plan: Plan;
  readonly version: number;
  readonly typedOn: number;
}

/** All that a save is to write; refused when the entry may not be saved. */
export async function workedOut(ws: Workspace, who: Asker, published: Published, played: Played): Promise<WorkedOut> {
  if (isLong(played)) return workedOutAside(ws, who, published, played);
  const entry = await replay(ws, who, published, played);
  const pace = new Pace();
  await pace.rest();
  return pace.through(outOf(entry));
}

const linesIn = (record: StoredRecord | null): number => Object.values(record?.lines ?? {}).reduce((sum, of) => sum + of.length, 0);
const isLong = ({ edits, record }: Played): boolean => edits.length > LONG || linesIn(record) > LONG;

/** A long save as its thread is told of it. What it has very many of, the thread asks for. */
export interface LongSave extends Pick<Published, 'form' | 'version' | 'typedOn'>, Pick<Played, 'opened' | 'now'> {
  readonly who: Asker;
  /** the record that is changed, without its lines */
  readonly record: Omit<StoredRecord, 'lines'> | null;
}
/** What the thread asks, or gives. Lists are asked for from a place on, until less than a part comes. */
type Said =
  | { readonly ask: 'edits'; readonly from: number }
  | { readonly ask: 'lines'; readonly group: string; readonly from: number }
  | { readonly ask: 'number'; readonly series: string }
  | { readonly ask: 'items'; readonly feed: string; readonly params: Readonly<Record<string, Datum>> }
  | { readonly give: readonly LineOut[]; readonly group: string };

async function workedOutAside(ws: Workspace, who: Asker, { form, version, typedOn }: Published, played: Played): Promise<WorkedOut> {
  const { edits, record, opened, now } = played;
  const outside: Outside = { ...outsideOf(ws), ...played.outside };
  const lines: Record<string, LineOut[]> = {};
  const answer = async (said: Said): Promise<unknown> => {
    if ('give' in said) return void (lines[said.group] ??= []).push(...said.give);
    if (said.ask === 'number') return outside.number(said.series);
    // what services answered is kept here, and here they are asked
    if (said.ask === 'items') return outside.items(said.feed, said.params).catch(failureOf);
    const all: readonly unknown[] = said.ask === 'edits' ? edits : (record?.lines?.[said.group] ?? []);
    return all.slice(said.from, said.from + PART);
  };
  const job: JobHandle = { at: () => undefined, give: (said) => answer(said as Said) };
  const asked: LongSave = {
    form,
    version,
    typedOn,
    opened,
    now,
    who,
    record: record && { values: record.values, origins: record.origins },
  };
  const out = await ws.work.run('save', asked, job);
  return { ...out, lines: { ...out.lines, ...lines } };
}

/** What a thread is told of a service that failed. */
function failureOf(e: unknown): { readonly failed: string } {
  if (e instanceof FeedFailure) return { failed: e.message };
  throw e;
}

/** What a long save writes, worked out in a thread: all but its lines, which are given part by part. */
export async function workOut(ws: Workspace, asked: LongSave, { give }: JobHandle): Promise<WorkedOut> {
  const say = (said: Said): Promise<unknown> => (give as NonNullable<typeof give>)(said);
  const all = async <T>(of: (from: number) => Said): Promise<T[]> => {
    const found: T[] = [];
    const coming: Promise<unknown>[] = [];
    for (let from = 0; ;) {
      for (; coming.length < AHEAD; from += PART) coming.push(say(of(from)));
      const part = (await coming.shift()) as readonly T[];
      found.push(...part);
      if (part.length === PART) continue;
      // what was asked for behind the last is nothing
      await Promise.all(coming);
      return found;
    }
  };
  const { who, form, version, typedOn, opened, now } = asked;
  const { plan } = await publishedForm(ws, form, version);
  const edits = await all<Edit>((from) => ({ ask: 'edits', from }));
  let record: StoredRecord | null = null;
  if (asked.record) {
    const lines: Record<string, StoredLine[]> = {};
    for (const { key } of plan.lines) lines[key] = await all((from) => ({ ask: 'lines', group: key, from }));
    record = { ...asked.record, lines };
  }
  const outside: Outside = {
    number: (series) => say({ ask: 'number', series }) as Promise<number>,
    async items(feed, params) {
      const told = (await say({ ask: 'items', feed, params })) as readonly Row[] | ReturnType<typeof failureOf>;
      if ('failed' in told) throw new FeedFailure(told.failed, false);
      return told;
    },
  };
  const entry = await replay(ws, who, { plan, version, typedOn }, { record, edits, opened, now, outside });
  const out = await new Pace().through(outOf(entry));
  const going: Promise<unknown>[] = [];
  for (const [group, of] of Object.entries(out.lines))
    for (let i = 0; i < of.length; i += PART) {
      if (going.length >= AHEAD) await going.shift();
      going.push(say({ give: of.slice(i, i + PART), group }));
    }
  await Promise.all(going);
  return { ...out, lines: Object.fromEntries(Object.keys(out.lines).map((group) => [group, []])) };
}
