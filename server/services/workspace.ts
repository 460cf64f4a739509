import { feedRows } from '../database/feeds';
import { type ListRow, listRows } from '../database/lists';
import { tmpdir } from 'node:os';
import { DataCache } from '../../core/engine/cache.ts';
import { renewedRows } from '../../core/engine/candidates.ts';
import { compileFormInSteps } from '../../core/engine/compile.ts';
import { compileDraftInSteps } from '../../core/engine/mistakes.ts';
import type { Plan } from '../../core/engine/plan.ts';
import type { Form } from '../../core/form/definition.ts';
import { type Feeds } from '../../core/model/feeds.ts';
import { feedSchema } from '../../core/model/schemas.ts';
import type { OptionList, OptionLists } from '../../core/model/lists.ts';
import { optionListSchema } from '../../core/model/schemas.ts';
import type { Table, Tables } from '../../core/model/tables.ts';
import type { Row } from '../../core/values/types.ts';
import { READ_HERE, RESHAPED_HERE, type Reading, highestNumber } from '../database/reading';
import { Here } from '../work/here';
import type { Reshape } from '../work/reshapes';
import type { Working } from '../work/working';
import { UNWATCHED } from './jobs';
import { SeriesNumbers } from './seriesNumbers';
import { nextNumber } from '../database/series';
import { type Changes, Kept, rowsOf } from '../database/changes';
import { type Database, changesOf, closeDatabase, holdWriters, isGone } from '../database/connection';
import { Together } from '../database/together';
import { type ModelTable, countRows, isLarge, readModel } from '../database/model';
import { allRows, rowsByIds } from '../database/rows';
import { type Broken, LastRead, parsedJson, readEach } from './definitions';
import { notFound } from './errors';
import { Pace } from './pace';

/** What time it is, injected so that tests and the demo can hold it still. */
export interface Clock {
  /** `YYYY-MM-DDTHH:MM:SS` in the workspace's zone */
  now(): string;
}

/** The time of the machine, in a zone that can be set; in that of the server until then. */
export class SystemClock implements Clock {
  private format = formatIn(null);
  private second = NaN;
  private text = '';
  now(): string {
    // a save asks many times, and formatting costs more than all else that it does with the answer
    const second = Math.floor(Date.now() / 1000);
    if (second !== this.second) {
      this.text = this.format.format(second * 1000).replace(' ', 'T');
      this.second = second;
    }
    return this.text;
  }
  setZone(zone: string | null): void {
    this.format = formatIn(zone);
    this.second = NaN;
  }
}
// Swedish writes moments as ISO 8601 does
const formatIn = (timeZone: string | null): Intl.DateTimeFormat =>
  new Intl.DateTimeFormat('sv-SE', { dateStyle: 'short', timeStyle: 'medium', ...(timeZone === null ? {} : { timeZone }) });

/** What open screens are told of. */
export interface WorkspaceEvent {
  readonly kind: 'published';
  readonly form: string;
  readonly version: number;
}

/** What the model is read from: another there makes another plan of every form. */
export const MODEL_TABLES = ['model_tables', 'model_columns', 'subsets', 'option_lists', 'feeds'];

/** How many compiled forms are kept: the drafts and the published versions of a hundred and fifty. */
const MOST_PLANS = 300;

/** What makes the schema another. SQLite reads all of it anew for each statement of these: with so many tables that keeps others waiting. */
const OF_SCHEMA: ReadonlySet<Reshape> = new Set<Reshape>(['addColumn', 'removeColumn', 'changeColumnType', 'renameColumn', 'renameTable', 'removeTable']); // prettier-ignore
const MANY_TABLES = 100;

/**
 * The composition root of the server: the database, the clock, and what is read once and kept: the model, row counts,
 * compiled plans. Everything that changes the model calls `modelChanged`; everything that adds or removes rows,
 * `rowsChanged`.
 */
export class Workspace {
  private model: readonly ModelTable[] | null = null;
  /** the tables by their names, of those that were asked for last */
  private byKey: { readonly tables: readonly ModelTable[]; readonly of: ReadonlyMap<string, ModelTable> } | null = null;
  private optionLists: OptionLists | null = null;
  private feedDefinitions: Feeds | null = null;
  private readonly counts = new Map<string, number>();
  /** feeds that failed when they were asked last, by key; since the server was started */
  readonly feedTroubles = new Map<string, { readonly at: string; readonly said: string }>();
  private readonly plans = new Map<string, Promise<Plan>>();
  private readonly changes: Changes;
  /** what was read of the database and is good until its tables are written, by whomever */
  readonly kept: Kept;
  /** saves of one turn share a transaction */
  readonly together: Together;
  /** numbers of series for saves under way */
  readonly numbers: SeriesNumbers;
  readonly work: Working;
  /** single statements that take long */
  readonly aside: Reading;

