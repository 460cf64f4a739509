// eslint-disable-next-line @typescript-eslint/triple-slash-reference -- nothing to import: it only says what modules of Knex have
/// <reference path="./knex-dialects.d.ts" />
import { randomUUID } from 'node:crypto';
import Postgres from 'knex/lib/dialects/postgres/index.js';
import QueryCompiler from 'knex/lib/dialects/postgres/query/pg-querycompiler.js';
import ColumnCompiler from 'knex/lib/dialects/postgres/schema/pg-columncompiler.js';
import pg from 'pg';
import type { Changes } from './changes';
import type { Done, RowOf } from './statement';
import { SCHEMA, Written, isOfSchema, tablesWritten } from './written';

/*
 * Knex's client for PostgreSQL, so made that the application finds what it finds in SQLite: numbers as numbers, texts in the order of
 * their code points, yes and no as 1 and 0, the number of the row that was inserted. Transactions that write go one after the other, in
 * all processes (as in SQLite): whoever begins one waits for the lock, and knows then what others have written before.
 */

/** The lock that whoever writes holds, by a number of our own. */
const WRITING = 7_201_530;
/** The lock that whoever migrates holds. */
export const MIGRATING = 7_201_531;
/** The lock that whoever does what is done once at a start holds. */
export const STARTING = 7_201_532;
/** The channel on which processes tell each other what they have written. */
export const CHANNEL = 'brisk_acorn_changes';
/** PostgreSQL takes no longer notice than 8,000 bytes. */
const LONGEST_NOTICE = 7000;

interface Response {
  readonly command: string;
  readonly rowCount: number | null;
  readonly rows: Record<string, unknown>[];
}
export interface PostgresConnection {
  query(sql: string | { text: string; values: readonly unknown[]; name?: string }): Promise<Response>;
  on(what: 'notification', heard: (notice: { readonly channel: string; readonly payload?: string }) => void): void;
  on(what: 'error' | 'end', heard: () => void): void;
}
interface Query {
  readonly sql: string;
  readonly bindings?: readonly unknown[];
  readonly method?: string;
  readonly pluck?: string;
  readonly returning?: unknown;
  readonly output?: (this: unknown, response: Response) => unknown;
  response?: Response;
}
interface State {
  inTransaction: boolean;
  readonly written: Written;
  /** the shape of the tables (`Names.shapeNow`) that its prepared statements were made for */
  shape: number;
}

/**
 * The names by which statements stay prepared, each connection's for itself: a statement that is run again is neither parsed nor planned
 * anew. They are good for as long as the tables have the same columns (https://www.postgresql.org/docs/current/sql-prepare.html, “Notes”).
 */
class Names {
  private shape = 0;
  private readonly names = new Map<string, string>();

  constructor(private readonly changes: Changes) {}
  /** A number that is another as soon as tables have other columns. */
  shapeNow(): number {
    return this.changes.stampOf([SCHEMA]);
  }
  /** The name of a statement for a shape; undefined where there are too many already. */
  of(text: string, shape: number): string | undefined {
    if (shape !== this.shape) this.names.clear();
    this.shape = shape;
    const known = this.names.get(text);
    if (known !== undefined || this.names.size >= MOST_NAMES || text.length > LONGEST_NAMED) return known;
    const name = `b${shape}_${this.names.size}`;
    this.names.set(text, name);
    return name;
  }
}
/** How many statements stay prepared on a connection, and how long one may be: longer ones are written for one purpose only. */
const MOST_NAMES = 300;
const LONGEST_NAMED = 8000;
/** What is said of a prepared statement whose tables have other columns by now. */
const OTHER_COLUMNS = '0A000';

/** What a database shares with the clients that Knex makes for its transactions. */
export interface PostgresShared {
  readonly changes: Changes;
  /** by what a process knows its own notices */
  readonly process: string;
  /** null where nobody hears when tables get other columns */
  readonly names: Names | null;
}

