import { isFolded } from '../../core/choices/order.ts';
import type { Database } from './connection';
import type { Column } from '../../core/model/tables.ts';
import { type Dialect, dialectOf } from './dialect';
import { dataTable, foldColumn, keyOfFold } from './names';
import { RESHAPED_HERE, highestNumber } from './reading';
import { indexesOf, isThere, tablesNamed } from './schema';

/*
 * Problem: "holds this text anywhere" over a large table is a scan for any ordinary index.
 * Solution: SQLite's FTS5 with trigrams over the folded texts, kept by triggers. It only preselects: the exact
 * condition is asked of what it finds, so results are the same with and without it. In PostgreSQL it is an index of trigrams (its
 * extension pg_trgm); where that cannot be had, a search takes longer, nothing else.
 */

const indexName = (table: string): string => `fts_${dataTable(table).slice(5)}`;
/** the part of a table this needs */
interface Indexed {
  readonly key: string;
  readonly columns: readonly Column[];
}
const foldedColumns = (table: Indexed): string[] => table.columns.filter((c) => isFolded(c.type)).map((c) => foldColumn(c.key));

/** Texts shorter than this have no trigram and are searched without the index. */
export const LEAST_SEARCHED = 3;

/*
 * A long table is gone through piece by piece, so that others can write in between. How far that is stands in a table of its own, there only as
 * long as the index is not whole: what is written is brought into the index up to there, and nobody searches by it. A server that ended
 * meanwhile goes on with it when it starts.
 */
const fillingName = (table: string): string => `filling_${table}`;

/** Makes the search index of a table (anew when its text columns changed). Cost: one pass over the table; a long one is to be filled. */
export async function ensureSearchIndex(db: Database, table: Indexed): Promise<void> {
  const columns = foldedColumns(table);
  if (!columns.length) return;
  const index = indexName(table.key);
  const data = dataTable(table.key);
  if (dialectOf(db).name === 'postgres') return ensureTrigrams(db, data, index, columns);
  if ((await columnsOf(db, index)).join() === columns.join()) return;
  await dropSearchIndex(db, table.key);
  const list = columns.map((c) => `"${c}"`).join(', ');
  await db.raw(
    `CREATE VIRTUAL TABLE "${index}" USING fts5(${list}, content='${data}', content_rowid='id', tokenize='trigram case_sensitive 1', detail='full')`,
  );
  if ((await highestNumber(db, table.key)) <= RESHAPED_HERE) {
    await makeTriggers(db, table.key, columns, null);
    await db.raw(`INSERT INTO "${index}" ("${index}") VALUES ('rebuild')`);
    return;
  }
  const filling = fillingName(table.key);
  await db.raw(`CREATE TABLE "${filling}" (upto INTEGER NOT NULL)`);
  await db.raw(`INSERT INTO "${filling}" (upto) VALUES (0)`);
  await makeTriggers(db, table.key, columns, filling);
}

/** Lets what is written be brought into the index; with `filling`, up to where that is. */
async function makeTriggers(db: Database, table: string, columns: readonly string[], filling: string | null): Promise<void> {
  const index = indexName(table);
  const data = dataTable(table);
  const list = columns.map((c) => `"${c}"`).join(', ');
  const of = (row: string): string => columns.map((c) => `${row}."${c}"`).join(', ');
  const when = (row: string): string => (filling === null ? '' : ` WHEN ${row}.id <= (SELECT upto FROM "${filling}")`);
  const add = `INSERT INTO "${index}" (rowid, ${list}) VALUES (new.id, ${of('new')});`;
  const take = `INSERT INTO "${index}" ("${index}", rowid, ${list}) VALUES ('delete', old.id, ${of('old')});`;
  await db.raw(`CREATE TRIGGER "${index}_insert" AFTER INSERT ON "${data}"${when('new')} BEGIN ${add} END`);
  await db.raw(`CREATE TRIGGER "${index}_delete" AFTER DELETE ON "${data}"${when('old')} BEGIN ${take} END`);
  await db.raw(`CREATE TRIGGER "${index}_update" AFTER UPDATE OF ${list} ON "${data}"${when('old')} BEGIN ${take} ${add} END`);
}
/** Lets a search index be told of its own columns only: those of versions before were told whatever was written. Call inside a transaction. */
export async function narrowTriggers(db: Database, table: string): Promise<void> {
  if (dialectOf(db).name === 'postgres') return;
  const columns = await columnsOf(db, indexName(table));
  if (!columns.length) return;
  await dropTriggers(db, table);
  await makeTriggers(db, table, columns, (await isThere(db, fillingName(table))) ? fillingName(table) : null);
}
async function dropTriggers(db: Database, table: string): Promise<void> {
  for (const kind of ['insert', 'delete', 'update']) await db.raw(`DROP TRIGGER IF EXISTS "${indexName(table)}_${kind}"`);
}

