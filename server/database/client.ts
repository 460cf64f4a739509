// eslint-disable-next-line @typescript-eslint/triple-slash-reference -- nothing to import: it only says what a module of Knex has
/// <reference path="./knex-dialects.d.ts" />
import BetterSqlite from 'knex/lib/dialects/better-sqlite3/index.js';
import type { Changes } from './changes';
import { closeLog, tookByItself } from './disk';
import type { Done, RowOf } from './statement';
import { REST, SCHEMA, Written, isOfSchema, isWrite, tablesWritten } from './written';

/*
 * Knex's client for SQLite with three things more: statements stay prepared; what was written is noted when it is committed, in memory
 * and, for other processes, in the table `changes`; and what only reads, outside of any transaction, need not wait for the one that is
 * open: it is read on a connection of its own, as it stood before (https://www.sqlite.org/wal.html, “Concurrency”).
 */

interface Statement {
  readonly reader: boolean;
  /** it writes nothing */
  readonly readonly: boolean;
  all(bindings: readonly unknown[]): unknown[];
  run(bindings: readonly unknown[]): { readonly lastInsertRowid: number | bigint; readonly changes: number };
}
/** A connection of better-sqlite3, as far as it is used here. */
export interface Connection {
  readonly inTransaction: boolean;
  prepare(sql: string): Statement;
  pragma(sql: string, options?: { readonly simple: boolean }): unknown;
  close(): unknown;
}
/** What Knex hands to a client to be run, and takes back from it. */
interface Query {
  readonly sql: string;
  readonly bindings?: readonly unknown[];
  /** the one row that it writes */
  readonly row?: RowOf | undefined;
  response?: unknown;
  context?: unknown;
}

/** The numbers of the rows that a statement has inserted: those it gives, or that of its only one. */
const inserted = ({ response, context }: Query): readonly number[] =>
  Array.isArray(response)
    ? (response as { id: number }[]).map((r) => r.id)
    : [Number((context as { lastID: number | bigint } | undefined)?.lastID)];

/** What is known of a connection. */
interface State {
  readonly statements: Map<string, { readonly statement: Statement; readonly writes: readonly string[]; readonly ofSchema: boolean }>;
  /** what its transaction has written so far */
  readonly written: Written;
  /** whether its next transaction, or the one under way, need not be on the disk when it ends */
  isNotSynced: boolean;
}
const states = new WeakMap<Connection, State>();
function stateOf(connection: Connection): State {
  let state = states.get(connection);
  if (!state) states.set(connection, (state = { statements: new Map(), written: new Written(), isNotSynced: false }));
  return state;
}

/** The next transaction on a connection that somebody holds ends without waiting for the disk: see `writeLater`. */
export const notSyncedNext = (connection: Connection): void => void (stateOf(connection).isNotSynced = true);
/** It has ended, or could not be begun: the next is durable again. */
function syncedAgain(state: State, connection: Connection): void {
  if (!state.isNotSynced) return;
  state.isNotSynced = false;
  connection.pragma('synchronous = FULL');
}

/** How many statements stay prepared, and how long one may be: longer ones are written for one purpose only. */
const MOST_STATEMENTS = 500;
const LONGEST = 8000;

function prepared({ statements }: State, connection: Connection, sql: string) {
  const known = statements.get(sql);
  if (known) return known;
  const tables = tablesWritten(sql);
  const writes = tables.length || !isWrite(sql) ? tables : [REST];
  const made = { statement: connection.prepare(sql), writes, ofSchema: isOfSchema(sql) };
  if (sql.length <= LONGEST) {
    // the one prepared first goes: what is asked often is soon back
    if (statements.size >= MOST_STATEMENTS) statements.delete(statements.keys().next().value as string);
    statements.set(sql, made);
  }
  return made;
}

const BUMP = 'INSERT INTO changes (name, number) VALUES (?, 1) ON CONFLICT (name) DO UPDATE SET number = number + 1 RETURNING number';