const INTEGER_8 = 20;
/** Values as the application holds them: whole numbers of 8 bytes are counts and sums of counts here, never beyond 2⁵³. */
export const TYPES = {
  getTypeParser: (oid: number, format?: 'text'): unknown => (oid === INTEGER_8 ? Number : (pg.types.getTypeParser(oid, format) as unknown)),
};

/** Tables whose rows go by no number of their own. */
const WITHOUT_ID = new Set([
  'workspace', 'model_tables', 'model_columns', 'forms', 'form_versions', 'origins', 'requests', 'option_lists', 'subsets', 'feeds', 'series',
  'sessions', 'invites', 'entry_counts', 'changes', 'knex_migrations_lock',
]); // prettier-ignore

/** Insertions give the numbers of their rows back, where rows have one. */
class Inserting extends QueryCompiler {
  override insert(): unknown {
    const { single } = this;
    if (single.returning === undefined && typeof single.table === 'string' && !WITHOUT_ID.has(single.table)) single.returning = ['id'];
    return super.insert();
  }
}
/** Columns hold what they hold in SQLite: texts in the order of their code points, yes and no as numbers, numbers as doubles. */
class Columns extends ColumnCompiler {
  constructor(...args: unknown[]) {
    super(...args);
    this.text = () => 'text collate "C"';
    this.bool = () => 'integer';
    // as large as in SQLite: moments in milliseconds are kept in them
    this.integer = () => 'bigint';
    this.increments = (options?: unknown) => this.bigincrements(options);
  }
  override specifictype(type: string): string {
    return type === 'numeric' ? 'double precision' : type;
  }
}

/** Texts of a server hold no NUL, and none is ever saved (`charactersProblem`): one that is sought is found nowhere. */
const NUL = '\0';
const NEVER = '\u{fffd}';

/** Where the number of a row is given with it, those after it must come to be greater. */
const WITH_ID = /^\s*insert\s+into\s+"?(\w+)"?\s*\((?:[^)]*,\s*)?"id"/i;

const states = new WeakMap<PostgresConnection, State>();
function stateOf(connection: PostgresConnection): State {
  let state = states.get(connection);
  if (!state) states.set(connection, (state = { inTransaction: false, written: new Written(), shape: 0 }));
  return state;
}

export class PostgresClient extends Postgres {
  private get shared(): PostgresShared {
    return (this as unknown as { config: PostgresShared }).config;
  }

  override queryCompiler(builder: unknown, formatter: unknown): unknown {
    return new Inserting(this, builder, formatter);
  }
  override columnCompiler(...args: unknown[]): unknown {
    return new Columns(this, ...args);
  }
  override prepBindings(bindings: readonly unknown[] | undefined): unknown[] {
    return (bindings ?? []).map((b) =>
      typeof b === 'boolean' ? Number(b) : b === undefined ? null : typeof b === 'string' && b.includes(NUL) ? b.replaceAll(NUL, NEVER) : b,
    );
  }

  /** A statement as PostgreSQL takes it, and whether it gives the number of the row it inserts. */
  private taken(sql: string): { readonly text: string; readonly givesId: boolean } {
    const inserts = /^\s*insert\s+into\s+"?(\w+)/i.exec(sql)?.[1];
    const givesId = inserts !== undefined && !WITHOUT_ID.has(inserts) && !/\breturning\b/i.test(sql);
    return { text: this.positionBindings(givesId ? `${sql} RETURNING "id"` : sql), givesId };
  }

  /** Runs one statement on the transaction’s connection, or on one that is free. Values are bound to `?`. */
  async execute(sql: string, bindings: readonly unknown[], isOver: boolean, row?: RowOf): Promise<Done> {
    if ((this as { transacting?: boolean }).transacting === true && isOver) throw new Error('The transaction has ended.');
    const own = (await this.acquireConnection()) as PostgresConnection;
    try {
      const { text, givesId } = this.taken(sql);
      const response = await this.performNamed(own, text, this.prepBindings(bindings), row);
      if (response.command === 'SELECT' || (!givesId && response.rows.length))
        return { rows: response.rows, changes: response.rowCount ?? 0, id: 0 };
      return { rows: [], changes: response.rowCount ?? 0, id: Number(response.rows.at(-1)?.id ?? 0) };
    } finally {
      await this.releaseConnection(own);
    }
  }

