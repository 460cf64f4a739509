import type { DataCache } from '../../core/engine/cache.ts';
import type { StoredLine, StoredRecord } from '../../core/engine/context.ts';
import { type Entry, openEntry } from '../../core/engine/entry.ts';
import type { Extent } from '../../core/engine/extent.ts';
import { wantsNeeded } from '../../core/engine/needed.ts';
import type { Plan } from '../../core/engine/plan.ts';
import type { StraightContext } from '../../core/engine/straight.ts';
import { type Want, batches, wantKey } from '../../core/engine/wants.ts';
import type { WorkCalendar } from '../../core/formula/functions/define.ts';
import { NOTHING_NOTED, type Origins } from '../../core/model/noted.ts';
import { whoOfAccounts } from '../database/accounts';
import { notedOf } from '../database/origins';
import { type ColumnsRead, type EntryRow, entryRows, linesOfRows } from '../database/rows';
import { nextNumber } from '../database/series';
import { NOBODY } from './owners';
import { workCalendar } from './settings';
import { answerWants } from './wants';
import type { Workspace } from './workspace';

/* Many records opened as entries at once, with nobody looking: for backfills, and for what a draft would do. */

/** Records gone through together, so that what they want is asked together. */
export const TOGETHER = 100;

/** A record as it is stored, its lines with the revisions of their rows. */
export interface ReadRecord {
  readonly row: EntryRow;
  readonly record: StoredRecord;
  readonly lineRevisions: ReadonlyMap<number, number>;
  /** whether all of it was read; or only some columns, and no lines, which is enough for the straight way */
  readonly isWhole: boolean;
}
const NO_REVISIONS: ReadonlyMap<number, number> = new Map();
/** Reads what belongs to some rows: where their values came from, and, where they are whole, the lines of a plan. */
export async function readRecords(ws: Workspace, plan: Plan, rows: readonly EntryRow[], isWhole = true): Promise<ReadRecord[]> {
  const ids = rows.map((r) => r.row.id);
  const noted = await notedOf(ws.db, plan.form.table, ids);
  const originsOf = ({ row }: EntryRow): Origins => (noted.get(row.id) ?? NOTHING_NOTED).origins;
  if (!isWhole || !plan.lines.length)
    return rows.map((row) => ({ row, record: { values: row.row, origins: originsOf(row) }, lineRevisions: NO_REVISIONS, isWhole }));
  const lines = new Map(ids.map((id): [number, Record<string, StoredLine[]>] => [id, {}]));
  const revisions = new Map(ids.map((id): [number, Map<number, number>] => [id, new Map()]));
  for (const { key, definition } of plan.lines) {
    const table = await ws.modelTable(definition.table);
    for (const { parent, row, revision } of await linesOfRows(ws.db, table, definition.link, ids, definition.order)) {
      (lines.get(parent)![key] ??= []).push({ id: row.id, values: row, origins: noted.get(parent)?.lines.get(row.id) });
      revisions.get(parent)!.set(row.id, revision);
    }
  }
  return rows.map((row) => ({
    row,
    record: { values: row.row, origins: originsOf(row), lines: lines.get(row.row.id)! },
    lineRevisions: revisions.get(row.row.id)!,
    isWhole,
  }));
}

/** Whether two plans read the same of rows. */
export const readAlike = (one: Plan, other: Plan): boolean => linesRead(one) === linesRead(other);
const linesRead = ({ form, lines }: Plan): string =>
  JSON.stringify([form.table, lines.map(({ key, definition: { table, link, order } }) => [key, table, link, order])]);

/** A record that was gone through, and what came of it. */
export interface DoneRecord<T> extends ReadRecord {
  readonly outcome: T;
  /** the numbers of series that its values rest on, by series */
  readonly series: ReadonlyMap<string, number>;
}
/** Who is asked for a record, and when. */
interface EnteredBy extends StraightContext {
  readonly cache: DataCache;
}
/** A record that is open. */
interface OpenRecord<T> {
  /** its place among those gone through together */
  readonly place: number;
  readonly read: ReadRecord;
  readonly me: number | null;
  readonly entry: Entry;
  readonly steps: Generator<void, T>;
}