/** What a database shares with the clients that Knex makes for its transactions: they have the same settings, and nothing else. */
export interface Shared {
  readonly changes: Changes;
  readonly only: Connections;
  /** taken before anything is written, where somebody else usually writes */
  readonly turn?: Turn | undefined;
}
/** What whoever writes beside others takes first, and leaves when it is written. Left again, or by who never took it, it is as it was. */
export interface Turn {
  take(): Promise<void>;
  leave(): Promise<void>;
}
/** Runs a statement: a transaction, and what is written outside of one, waits for its turn. */
function inTurn<T>(turn: Turn, sql: string, inTransaction: boolean, run: () => Promise<T>): Promise<T> {
  const isAlone = !inTransaction && (isWrite(sql) || isOfSchema(sql));
  const begins = isAlone || sql === 'BEGIN;';
  const ends = isAlone || sql === 'COMMIT;' || sql === 'ROLLBACK';
  const ran = begins ? turn.take().then(run) : run();
  return ends ? ran.finally(() => turn.leave()) : ran;
}
/** The one connection, once it is open, and the one beside it that only reads while the other is in a transaction. */
export interface Connections {
  connection: Connection | null;
  reader: Connection | null;
  /** opens the one that reads; null where there can be none: of a database in memory */
  readonly openReader: (() => Connection) | null;
}
/** What Knex runs: a built query by its method, or a text; of other things nothing is known. */
interface Built {
  readonly _method?: string;
  readonly _single?: { readonly lock?: unknown };
  readonly sql?: unknown;
}
const READS = new Set(['select', 'first', 'pluck']);
const isRead = ({ _method, _single, sql }: Built): boolean =>
  _method === undefined ? typeof sql === 'string' && /^\s*SELECT\b/i.test(sql) : READS.has(_method) && _single?.lock === undefined;

/**
 * After a statement that took this long, in ms, others have their turn: what changes a table reads the whole schema again, some 20 ms where
 * there are hundreds of tables, and a column of another type is several such changes.
 */
const LONG = 5;

export class SqliteClient extends BetterSqlite {
  private get shared(): Shared {
    return (this as unknown as { config: Shared }).config;
  }
  private get changes(): Changes {
    return this.shared.changes;
  }
  private get inTransaction(): boolean {
    return (this as { transacting?: boolean }).transacting === true;
  }

  /** Where something is read while a transaction is open that it is no part of; null where none is, or there is only one connection. */
  private besides(): Connection | null {
    const { only } = this.shared;
    if (this.inTransaction || !only.connection?.inTransaction) return null;
    return (only.reader ??= only.openReader?.() ?? null);
  }

  override runner(builder: object): object {
    const runner = super.runner(builder) as { connection?: Connection };
    const reader = isRead(builder) ? this.besides() : null;
    if (reader) runner.connection = reader;
    return runner;
  }

  override async destroy(callback?: unknown): Promise<void> {
    const { only } = this.shared;
    only.reader?.close();
    only.reader = null;
    await super.destroy(callback);
  }

  override async destroyRawConnection(connection: Connection): Promise<void> {
    await closeLog(connection);
    await super.destroyRawConnection(connection);
  }

  /**
   * Runs one statement on the transaction’s connection, or on the one there is as soon as no transaction has it. What only reads does not
   * wait for that.
   */
  execute(sql: string, bindings: readonly unknown[], isOver: boolean, row?: RowOf): Promise<Done> {
    const { turn } = this.shared;
    if (!turn) return this.executeNow(sql, bindings, isOver, row);
    return inTurn(turn, sql, this.inTransaction, () => this.executeNow(sql, bindings, isOver, row));
  }
  private async executeNow(sql: string, bindings: readonly unknown[], isOver: boolean, row?: RowOf): Promise<Done> {
    const query: Query = { sql, bindings, row };
    const { inTransaction } = this;
    if (inTransaction && isOver) throw new Error('The transaction has ended.');
    const { connection } = this.shared.only;
    const reader = this.besides();
    // a statement takes no time in which another could begin: only an open transaction must be waited for
    if (!inTransaction && connection && !connection.inTransaction) this.perform(connection, query);
    else if (reader && prepared(stateOf(reader), reader, sql).statement.readonly) this.perform(reader, query);
    else {
      const own = (await this.acquireConnection()) as Connection;
      try {
        this.perform(own, query);
      } finally {
        await this.releaseConnection(own);
      }
    }
    const done = query.context as { lastID: number | bigint; changes: number } | undefined;
    return done ? { rows: [], changes: done.changes, id: Number(done.lastID) } : { rows: query.response as Record<string, unknown>[], changes: 0, id: 0 }; // prettier-ignore
  }

  override _query(connection: Connection, query: Query): Promise<Query> {
    const { turn } = this.shared;
    if (!turn) return this.queryNow(connection, query);
    return inTurn(turn, query.sql, connection.inTransaction, () => this.queryNow(connection, query));
  }
  private queryNow(connection: Connection, query: Query): Promise<Query> {
    try {
      const began = performance.now();
      this.perform(connection, query);
      if (performance.now() - began < LONG) return Promise.resolve(query);
      return new Promise((resolve) => setImmediate(resolve, query));
    } catch (e) {
      return Promise.reject(e as Error);
    }
  }

