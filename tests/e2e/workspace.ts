import { cpSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { test as base } from '@playwright/test';
import Database from 'better-sqlite3';
import pg from 'pg';
import { type OwnServer, dataFolder, ready, startServer } from './server';

/*
 * Each file of tests has a server and a workspace of its own: a copy of the demo as it is at first, so that files run beside each
 * other and none builds on what another has done.
 */

/** Where `prepare.ts` has put the demo, loaded once for all. */
const PREPARED = 'BRISK_E2E_PREPARED';
export const prepared = (): string => {
  const folder = process.env[PREPARED];
  if (!folder) throw new Error('There is no prepared workspace: run the tests by playwright.config.ts.');
  return folder;
};
export const setPrepared = (folder: string): void => void (process.env[PREPARED] = folder);

/** The PostgreSQL server that tests run on, where one is named (a connection string without a database); else they run on files. */
const SERVER = process.env.BRISK_TEST_SERVER;
// whole numbers of 8 bytes, as the application reads them
pg.types.setTypeParser(pg.types.builtins.INT8, Number);
let databases = 0;
/** Where a server of the application has its database, where that is no file: one of its own, a copy of the prepared one or empty. */
export async function onServer(what: 'prepared' | 'empty' | null): Promise<Record<string, string>> {
  if (!SERVER) return {};
  const admin = new pg.Client({ connectionString: `${SERVER}/postgres` });
  await admin.connect();
  const name = what ? `brisk_e2e_${process.pid}_${++databases}` : 'brisk_e2e';
  await admin.query(`DROP DATABASE IF EXISTS ${name}`);
  await admin.query(`CREATE DATABASE ${name}${what === 'prepared' ? ' TEMPLATE brisk_e2e' : ''}`);
  await admin.end();
  return { DATABASE_URL: `${SERVER}/${name}` };
}

/** Reads a database as it stands: in the data folder, or on the server. */
export async function reading(
  data: string,
  where: Record<string, string>,
): Promise<{ all<T>(sql: string): Promise<T[]>; close(): Promise<void> }> {
  if (where.DATABASE_URL) {
    const client = new pg.Client({ connectionString: where.DATABASE_URL });
    await client.connect();
    return { all: async <T>(sql: string) => (await client.query(sql)).rows as T[], close: () => client.end() };
  }
  const db = new Database(join(data, 'brisk-acorn.sqlite'), { readonly: true });
  return { all: <T>(sql: string) => Promise.resolve(db.prepare(sql).all() as T[]), close: () => Promise.resolve(void db.close()) };
}

/** A folder with the demo in it, of one’s own. */
export function demoFolder(): string {
  const folder = dataFolder();
  cpSync(prepared(), folder, { recursive: true });
  return folder;
}

/** The server of the file whose tests a worker runs now. */
class FileServer {
  private file: string | null = null;
  private server: OwnServer | null = null;
  private data: string | null = null;

  async of(file: string): Promise<string> {
    if (this.file !== file || !this.server) {
      await this.stop();
      this.data = demoFolder();
      this.server = await startServer(this.data, await onServer('prepared'));
      this.file = file;
      await ready(this.server);
    }
    return this.server.url;
  }
  async stop(): Promise<void> {
    await this.server?.stop();
    if (this.data !== null) rmSync(this.data, { recursive: true, force: true });
    this.server = this.data = null;
  }
}

export const test = base.extend<object, { fileServer: FileServer }>({
  fileServer: [
    // eslint-disable-next-line no-empty-pattern -- a fixture that needs no other is written so
    async ({}, use) => {
      const server = new FileServer();
      await use(server);
      await server.stop();
    },
    { scope: 'worker' },
  ],
  baseURL: async ({ fileServer }, use, info) => use(await fileServer.of(info.file)),
});
export { expect } from '@playwright/test';
