import type BetterSqlite3 from 'better-sqlite3';
import { isFolded } from '../../core/choices/order.ts';
import type { Column } from '../../core/model/tables.ts';
import type { Datum } from '../../core/values/types.ts';
import type { Database } from './connection';
import { createStaging } from './model';
import { dialectOf } from './dialect';
import { synced } from './disk';
import { type Stored, foldedOf, sqlType, storedColumns, toStored } from './names';
import type { RowStamp } from './rows';
import { execute } from './statement';

let made = 0;
/** Values written in one transaction: enough that its end costs little, few enough that others need not wait (some 10 ms). */
const PER_COMMIT = 6_000;

/** Columns as they are stored, by name: the same for every value, so that one statement serves all rows. */
const namesOf = (columns: readonly Column[]): readonly string[] => columns.flatMap((c) => Object.keys(storedColumns(c, null)));

/** Makes of values what a staging table takes; it needs no database, so that it can be done in a thread. */
export class Packing {
  private waiting: Stored[][] = [];
  private taken = 0;
  private readonly width: number;
  private readonly isFolded: readonly boolean[];

  constructor(
    private readonly columns: readonly Column[],
    private readonly stamp: RowStamp,
  ) {
    this.width = namesOf(columns).length + 4;
    this.isFolded = columns.map((c) => isFolded(c.type));
  }

  /** Packs a row; values in the order of the columns. Gives the id it will have. */
  put(values: readonly Datum[]): number {
    const row: Stored[] = [];
    for (let i = 0; i < this.columns.length; i++) {
      const value = values[i] ?? null;
      row.push(toStored(value));
      if (this.isFolded[i]) row.push(foldedOf(value));
    }
    row.push(this.stamp.at, this.stamp.account, this.stamp.at, this.stamp.account);
    this.waiting.push(row);
    return this.taken + this.waiting.length;
  }

  /** Whether it is time to write. */
  get full(): boolean {
    return this.waiting.length * this.width >= PER_COMMIT;
  }
  /** What was packed since it was last asked. */
  take(): Stored[][] {
    const rows = this.waiting;
    this.taken += rows.length;
    this.waiting = [];
    return rows;
  }
}

/**
 * Where rows are put while a file is read, a table of its own that nobody sees: cancelled or refused, it is dropped and
 * nothing has happened. Rows are written by one prepared statement.
 */
export class Staging {
  private readonly names: readonly string[];
  /** how many rows were written */
  rows = 0;

  private constructor(
    private readonly db: Database,
    readonly name: string,
    private readonly columns: readonly Column[],
  ) {
    this.names = namesOf(columns);
  }

  /** `becomes` is the table that the rows will be, when they make a new one. */
  static async create(db: Database, columns: readonly Column[], becomes: string | null = null): Promise<Staging> {
    const name = `importing_${process.pid}_${++made}`;
    await createStaging(db, name, columns, becomes);
    return new Staging(db, name, columns);
  }

  /** Writes packed rows, in one transaction. */
  async write(rows: readonly (readonly Stored[])[]): Promise<void> {
    if (!rows.length) return;
    this.rows += rows.length;
    if (dialectOf(this.db).name === 'postgres') await this.writeToServer(rows);
    else await this.writeToFile(rows);
  }
  /** Columns as arrays: one statement of as many parameters as there are columns. */
  private async writeToServer(rows: readonly (readonly Stored[])[]): Promise<void> {
    const columns = this.columns.flatMap((c) =>
      Object.keys(storedColumns(c, null)).map((key) => ({
        key,
        type: key === c.key && sqlType(c) !== 'text' ? 'double precision' : 'text',
      })),
    );
    columns.push({ key: '_created_at', type: 'text' }, { key: '_created_by', type: 'bigint' }, { key: '_changed_at', type: 'text' }, { key: '_changed_by', type: 'bigint' }); // prettier-ignore
    const arrays = columns.map((c) => `?::${c.type}[]`).join(', ');
    const values = columns.map((_, at) => rows.map((row) => row[at] ?? null));
    await execute(
      this.db,
      `INSERT INTO "${this.name}" (${columns.map((c) => `"${c.key}"`).join(', ')}) SELECT * FROM unnest(${arrays})`,
      values,
    );
  }
  private async writeToFile(rows: readonly (readonly Stored[])[]): Promise<void> {
    const client = this.db.client as { acquireConnection(): Promise<BetterSqlite3.Database>; releaseConnection(c: unknown): Promise<void> };
    const connection = await client.acquireConnection();
    try {
      const names = [...this.names, '_created_at', '_created_by', '_changed_at', '_changed_by'].map((n) => `"${n}"`);
      const insert = connection.prepare(`INSERT INTO "${this.name}" (${names.join(', ')}) VALUES (${names.map(() => '?').join(', ')})`);
      // nobody needs these rows after a crash: what puts them in place waits until the log with them is on the disk
      connection.pragma('synchronous = NORMAL');
      connection.transaction(() => {
        for (const row of rows) insert.run(row);
      })();
      synced(connection).catch(() => undefined);
    } finally {
      connection.pragma('synchronous = FULL');
      await client.releaseConnection(connection);
    }
  }
}
export const dropStaging = async (db: Database, name: string): Promise<void> => void (await db.schema.dropTableIfExists(name));
