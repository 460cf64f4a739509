import { randomInt } from 'node:crypto';
import { isFolded } from '../../core/choices/order.ts';
import type { Column } from '../../core/model/tables.ts';
import type { Datum } from '../../core/values/types.ts';
import { type SqlNamesOf, addSqlColumns, dropIndexesOf, dropSqlColumns, indexLink, sqlColumnsOf, sqlNames, writeType } from './columns';
import type { Database } from './connection';
import { dialectOf } from './dialect';
import { dataTable } from './names';
import { writeStoredAs } from './rows';
import { isThere, tablesNamed } from './schema';
import { dropSearchIndex, narrowTriggers } from './searchIndex';

/*
 * Problem: a column of a million values becomes another type, and nobody should wait for it who enters records meanwhile.
 * Solution: the new values are written into a column beside the old one, some thousand rows at a time; rows that are written in between are
 * noted by triggers, and converted again. When all is there the two change places in one short transaction. Names that begin with an
 * underscore are no names of the model, so nobody reads or writes the column beside. One that was left behind, since the server ended
 * meanwhile, goes when the next starts.
 */

const BESIDE: SqlNamesOf = ['_new', '_new__fold'];
const BEFORE: SqlNamesOf = ['_old', '_old__fold'];
/** Where the numbers of rows stand that were written meanwhile; there only as long as a column of the table becomes another type. */
const BEGINNING = 'retyping_';
const noted = (table: string): string => `${BEGINNING}${table}`;
const trigger = (table: string, on: string): string => `${on}_${noted(table)}`;

/**
 * Makes the column beside the one that becomes another, and notes from now on what is written; what somebody else began is gone by that.
 * Gives the number it goes by. Call inside a transaction.
 */
export async function beginRetyping(db: Database, table: string, from: Column, to: Column): Promise<number> {
  await endRetyping(db, table);
  await db.raw(`CREATE TABLE "${noted(table)}" (id ${dialectOf(db).integer} PRIMARY KEY)`);
  const number = randomInt(1, 2 ** 47);
  await db(noted(table)).insert({ id: -number });
  await addSqlColumns(db, table, to, BESIDE);
  await makeTriggers(db, table, from.key);
  // of a column that it does not hold the search index need not be told
  await narrowTriggers(db, table);
  return number;
}

async function makeTriggers(db: Database, table: string, column: string): Promise<void> {
  const data = dataTable(table);
  const note = `INSERT INTO "${noted(table)}" (id) VALUES (new.id) ON CONFLICT DO NOTHING`;
  const events = [['insert', 'INSERT'], ['update', `UPDATE OF "${column}"`]] as const; // prettier-ignore
  if (dialectOf(db).name === 'sqlite') {
    for (const [on, event] of events) await db.raw(`CREATE TRIGGER "${trigger(table, on)}" AFTER ${event} ON "${data}" BEGIN ${note}; END`);
    return;
  }
  await db.raw(`CREATE FUNCTION "${noted(table)}"() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN ${note}; RETURN NULL; END $$`);
  for (const [on, event] of events)
    await db.raw(`CREATE TRIGGER "${trigger(table, on)}" AFTER ${event} ON "${data}" FOR EACH ROW EXECUTE FUNCTION "${noted(table)}"()`);
}
async function dropTriggers(db: Database, table: string): Promise<void> {
  const isSqlite = dialectOf(db).name === 'sqlite';
  for (const on of ['insert', 'update'])
    await db.raw(`DROP TRIGGER IF EXISTS "${trigger(table, on)}"${isSqlite ? '' : ` ON "${dataTable(table)}"`}`);
  if (!isSqlite) await db.raw(`DROP FUNCTION IF EXISTS "${noted(table)}"()`);
}

/** Whether a column of a table is becoming another. */
export const isRetyping = (db: Database, table: string): Promise<boolean> => isThere(db, noted(table));
/** Whether it is by this beginning: not once somebody has changed the table otherwise, or began anew. */
export const isRetypingBy = async (db: Database, table: string, number: number): Promise<boolean> =>
  (await isRetyping(db, table)) && (await db(noted(table)).where('id', -number).first('id')) !== undefined;

/**
 * Lets nobody write a table, or read it as well, until the transaction ends; where one file is the database, who writes is alone anyway.
 * To be asked before anything else is done in the transaction, or two could wait for each other.
 */
export async function lockTable(db: Database, table: string, from: 'writing' | 'all'): Promise<void> {
  if (dialectOf(db).name === 'postgres')
    await db.raw(`LOCK TABLE "${dataTable(table)}" IN ${from === 'all' ? 'ACCESS EXCLUSIVE' : 'EXCLUSIVE'} MODE`);
}

/** Writes values into the column beside. */
export const writeRetyped = (
  db: Database,
  table: string,
  to: Column,
  changes: readonly { readonly id: number; readonly value: Datum }[],
): Promise<void> => writeStoredAs(db, table, to, BESIDE, changes);

/** The numbers of some rows that were written since they were converted; they are noted no more. Call inside a transaction. */
export async function takeWritten(db: Database, table: string, most: number): Promise<number[]> {
  const rows = (await db(noted(table)).where('id', '>', 0).orderBy('id').limit(most).select('id')) as { id: number | string }[];
  const last = rows.at(-1);
  if (last) await db(noted(table)).where('id', '>', 0).where('id', '<=', last.id).delete();
  return rows.map((r) => Number(r.id));
}

/** Lets the new column take the old one's place. Call inside a transaction in which nobody else writes the table; then `endRetyping`. */
export async function swapRetyped(db: Database, table: string, from: Column, to: Column): Promise<void> {
  await dropTriggers(db, table);
  // it names all columns of texts
  if (isFolded(from.type) || isFolded(to.type)) await dropSearchIndex(db, table);
  await dropIndexesOf(db, table, sqlNames(from));
  const rename = async (column: Column, was: SqlNamesOf, is: SqlNamesOf): Promise<void> => {
    for (const i of isFolded(column.type) ? [0, 1] : [0])
      await db.raw(`ALTER TABLE "${dataTable(table)}" RENAME COLUMN "${was[i]}" TO "${is[i]}"`);
  };
  await rename(from, sqlNames(from), BEFORE);
  await rename(to, BESIDE, sqlNames(to));
  await indexLink(db, table, to);
  await writeType(db, table, to);
}

/** Whether a SQL column stands in for one of the model, or did: nothing is known of it. */
export const isOfRetyping = (column: string): boolean => BESIDE.includes(column) || BEFORE.includes(column);

/** Takes what is left of a retyping out of a table, done or not. Call inside a transaction. Cost: as many passes as columns are left. */
export async function endRetyping(db: Database, table: string): Promise<void> {
  while (!(await endRetypingStep(db, table)));
}
/** The same for one column, so that others can write in between; gives whether nothing is left by that. Call inside a transaction. */
export async function endRetypingStep(db: Database, table: string): Promise<boolean> {
  if (!(await isRetyping(db, table))) return true;
  await dropTriggers(db, table);
  const [one, ...others] = (await sqlColumnsOf(db, table)).filter(isOfRetyping);
  if (one !== undefined) await dropSqlColumns(db, table, [one]);
  if (others.length) return false;
  await db.raw(`DROP TABLE "${noted(table)}"`);
  return true;
}

/** Those of some tables that a retyping left something in. */
export async function leftRetyping(db: Database, tables: readonly string[]): Promise<string[]> {
  const left: string[] = [];
  if ((await tablesNamed(db, BEGINNING)).length) for (const table of tables) if (await isRetyping(db, table)) left.push(table);
  return left;
}
