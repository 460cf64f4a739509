/* The dialects that Knex has but does not declare. */
declare module 'knex/lib/dialects/better-sqlite3/index.js' {
  import type { Knex } from 'knex';
  export default class BetterSqlite extends Knex.Client {
    _query(connection: unknown, query: unknown): Promise<unknown>;
    acquireConnection(): Promise<unknown>;
    releaseConnection(connection: unknown): Promise<void>;
    _formatBindings(bindings: readonly unknown[] | undefined): unknown[];
  }
}
