import { basename } from 'node:path';
import pg from 'pg';
import { closeDatabase, openDatabase } from '../database/connection';

/** The PostgreSQL server that tests run on (a connection string without a database); none: they run on SQLite. */
export const ON_SERVER = process.env.BRISK_TEST_SERVER ?? null;

let made = 0;
/**
 * A database of a test's own, a copy of one that `fill` has filled once in a run: PostgreSQL copies a database faster than the schema is
 * made. `run` tells runs apart that use the same server. Returns its connection string.
 */
export async function ownDatabase(run: string, kind: string, fill: (url: string) => Promise<void>): Promise<string> {
  const name = (what: string): string => `${basename(run).replace(/\W/g, '_').toLowerCase()}_${what}`;
  const url = (database: string): string => `${ON_SERVER ?? ''}/${database}`;
  const admin = new pg.Client({ connectionString: url('postgres') });
  await admin.connect();
  try {
    const template = name(kind);
    await admin.query('SELECT pg_advisory_lock(1)');
    const { rows } = await admin.query('SELECT 1 FROM pg_database WHERE datname = $1', [template]);
    if (!rows.length) {
      const part = `${template}_part`;
      await admin.query(`DROP DATABASE IF EXISTS ${part}`);
      await admin.query(`CREATE DATABASE ${part}`);
      await closeDatabase(await openDatabase(url(part)));
      await fill(url(part));
      await admin.query(`ALTER DATABASE ${part} RENAME TO ${template}`);
    }
    const own = name(`${process.pid}_${++made}`);
    await admin.query(`CREATE DATABASE ${own} TEMPLATE ${template}`);
    return url(own);
  } finally {
    await admin.end();
  }
}