  override async _query(connection: PostgresConnection, query: Query): Promise<Query> {
    query.response = await this.perform(connection, query.sql, query.bindings ?? []);
    return query;
  }

  override processResponse(query: Query, runner: unknown): unknown {
    const response = query.response as Response;
    if (query.output) return query.output.call(runner, response);
    if (query.method === 'raw') return response.rows;
    if (response.command === 'SELECT') {
      if (query.method === 'first') return response.rows[0];
      if (query.method === 'pluck') return response.rows.map((r) => r[query.pluck as string]);
      return response.rows;
    }
    if (response.command === 'INSERT' && Array.isArray(query.returning) && query.returning.join() === 'id') {
      const last = response.rows.at(-1);
      return last ? [last.id] : [];
    }
    if (query.returning) return response.rows;
    return response.command === 'UPDATE' || response.command === 'DELETE' ? response.rowCount : response;
  }

  /** The same as `perform`, of a statement that stays prepared. */
  private async performNamed(connection: PostgresConnection, sql: string, bindings: readonly unknown[], row?: RowOf): Promise<Response> {
    const state = stateOf(connection);
    const { names } = this.shared;
    const shape = names?.shapeNow() ?? 0;
    // a transaction that gives a table other columns knows them before anybody else does
    const name = state.written.has(SCHEMA) ? undefined : names?.of(sql, shape);
    if (name === undefined) return this.perform(connection, sql, bindings, row);
    if (state.shape !== shape) {
      await connection.query('DEALLOCATE ALL');
      state.shape = shape;
    }
    const { inTransaction } = state;
    try {
      return await this.perform(connection, sql, bindings, row, name);
    } catch (e) {
      // another process gave a table other columns, and its notice is still on its way
      if (inTransaction || (e as { code?: unknown }).code !== OTHER_COLUMNS) throw e;
      return this.perform(connection, sql, bindings, row);
    }
  }

  private async perform(
    connection: PostgresConnection,
    sql: string,
    bindings: readonly unknown[],
    row?: RowOf,
    name?: string,
  ): Promise<Response> {
    const state = stateOf(connection);
    if (sql === 'BEGIN;') return this.begin(connection, state);
    if (sql === 'COMMIT;') return this.commit(connection, state);
    const writes = tablesWritten(sql);
    if (isOfSchema(sql)) writes.push(SCHEMA);
    if (writes.length && !state.inTransaction) {
      // one statement alone is a transaction of its own, so that it is counted with what it writes
      await this.begin(connection, state);
      try {
        const response = await this.perform(connection, sql, bindings, row, name);
        await this.commit(connection, state);
        return response;
      } catch (e) {
        await this.rollback(connection, state);
        throw e;
      }
    }
    const response = await connection.query({ text: sql, values: bindings, ...(name === undefined ? {} : { name }) });
    const numbers = row === 'inserted' ? response.rows.map((r) => Number(r.id)) : [row];
    for (const table of writes) for (const number of numbers) state.written.add(table, number);
    const numbered = WITH_ID.exec(sql)?.[1];
    if (numbered !== undefined) await this.numberOn(connection, numbered);
    if (sql === 'ROLLBACK') {
      state.inTransaction = false;
      state.written.clear();
    }
    return response;
  }
  private async begin(connection: PostgresConnection, state: State): Promise<Response> {
    const response = await connection.query('BEGIN');
    state.inTransaction = true;
    await connection.query(`SELECT pg_advisory_xact_lock(${WRITING})`);
    const { counters } = this.shared.changes;
    // what others have written up to here is known before anything is decided
    if (counters) noteCounted(this.shared.changes, counters, await countedBy(connection));
    return response;
  }
  private async commit(connection: PostgresConnection, state: State): Promise<Response> {
    try {
      await this.tellOthers(connection, state);
      const response = await connection.query('COMMIT');
      state.inTransaction = false;
      if (response.command !== 'COMMIT') throw new Error('The transaction could not be ended.');
      if (state.written.size) this.shared.changes.note(state.written.take());
      return response;
    } catch (e) {
      await this.rollback(connection, state);
      throw e;
    }
  }
  private async rollback(connection: PostgresConnection, state: State): Promise<void> {
    if (state.inTransaction) await connection.query('ROLLBACK');
    state.inTransaction = false;
    state.written.clear();
  }