/** The tables whose search index is not whole yet. */
export async function unfilledIndexes(db: Database): Promise<string[]> {
  const beginning = fillingName('');
  return dialectOf(db).name === 'postgres' ? [] : (await tablesNamed(db, beginning)).map((name) => name.slice(beginning.length));
}
/** Brings the next rows of a table into its search index; gives whether it is whole by that. Call inside a transaction. */
export async function fillSearchIndex(db: Database, table: string, most = RESHAPED_HERE): Promise<boolean> {
  const filling = fillingName(table);
  const index = indexName(table);
  const data = dataTable(table);
  // somebody else was quicker, or it was dropped
  if (!(await isThere(db, filling))) return true;
  const columns = await columnsOf(db, index);
  const list = columns.map((c) => `"${c}"`).join(', ');
  const [done] = (await db.raw(`SELECT upto FROM "${filling}"`)) as { upto: number }[];
  const from = done?.upto ?? 0;
  const [piece] = (await db.raw(`SELECT max(id) AS upto FROM (SELECT id FROM "${data}" WHERE id > ? ORDER BY id LIMIT ?)`, [from, most])) as { upto: number | null }[]; // prettier-ignore
  const upto = piece?.upto ?? null;
  if (upto !== null) {
    await db.raw(`INSERT INTO "${index}" (rowid, ${list}) SELECT id, ${list} FROM "${data}" WHERE id > ? AND id <= ?`, [from, upto]);
    await db.raw(`UPDATE "${filling}" SET upto = ?`, [upto]);
    return false;
  }
  await dropTriggers(db, table);
  await makeTriggers(db, table, columns, null);
  await db.raw(`DROP TABLE "${filling}"`);
  return true;
}

async function ensureTrigrams(db: Database, data: string, index: string, columns: readonly string[]): Promise<void> {
  const known = (await indexesOf(db, data)).find((i) => i.name === index);
  if (known?.columns.join() === columns.join()) return;
  const [extension] = (await db.raw(
    `SELECT 1 AS found FROM pg_available_extensions WHERE name = 'pg_trgm' AND (installed_version IS NOT NULL OR has_database_privilege(current_database(), 'CREATE'))`,
  )) as unknown[];
  if (!extension) return;
  await db.raw('CREATE EXTENSION IF NOT EXISTS pg_trgm');
  await db.raw(`DROP INDEX IF EXISTS "${index}"`);
  await db.raw(`CREATE INDEX "${index}" ON "${data}" USING gin (${columns.map((c) => `"${c}" gin_trgm_ops`).join(', ')})`);
}

export async function dropSearchIndex(db: Database, table: string): Promise<void> {
  const index = indexName(table);
  if (dialectOf(db).name === 'postgres') return void (await db.raw(`DROP INDEX IF EXISTS "${index}"`));
  await dropTriggers(db, table);
  await db.raw(`DROP TABLE IF EXISTS "${fillingName(table)}"`);
  await db.raw(`DROP TABLE IF EXISTS "${index}"`);
}

/** The columns whose texts the search index of a table holds, once it is whole; one that was added since is not among them. */
export async function searchIndexOf(db: Database, table: string): Promise<ReadonlySet<string>> {
  const index = indexName(table);
  if (dialectOf(db).name === 'postgres')
    return keysOf((await indexesOf(db, dataTable(table))).find((i) => i.name === index)?.columns ?? []);
  if (await isThere(db, fillingName(table))) return new Set();
  return keysOf(await columnsOf(db, index));
}
const keysOf = (folded: readonly string[]): ReadonlySet<string> => new Set(folded.map(keyOfFold));
const columnsOf = async (db: Database, index: string): Promise<string[]> =>
  ((await db.raw(`SELECT name FROM pragma_table_info('${index}')`)) as { name: string }[]).map((c) => c.name);

/**
 * A condition that preselects the rows of alias `t` holding a folded text in one of these columns; null when the text
 * is too short for the index.
 */
export function searchCondition(
  dialect: Dialect,
  table: string,
  columns: readonly string[],
  folded: string,
): { sql: string; bindings: string[] } | null {
  if (Array.from(folded).length < LEAST_SEARCHED) return null;
  // no text holds a NUL (`charactersProblem`), and none can be asked of an index
  if (folded.includes('\0')) return { sql: '1 = 0', bindings: [] };
  if (dialect.name === 'postgres') {
    if (!columns.length) return null;
    const like = `%${folded.replaceAll(/[\\%_]/g, '\\$&')}%`;
    return { sql: `(${columns.map((c) => `t."${foldColumn(c)}" LIKE ?`).join(' OR ')})`, bindings: columns.map(() => like) };
  }
  const index = indexName(table);
  const phrase = `"${folded.replaceAll('"', '""')}"`;
  const filter = columns.length ? `{${columns.map((c) => `"${foldColumn(c)}"`).join(' ')}} : ` : '';
  return { sql: `t.id IN (SELECT rowid FROM "${index}" WHERE "${index}" MATCH ?)`, bindings: [`${filter}${phrase}`] };
}
