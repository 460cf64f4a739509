import { dataTable } from './names';
import type { RowsWritten } from './written';

/*
 * What is kept of the database in memory is good until what it was read from is written. Every statement goes through one client
 * (client.ts), which notes here what tables each transaction has written once it is committed; what others write, in other
 * processes on the same database, is noted when it is looked for (see `Foreign`).
 */

/** What the rows of a table of the model go by among what is written. */
export const rowsOf = (table: string): string => dataTable(table);

/** How to find out what others have written: asked by whoever is about to use what was kept. */
export interface Foreign {
  /** Notes what others have written since it was looked last. Synchronous, and quick where nothing was. */
  look(): void;
}

/** How many of the last commits of a table are remembered with the rows they wrote, and how many rows are read anew one by one. */
const MOST_COMMITS = 50;
const MOST_ROWS = 100;
/** What one commit wrote of a table. */
interface Commit {
  readonly at: number;
  readonly rows: RowsWritten;
}

/** When tables were written last, by a clock that counts commits, and what of them. */
export class Changes {
  private clock = 1;
  private everything = 1;
  /** the last commits of each table, the newest last */
  private readonly commits = new Map<string, Commit[]>();
  private readonly listeners = new Set<(tables: ReadonlySet<string> | 'all') => void>();
  private foreign: Foreign | null = null;
  private looked = false;
  /** how often each table was written by all processes, as last seen; null where others are not counted with */
  counters: Map<string, number> | null = null;

  /** Notes what of tables was written, or all that there is. Called after the commit. */
  note(written: ReadonlyMap<string, RowsWritten> | 'all'): void {
    this.clock++;
    if (written === 'all') {
      this.everything = this.clock;
      this.commits.clear();
    } else for (const [table, rows] of written) this.noteOf(table, { at: this.clock, rows });
  }
  private noteOf(table: string, commit: Commit): void {
    const known = this.commits.get(table);
    // what was before one that may have written anything need not be told apart
    if (!known || commit.rows === 'any') this.commits.set(table, [commit]);
    else if (known.push(commit) > MOST_COMMITS) {
      known.shift();
      known[0] = { at: known[0]?.at ?? commit.at, rows: 'any' };
    }
  }
  /** Notes what somebody else wrote, and tells whoever keeps things in a way of their own. */
  noteForeign(tables: ReadonlySet<string> | 'all'): void {
    this.note(tables === 'all' ? tables : new Map([...tables].map((table) => [table, 'any'])));
    for (const listener of this.listeners) listener(tables);
  }

  /** A number that is another as soon as one of these tables was written. */
  stampOf(tables: readonly string[]): number {
    let newest = this.everything;
    for (const table of tables) newest = Math.max(newest, this.commits.get(table)?.at(-1)?.at ?? 0);
    return newest;
  }
  /** The rows of a table that were written since it had this stamp, where they are few and known; null elsewhere. */
  rowsSince(table: string, stamp: number): readonly number[] | null {
    if (this.everything > stamp) return null;
    const rows = new Set<number>();
    for (const commit of this.commits.get(table) ?? []) {
      if (commit.at <= stamp) continue;
      if (commit.rows === 'any') return null;
      for (const row of commit.rows) rows.add(row);
    }
    return rows.size <= MOST_ROWS ? [...rows] : null;
  }

  /** Listens to what others wrote, until what is given is called. */
  onForeign(listener: (tables: ReadonlySet<string> | 'all') => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }
  watch(foreign: Foreign): void {
    this.foreign = foreign;
  }
  /** Looks for what others have written: once a turn, however many ask. */
  look(): void {
    if (this.looked) return;
    this.looked = true;
    setImmediate(() => (this.looked = false));
    this.lookNow();
  }
  /** The same, be it again in one turn: what waits for work without turns has none between one and the next. */
  lookNow(): void {
    this.foreign?.look();
  }
}

/** What is kept at most of one kind of thing, so that what is asked for once does not stay for ever. */
const MOST = 2000;

interface KeptValue {
  readonly stamp: number;
  readonly value: Promise<unknown>;
}

/** Things read from the database, kept until a table they were read from is written. What is given is shared: nobody may change it. */
export class Kept {
  private readonly values = new Map<string, KeptValue>();
  constructor(private readonly changes: Changes) {}

  /**
   * What `read` gives, read once for as long as these tables (by their SQL names) are not written. What fails is not kept. Not to be
   * asked inside a transaction, which may see what nobody else does yet. Of one table, `renew` may give it from what it was and the
   * numbers of the rows that were written since.
   */
  get<T>(
    key: string,
    tables: readonly string[],
    read: () => Promise<T>,
    renew?: (before: T, rows: readonly number[]) => Promise<T>,
  ): Promise<T> {
    this.changes.look();
    const stamp = this.changes.stampOf(tables);
    const known = this.values.get(key) as { readonly stamp: number; readonly value: Promise<T> } | undefined;
    if (known?.stamp === stamp) return known.value;
    this.values.delete(key);
    if (this.values.size >= MOST) this.values.delete(this.values.keys().next().value as string);
    const rows = known && renew ? this.changes.rowsSince(tables[0] as string, known.stamp) : null;
    const value = known && rows && renew ? known.value.then((before) => renew(before, rows), read) : read();
    this.values.set(key, { stamp, value });
    value.catch(() => {
      if (this.values.get(key)?.value === value) this.values.delete(key);
    });
    return value;
  }
}