  constructor(
    readonly db: Database,
    readonly clock: Clock = new SystemClock(),
    /** where files are kept, by the hash of their content */
    readonly files: string = `${tmpdir()}/brisk-acorn-files`,
    /** where long reading is done, so that nobody waits for it; here, when not said */
    work: Working | null = null,
  ) {
    this.changes = changesOf(db);
    this.kept = new Kept(this.changes);
    this.together = new Together(db);
    this.numbers = new SeriesNumbers((series) => nextNumber(db, series));
    this.changes.onForeign((tables) => this.foreign(tables));
    this.work = work ?? new Here(this);
    this.aside = { client: db.client as unknown, raw: (sql, bindings = []) => this.work.run('sql', { sql, bindings }, UNWATCHED) };
  }

  private readonly closing: (() => Promise<void>)[] = [];
  /** Something to be done before the database is closed. */
  beforeClose(work: () => Promise<void>): void {
    this.closing.push(work);
  }
  /** Ends all work on the database and closes it, so that its file alone is whole. */
  async close(): Promise<void> {
    for (const work of this.closing) await work();
    await this.work.close();
    await closeDatabase(this.db);
  }

  get today(): string {
    return this.clock.now().slice(0, 10);
  }

  /** `db` is the transaction one is in: there is one connection, so that waiting for another would be for ever. */
  async modelTables(db: Database = this.db): Promise<readonly ModelTable[]> {
    if (this.model) return this.model;
    const { era } = this;
    const read = await readModel(db);
    if (era === this.era) this.model = read;
    return read;
  }

  async modelTable(key: string, db: Database = this.db): Promise<ModelTable> {
    const tables = await this.modelTables(db);
    if (this.byKey?.tables !== tables) this.byKey = { tables, of: new Map(tables.map((t) => [t.key, t])) };
    const table = this.byKey.of.get(key);
    if (!table) throw notFound(`The table “${key}”`);
    return table;
  }

  private readonly lastRead = new LastRead();
  /** What `read` makes of the text of a definition: see `LastRead`. */
  readAgain<T>(name: string, text: string, read: (text: string) => T): T {
    return this.lastRead.again(name, text, read);
  }
  /** A list as it is read, or why it cannot be. */
  listIn({ key, label, items }: ListRow): { readonly read: readonly OptionList[]; readonly broken: readonly Broken[] } {
    const named = { key, label };
    return this.readAgain(`list ${key} ${label}`, items, (text) =>
      readEach([named], optionListSchema, () => ({ ...named, items: parsedJson(text) })),
    );
  }

  /** All option lists that can be read. */
  async lists(): Promise<OptionLists> {
    if (this.optionLists) return this.optionLists;
    const { era } = this;
    const lists = new Map<string, OptionList>();
    const pace = new Pace();
    for (const row of await listRows(this.db)) {
      for (const list of this.listIn(row).read) lists.set(list.key, list);
      await pace.rest();
    }
    if (era === this.era) this.optionLists = lists;
    return lists;
  }

  /** All feeds that can be read, without their secrets. */
  async feeds(): Promise<Feeds> {
    if (this.feedDefinitions) return this.feedDefinitions;
    const { era } = this;
    const { read } = readEach(await feedRows(this.db), feedSchema, (r) => parsedJson(r.definition));
    const feeds = new Map(read.map((f) => [f.key, f]));
    if (era === this.era) this.feedDefinitions = feeds;
    return feeds;
  }

  /** Notes that the settings of the workspace are others: it may be another day now. */
  settingsChanged({ zone }: { readonly zone: string | null }): void {
    if (this.clock instanceof SystemClock) this.clock.setZone(zone);
  }

  /** how often the model was forgotten: what was read before is not kept after */
  private era = 0;
  modelChanged(): void {
    this.era++;
    this.model = null;
    this.optionLists = null;
    this.feedDefinitions = null;
    this.plans.clear();
  }

