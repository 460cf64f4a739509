import type BetterSqlite3 from 'better-sqlite3';
import type { Column } from '../../core/model/tables.ts';
import type { Datum } from '../../core/values/types.ts';
import type { Database } from './connection';
import { createStaging } from './model';
import { dialectOf } from './dialect';
import { type Stored, sqlType, storedColumns } from './names';
import type { RowStamp } from './rows';
import { execute } from './statement';

let made = 0;
/** Values written in one transaction: enough that its end costs little, few enough that others need not wait (some 20 ms). */
const PER_COMMIT = 25_000;

/**
 * Where rows are put while a file is read, a table of its own that nobody sees: cancelled or refused, it is dropped and
 * nothing has happened. Rows are written by one prepared statement.
 */
export class Staging {
  private waiting: Stored[][] = [];
  private written = 0;
  private readonly names: readonly string[];

  private constructor(
    private readonly db: Database,
    readonly name: string,
    private readonly columns: readonly Column[],
    private readonly stamp: RowStamp,
  ) {
    // the same keys for every value, so that one statement serves all rows
    this.names = columns.flatMap((c) => Object.keys(storedColumns(c, null)));
  }

  /** `becomes` is the table that the rows will be, when they make a new one. */
  static async create(db: Database, columns: readonly Column[], stamp: RowStamp, becomes: string | null = null): Promise<Staging> {
    const name = `importing_${process.pid}_${++made}`;
    await createStaging(db, name, columns, becomes);
    return new Staging(db, name, columns, stamp);
  }

  /** Puts a row; values in the order of the columns. Gives the id it will have. */
  put(values: readonly Datum[]): number {
    const row: Stored[] = [];
    for (let i = 0; i < this.columns.length; i++) {
      const stored = storedColumns(this.columns[i] as Column, values[i] ?? null);
      for (const key in stored) row.push(stored[key] as Stored);
    }
    row.push(this.stamp.at, this.stamp.account, this.stamp.at, this.stamp.account);
    this.waiting.push(row);
    return this.written + this.waiting.length;
  }

  get full(): boolean {
    return this.waiting.length * (this.names.length + 4) >= PER_COMMIT;
  }

  /** Writes what waits, in one transaction. */
  async flush(): Promise<void> {
    if (!this.waiting.length) return;
    if (dialectOf(this.db).name === 'postgres') await this.flushToServer();
    else await this.flushToFile();
    this.written += this.waiting.length;
    this.waiting = [];
  }
  /** Columns as arrays: one statement of as many parameters as there are columns. */
  private async flushToServer(): Promise<void> {
    const columns = this.columns.flatMap((c) =>
      Object.keys(storedColumns(c, null)).map((key) => ({
        key,
        type: key === c.key && sqlType(c) !== 'text' ? 'double precision' : 'text',
      })),
    );
    columns.push({ key: '_created_at', type: 'text' }, { key: '_created_by', type: 'bigint' }, { key: '_changed_at', type: 'text' }, { key: '_changed_by', type: 'bigint' }); // prettier-ignore
    const arrays = columns.map((c) => `?::${c.type}[]`).join(', ');
    const values = columns.map((_, at) => this.waiting.map((row) => row[at] ?? null));
    await execute(
      this.db,
      `INSERT INTO "${this.name}" (${columns.map((c) => `"${c.key}"`).join(', ')}) SELECT * FROM unnest(${arrays})`,
      values,
    );
  }
  private async flushToFile(): Promise<void> {
    const client = this.db.client as { acquireConnection(): Promise<BetterSqlite3.Database>; releaseConnection(c: unknown): Promise<void> };
    const connection = await client.acquireConnection();
    try {
      const names = [...this.names, '_created_at', '_created_by', '_changed_at', '_changed_by'].map((n) => `"${n}"`);
      const insert = connection.prepare(`INSERT INTO "${this.name}" (${names.join(', ')}) VALUES (${names.map(() => '?').join(', ')})`);
      connection.transaction(() => {
        for (const row of this.waiting) insert.run(row);
      })();
    } finally {
      await client.releaseConnection(connection);
    }
  }

  async drop(): Promise<void> {
    await this.db.schema.dropTableIfExists(this.name);
  }
}