  private perform(connection: Connection, query: Query): void {
    const state = stateOf(connection);
    const { sql } = query;
    // whoever writes waits for others as it begins: one that has begun to read could not go on to write after another has
    if (sql === 'BEGIN;') return this.begin(state, connection);
    if (sql === 'COMMIT;') return this.commit(state, connection);
    if (sql === 'ROLLBACK') return this.rollback(state, connection);
    this.run(state, connection, query);
    if (state.written.size && !connection.inTransaction) this.written(state, connection);
  }
  private rollback(state: State, connection: Connection): void {
    try {
      // where SQLite has undone all by itself, as on a full disk, there is nothing left to undo: what went wrong first is told
      if (connection.inTransaction) this.run(state, connection, { sql: 'ROLLBACK' });
    } finally {
      state.written.clear();
      syncedAgain(state, connection);
    }
  }

  private run(state: State, connection: Connection, query: Query): void {
    const { statement, writes, ofSchema } = prepared(state, connection, query.sql);
    const bindings = this._formatBindings(query.bindings);
    if (statement.reader) query.response = statement.all(bindings);
    else {
      const done = statement.run(bindings);
      query.response = done;
      query.context = { lastID: done.lastInsertRowid, changes: done.changes };
    }
    if (ofSchema) {
      state.statements.clear();
      const { reader } = this.shared.only;
      if (reader) stateOf(reader).statements.clear();
      state.written.add(SCHEMA, undefined);
    }
    const numbers = query.row === 'inserted' ? inserted(query) : [query.row];
    for (const table of writes) for (const number of numbers) state.written.add(table, number);
  }

  private begin(state: State, connection: Connection): void {
    // it cannot be set within a transaction
    if (state.isNotSynced) connection.pragma('synchronous = NORMAL');
    try {
      this.run(state, connection, { sql: 'BEGIN IMMEDIATE' });
    } catch (e) {
      syncedAgain(state, connection);
      throw e;
    }
  }

  private commit(state: State, connection: Connection): void {
    try {
      this.tellOthers(state, connection);
      const began = performance.now();
      this.run(state, connection, { sql: 'COMMIT' });
      if (!state.isNotSynced) tookByItself(connection, performance.now() - began);
    } catch (e) {
      // one that could not be ended would keep everybody from beginning another
      if (connection.inTransaction) connection.prepare('ROLLBACK').run([]);
      state.written.clear();
      throw e;
    } finally {
      syncedAgain(state, connection);
    }
    this.noted(state);
  }
  /** After a statement outside any transaction. */
  private written(state: State, connection: Connection): void {
    this.tellOthers(state, connection);
    this.noted(state);
  }
  private noted(state: State): void {
    if (state.written.size) this.changes.note(state.written.take());
  }
  /** Counts what was written where other processes see it. */
  private tellOthers(state: State, connection: Connection): void {
    const { counters } = this.changes;
    if (!counters) return;
    const all = state.written.tables();
    const kept = all.filter((t) => t !== REST);
    for (const name of kept.length ? kept : all) {
      const [row] = prepared(state, connection, BUMP).statement.all([name]) as { number: number }[];
      counters.set(name, row?.number ?? 0);
    }
  }
}

/**
 * Lets a database note what other processes write into its file: from now on its own writes are counted in the table `changes`, and
 * those of others are found there. Call when it is migrated. A connection that only reads finds them too.
 */
export function watchOthers(connection: Connection, changes: Changes): void {
  const version = (): unknown => prepared(stateOf(connection), connection, 'PRAGMA data_version').statement.all([])[0];
  const numberOf = (raw: unknown): number => (raw as { data_version: number }).data_version;
  const read = (): Map<string, number> => {
    const rows = prepared(stateOf(connection), connection, 'SELECT name, number FROM changes').statement.all([]);
    return new Map((rows as { name: string; number: number }[]).map((r) => [r.name, r.number]));
  };
  let seen = numberOf(version());
  changes.counters = read();
  changes.watch({
    look() {
      const now = numberOf(version());
      if (now === seen) return;
      seen = now;
      const known = changes.counters ?? new Map<string, number>();
      const counted = read();
      const others = new Set([...counted].filter(([name, number]) => number !== known.get(name)).map(([name]) => name));
      changes.counters = counted;
      // written by a hand that does not count: whatever is kept may be wrong
      changes.noteForeign(others.size ? others : 'all');
    },
  });
}