/** What a record comes to where nobody need open it as an entry; null where somebody must (see `Straight`). */
export interface StraightWay<T> {
  /** all it looks at of what is stored */
  readonly columns: ReadonlySet<string>;
  tell(record: StoredRecord, context: StraightContext, cache: DataCache): T | null;
}
/** After so many records of which hardly any could be told straight, it is not tried any more. */
const TRIED_ENOUGH = 1000;
const NO_NUMBERS: ReadonlyMap<string, number> = new Map();

/** The next number of each series of which numbers were given out. */
export type NumbersGiven = readonly (readonly [series: string, next: number])[];

/** Opens records with one plan and goes through each: `steps` yields whenever its entry wants something. */
export class ManyEntries<T> {
  /** what is known of the data, by person: what somebody entered last is not what somebody else did */
  private readonly caches = new Map<number | null, DataCache>();

  private constructor(
    private readonly ws: Workspace,
    readonly plan: Plan,
    private readonly steps: (entry: Entry, record: StoredRecord) => Generator<void, T>,
    private readonly who: Awaited<ReturnType<typeof whoOfAccounts>>,
    private readonly calendar: WorkCalendar,
    /** numbers that were given out, by series */
    private readonly numbers: Map<string, number>,
    private readonly extent: Extent | undefined,
    private readonly straight: StraightWay<T> | null,
  ) {}
  private tried = 0;
  private told = 0;

  /**
   * `extent` is the part of the form that `steps` asks of; without one all is worked out. `straight` tells of most records what `steps` comes
   * to. `numbers` are those given out before.
   */
  static async of<T>(
    ws: Workspace,
    plan: Plan,
    steps: (entry: Entry, record: StoredRecord) => Generator<void, T>,
    more: { readonly extent?: Extent | undefined; readonly straight?: StraightWay<T> | null; readonly numbers?: NumbersGiven } = {},
  ): Promise<ManyEntries<T>> {
    const { extent, straight = null, numbers = [] } = more;
    return new ManyEntries(ws, plan, steps, await whoOfAccounts(ws.db), await workCalendar(ws), new Map(numbers), extent, straight);
  }
  /** The numbers given out so far: what whoever goes on with other records begins with. */
  get given(): NumbersGiven {
    return [...this.numbers];
  }
  /** The columns that are enough to be read of most records; undefined where they are gone through as entries. */
  get columns(): ColumnsRead {
    return this.isStraight ? this.straight?.columns : undefined;
  }
  private get isStraight(): boolean {
    return this.straight !== null && (this.tried <= TRIED_ENOUGH || this.told * 10 >= this.tried);
  }
  /** The records after these get the numbers after those that these were given. */
  goOn(done: readonly (Pick<DoneRecord<T>, 'series'> | null)[]): void {
    for (const one of done)
      for (const [series, number] of one?.series ?? []) {
        this.numbers.set(series, number + 1);
        for (const cache of this.caches.values())
          cache.supply([{ want: { kind: 'series', series }, answer: { kind: 'number', next: number + 1 } }], () => null);
      }
  }

