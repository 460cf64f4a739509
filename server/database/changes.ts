import { dataTable } from './names';

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

/** When tables were written last, by a clock that counts commits. */
export class Changes {
  private clock = 1;
  private everything = 1;
  private readonly written = new Map<string, number>();
  private readonly listeners = new Set<(tables: ReadonlySet<string> | 'all') => void>();
  private foreign: Foreign | null = null;
  private looked = false;
  /** how often each table was written by all processes, as last seen; null where others are not counted with */
  counters: Map<string, number> | null = null;

  /** Notes that tables were written, or all that there is. Called after the commit. */
  note(tables: ReadonlySet<string> | 'all'): void {
    this.clock++;
    if (tables === 'all') this.everything = this.clock;
    else for (const table of tables) this.written.set(table, this.clock);
  }
  /** Notes what somebody else wrote, and tells whoever keeps things in a way of their own. */
  noteForeign(tables: ReadonlySet<string> | 'all'): void {
    this.note(tables);
    for (const listener of this.listeners) listener(tables);
  }

  /** A number that is another as soon as one of these tables was written. */
  stampOf(tables: readonly string[]): number {
    let newest = this.everything;
    for (const table of tables) newest = Math.max(newest, this.written.get(table) ?? 0);
    return newest;
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
    if (!this.foreign || this.looked) return;
    this.looked = true;
    setImmediate(() => (this.looked = false));
    this.foreign.look();
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
   * asked inside a transaction, which may see what nobody else does yet.
   */
  get<T>(key: string, tables: readonly string[], read: () => Promise<T>): Promise<T> {
    this.changes.look();
    const stamp = this.changes.stampOf(tables);
    const known = this.values.get(key);
    if (known?.stamp === stamp) return known.value as Promise<T>;
    this.values.delete(key);
    if (this.values.size >= MOST) this.values.delete(this.values.keys().next().value as string);
    const value = read();
    this.values.set(key, { stamp, value });
    value.catch(() => {
      if (this.values.get(key)?.value === value) this.values.delete(key);
    });
    return value;
  }
}