  /** Counts what was written, and tells the other processes; they hear it when it is committed. */
  private async tellOthers(connection: PostgresConnection, { written }: State): Promise<void> {
    const { counters } = this.shared.changes;
    if (!counters || !written.size) return;
    const names = written.tables().sort();
    const { rows } = await connection.query({
      text: `INSERT INTO changes (name, number) SELECT n, 1 FROM unnest($1::text[]) AS n
             ON CONFLICT (name) DO UPDATE SET number = changes.number + 1 RETURNING name, number`,
      values: [names],
    });
    for (const { name, number } of rows as { name: string; number: number }[]) counters.set(name, number);
    const payload = JSON.stringify({ by: this.shared.process, names });
    const notice = Buffer.byteLength(payload) > LONGEST_NOTICE ? JSON.stringify({ by: this.shared.process }) : payload;
    await connection.query({ text: 'SELECT pg_notify($1, $2)', values: [CHANNEL, notice] });
  }

  /** The next row of a table is numbered after those there are. */
  private async numberOn(connection: PostgresConnection, table: string): Promise<void> {
    const name = `"${table}"`;
    await connection.query(
      `SELECT setval(s.name, greatest((SELECT max(id) FROM ${name}), 1)) FROM (SELECT pg_get_serial_sequence('${name}', 'id') AS name) AS s WHERE s.name IS NOT NULL`,
    );
  }
}

const countedBy = async (connection: PostgresConnection): Promise<Map<string, number>> => {
  const { rows } = await connection.query('SELECT name, number FROM changes');
  return new Map((rows as { name: string; number: number }[]).map((r) => [r.name, r.number]));
};
function noteCounted(changes: Changes, known: Map<string, number>, counted: ReadonlyMap<string, number>): void {
  const others = new Set([...counted].filter(([name, number]) => number !== known.get(name)).map(([name]) => name));
  for (const [name, number] of counted) known.set(name, number);
  if (others.size) changes.noteForeign(others);
}

/**
 * Lets a database note what other processes write: from now on its own writes are counted and told, and theirs are heard on a connection
 * of its own. When that connection breaks, all that is kept is taken to be out of date until there is another.
 */
export async function hearOthers(url: string, changes: Changes, process: string): Promise<() => Promise<void>> {
  let closed = false;
  let client: pg.Client | null = null;
  const again = (): void => void setTimeout(() => void (closed || listen().catch(again)), 1000).unref();
  const listen = async (): Promise<void> => {
    const own = new pg.Client({ connectionString: url, types: TYPES as pg.CustomTypesConfig });
    own.on('error', () => undefined);
    own.on('end', () => {
      if (closed) return;
      changes.noteForeign('all');
      again();
    });
    own.on('notification', ({ payload }) => {
      const { by, names } = JSON.parse(payload ?? '{}') as { by?: string; names?: string[] };
      if (by !== process) changes.noteForeign(names ? new Set(names) : 'all');
    });
    await own.connect();
    await own.query(`LISTEN ${CHANNEL}`);
    client = own;
    // what was written before it was listened to
    const counted = await countedBy(own as unknown as PostgresConnection);
    if (changes.counters) noteCounted(changes, changes.counters, counted);
    else changes.counters = counted;
  };
  await listen();
  return async () => {
    closed = true;
    await client?.end();
  };
}

/** What a database on a server shares with its transactions; `hears` when it is told what other processes write (`hearOthers`). */
export const sharedOf = (changes: Changes, hears: boolean): PostgresShared => ({
  changes,
  process: randomUUID(),
  names: hears ? new Names(changes) : null,
});