  /**
   * Goes through some records, and gives back what came of each in their order; null for one that is gone since it was read in part. Each is
   * let go as soon as it wants nothing, which most never do once the first were answered: a hundred open ones are more than a processor has
   * at hand. What the rest want is asked together.
   */
  async run(records: readonly ReadRecord[]): Promise<(DoneRecord<T> | null)[]> {
    const now = this.ws.clock.now();
    const done = new Array<DoneRecord<T> | null>(records.length).fill(null);
    const stepOn = ({ place, read: { row, record, lineRevisions, isWhole }, entry, steps }: OpenRecord<T>): boolean => {
      const step = steps.next();
      if (!step.done) return true;
      done[place] = { row, record, lineRevisions, isWhole, outcome: step.value, series: entry.seriesTaken };
      return false;
    };
    const toTheirEnd = async (open: OpenRecord<T>[]): Promise<void> => {
      let running = open;
      for (let round = 0; running.length; round++) {
        if (round > this.plan.cells.length * 3 + 20) throw new Error('a record keeps wanting the same');
        await this.answer(running);
        running = running.filter(stepOn);
      }
    };
    const running: OpenRecord<T>[] = [];
    const partly: number[] = [];
    for (const [place, read] of records.entries()) {
      const { size } = this.caches;
      const by = this.enteredBy(read, now);
      const isFirst = this.caches.size > size;
      const outcome = this.toldStraight(read, by);
      if (outcome !== null) {
        const { row, record, lineRevisions, isWhole } = read;
        done[place] = { row, record, lineRevisions, isWhole, outcome, series: NO_NUMBERS };
        continue;
      }
      // what the first of somebody wants most of the others want too: once it is known they need not be opened
      if (isFirst && this.straight) {
        const [whole] = await this.wholly([read]);
        if (whole) await toTheirEnd([this.open(whole, place, now)].filter(stepOn));
      } else if (read.isWhole) running.push(...[this.open(read, place, now)].filter(stepOn));
      else partly.push(place);
    }
    const whole = await this.wholly(partly.map((place) => records[place] as ReadRecord));
    for (const [i, read] of whole.entries()) if (read) running.push(...[this.open(read, partly[i] as number, now)].filter(stepOn));
    await toTheirEnd(running);
    return done;
  }
  /** Reads the rest of records that were read in part; null for those that are gone. */
  private async wholly(records: readonly ReadRecord[]): Promise<(ReadRecord | null)[]> {
    const ids = records.filter((r) => !r.isWhole).map((r) => r.row.row.id);
    if (!ids.length) return [...records];
    const { ws, plan } = this;
    const read = await readRecords(ws, plan, await entryRows(ws.db, await ws.modelTable(plan.form.table), { ids }));
    const whole = new Map(read.map((r) => [r.row.row.id, r]));
    return records.map((r) => (r.isWhole ? r : (whole.get(r.row.row.id) ?? null)));
  }

  /** Who a record is worked out for, with what is known of the data to them: "me" is whoever entered it, not who runs this. */
  private enteredBy({ row }: ReadRecord, now: string): EnteredBy {
    const by = row.createdBy === null ? undefined : this.who.get(row.createdBy);
    const me = by?.person ?? null;
    let cache = this.caches.get(me);
    if (!cache) this.caches.set(me, (cache = this.ws.newCache()));
    return { cache, today: now.slice(0, 10), now, me, roles: by?.roles ?? [], calendar: this.calendar };
  }
  private toldStraight({ record }: ReadRecord, by: EnteredBy): T | null {
    if (!this.straight || !this.isStraight) return null;
    const outcome = this.straight.tell(record, by, by.cache);
    this.tried++;
    if (outcome !== null) this.told++;
    return outcome;
  }
  private open(read: ReadRecord, place: number, now: string): OpenRecord<T> {
    const { cache, ...who } = this.enteredBy(read, now);
    const entry = openEntry(this.plan, { mode: 'edit', ...who, isQuiet: true, extent: this.extent }, cache, read.record);
    return { place, read, me: who.me, entry, steps: this.steps(entry, read.record) };
  }

  private async answer(running: readonly OpenRecord<T>[]): Promise<void> {
    const { ws, plan } = this;
    // what depends on who asks is asked for each person apart
    const byPerson = new Map<number | null, Map<string, Want>>();
    for (const { entry, me } of running) {
      for (const want of wantsNeeded(entry)) {
        if (want.kind === 'series') {
          const next = this.numbers.get(want.series) ?? (await nextNumber(ws.db, want.series));
          this.numbers.set(want.series, next);
          entry.supply([{ want, answer: { kind: 'number', next } }]);
          continue;
        }
        let wants = byPerson.get(me);
        if (!wants) byPerson.set(me, (wants = new Map()));
        wants.set(wantKey(want), want);
      }
    }
    for (const [me, wants] of byPerson) {
      const answered = (
        await Promise.all(batches([...wants.values()]).map((b) => answerWants(ws, plan, b, { ...NOBODY, person: me })))
      ).flat();
      for (const o of running) {
        if (o.me !== me) continue;
        const own = new Set(o.entry.wants.map(wantKey));
        o.entry.supply(answered.filter((a) => own.has(wantKey(a.want))));
      }
    }
  }
}

/** Whether any of some fields takes the next number of a series: then records are gone through one by one. */
export const takesNumbers = (plan: Plan, fields: readonly string[]): boolean =>
  fields.some((f) => [...(plan.fields[plan.slots.get(f) ?? -1]?.value?.formula.extras.values() ?? [])].some((e) => e.kind === 'series'));