  private readonly listeners = new Set<(event: WorkspaceEvent) => void>();
  /** Tells whoever listens of something that concerns open screens. */
  told(event: WorkspaceEvent): void {
    for (const listener of this.listeners) listener(event);
  }
  /** Listens to what is told, until what is given is called. */
  listen(listener: (event: WorkspaceEvent) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** Forgets all that is kept: somebody else has changed the database. */
  changed(): void {
    this.modelChanged();
    this.counted++;
    this.counts.clear();
    this.changes.note('all');
  }
  /** Looks for what other processes have written, and forgets what is no longer so. Call before a request is answered. */
  look(): void {
    this.changes.look();
  }
  /** The same, as a thread begins something that it is asked. */
  lookNow(): void {
    this.changes.lookNow();
  }
  private foreign(tables: ReadonlySet<string> | 'all'): void {
    if (tables === 'all' || MODEL_TABLES.some((t) => tables.has(t))) this.modelChanged();
    this.counted++;
    if (tables === 'all') this.counts.clear();
    else for (const key of this.counts.keys()) if (tables.has(rowsOf(key))) this.counts.delete(key);
  }

  /** All rows of a table, by id in order, read once for as long as nobody writes them. They are shared: nobody may change them. */
  async wholeTable(table: ModelTable): Promise<readonly Row[]> {
    // what somebody sees of it differs from one to the other
    if (table.seen) return allRows(this.db, table);
    const columns = table.columns.map((c) => `${c.key} ${c.type}`).join();
    return this.kept.get<readonly Row[]>(
      `rows of ${table.key} ${columns}`,
      [rowsOf(table.key)],
      () => allRows(this.db, table),
      async (before, ids) => renewedRows(before, ids, await rowsByIds(this.db, table, ids)),
    );
  }

  /** how often numbers of rows became others: what was counted before is not kept after */
  private counted = 0;
  /** Notes that a table got or lost rows; without `by` it is counted anew when next asked. */
  rowsChanged(table: string, by?: number): void {
    this.counted++;
    const known = this.counts.get(table);
    if (by === undefined || known === undefined) this.counts.delete(table);
    else this.counts.set(table, known + by);
  }

  async rowCount(table: string): Promise<number> {
    const known = this.counts.get(table);
    if (known !== undefined) return known;
    const { counted } = this;
    const counting = async (): Promise<number> =>
      countRows((await highestNumber(this.db, table)) > READ_HERE ? this.aside : this.db, table);
    // one that is deleted just now is known until that is told
    const count = await counting().catch((e: unknown) => {
      if (isGone(e)) return 0;
      throw e;
    });
    if (counted === this.counted) this.counts.set(table, count);
    return count;
  }

  /** All tables as core knows them. */
  async tables(): Promise<Tables> {
    const tables = new Map<string, Table>();
    for (const table of await this.modelTables()) {
      const rows = await this.rowCount(table.key);
      tables.set(table.key, { ...table, rows, large: isLarge(rows) });
    }
    return tables;
  }

  /**
   * The compiled plan of a definition. `name` must change whenever the definition does (a version, a draft revision);
   * a table growing past the limit for whole tables makes a new plan too.
   */
  async plan(name: string, form: Form): Promise<Plan> {
    const key = `${form.key} ${name} ${await this.largeTables()}`;
    const known = this.plans.get(key);
    // those who ask while it is made wait for the same
    const plan = known ?? this.compiled(form, compileDraftInSteps);
    // what was asked for last stands last: the one that nobody asked for the longest goes
    this.plans.delete(key);
    if (this.plans.size >= MOST_PLANS) this.plans.delete(this.plans.keys().next().value as string);
    this.plans.set(key, plan);
    if (!known) plan.catch(() => this.plans.get(key) === plan && this.plans.delete(key));
    return plan;
  }
  /** The tables that are not read whole, as one text: forms are compiled anew when there is one more. */
  async largeTables(): Promise<string> {
    const large: string[] = [];
    for (const { key } of await this.modelTables()) if (isLarge(this.counts.get(key) ?? (await this.rowCount(key)))) large.push(key);
    return large.join();
  }
  /**
   * Does what makes tables others, and takes long where one of these is long, or there are many: in a thread then, whose turn it is to
   * write while whoever else wants to write waits for it, and everybody reads. `name` is what it is called there (see `work/reshapes.ts`) with what it is given;
   * `here` does it where it is called. `rows`: as many are brought in.
   */
  async reshape<T>(tables: Iterable<string>, name: Reshape, given: readonly unknown[], here: () => Promise<T>, rows = 0): Promise<T> {
    if (!(await this.isLong(tables, name, rows))) return here();
    let free: (() => Promise<void>) | null = null;
    const leave = async (): Promise<void> => {
      const freed = free;
      free = null;
      await freed?.();
    };
    const give = async (isTaken: unknown): Promise<void> => {
      if (isTaken !== true) await leave();
      else free ??= await holdWriters(this.db);
    };
    try {
      return (await this.work.run('reshape', { name, given }, { ...UNWATCHED, give })) as T;
    } finally {
      await leave();
      this.lookNow();
    }
  }
  private async isLong(tables: Iterable<string>, name: Reshape, rows: number): Promise<boolean> {
    if (!this.work.mayWrite) return false;
    if (rows > RESHAPED_HERE) return true;
    if (OF_SCHEMA.has(name) && (await this.modelTables()).length > MANY_TABLES) return true;
    for (const table of tables) if ((await this.rowCount(table)) > RESHAPED_HERE) return true;
    return false;
  }

  /** A definition compiled against the workspace as it is, without keeping it; others have their turn meanwhile. */
  async compiled(form: Form, inSteps = compileFormInSteps): Promise<Plan> {
    return new Pace().through(inSteps(form, await this.tables(), await this.lists(), await this.feeds()));
  }

  newCache(): DataCache {
    return new DataCache();
  }
}
