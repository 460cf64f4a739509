/* The dialects that Knex has but does not declare. */
declare module 'knex/lib/dialects/better-sqlite3/index.js' {
  import type { Knex } from 'knex';
  export default class BetterSqlite extends Knex.Client {
    runner(builder: object): object;
    destroy(callback?: unknown): Promise<void>;
    destroyRawConnection(connection: unknown): Promise<void>;
    _query(connection: unknown, query: unknown): Promise<unknown>;
    acquireConnection(): Promise<unknown>;
    releaseConnection(connection: unknown): Promise<void>;
    _formatBindings(bindings: readonly unknown[] | undefined): unknown[];
  }
}
declare module 'knex/lib/dialects/postgres/index.js' {
  import type { Knex } from 'knex';
  export default class Postgres extends Knex.Client {
    _query(connection: unknown, query: unknown): Promise<unknown>;
    acquireConnection(): Promise<unknown>;
    releaseConnection(connection: unknown): Promise<void>;
    positionBindings(sql: string): string;
    prepBindings(bindings: readonly unknown[] | undefined): unknown[];
    processResponse(query: unknown, runner: unknown): unknown;
    queryCompiler(builder: unknown, formatter: unknown): unknown;
    columnCompiler(...args: unknown[]): unknown;
  }
}
declare module 'knex/lib/dialects/postgres/query/pg-querycompiler.js' {
  export default class QueryCompiler {
    constructor(client: unknown, builder: unknown, formatter: unknown);
    readonly single: { table?: unknown; returning?: unknown };
    insert(): unknown;
  }
}
declare module 'knex/lib/dialects/postgres/schema/pg-columncompiler.js' {
  export default class ColumnCompiler {
    constructor(...args: unknown[]);
    text: unknown;
    bool: unknown;
    integer: unknown;
    increments: unknown;
    bigincrements(options?: unknown): string;
    specifictype(type: string): string;
  }
}
