import { isFolded } from '../../core/choices/order.ts';
import type { Database } from './connection';
import type { Column } from '../../core/model/tables.ts';
import { type Dialect, dialectOf } from './dialect';
import { dataTable, foldColumn } from './names';
import { indexesOf, isThere } from './schema';

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

/** Makes the search index of a table (anew when its text columns changed) and fills it. Cost: one pass over the table. */
export async function ensureSearchIndex(db: Database, table: Indexed): Promise<void> {
  const columns = foldedColumns(table);
  if (!columns.length) return;
  const index = indexName(table.key);
  const data = dataTable(table.key);
  if (dialectOf(db).name === 'postgres') return ensureTrigrams(db, data, index, columns);
  const known = (await db.raw(`SELECT name FROM pragma_table_info('${index}')`)) as { name: string }[];
  if (known.length && known.map((k) => k.name).join() === columns.join()) return;
  await dropSearchIndex(db, table.key);
  const list = columns.map((c) => `"${c}"`).join(', ');
  const of = (row: string): string => columns.map((c) => `${row}."${c}"`).join(', ');
  await db.raw(
    `CREATE VIRTUAL TABLE "${index}" USING fts5(${list}, content='${data}', content_rowid='id', tokenize='trigram case_sensitive 1', detail='full')`,
  );
  await db.raw(
    `CREATE TRIGGER "${index}_insert" AFTER INSERT ON "${data}" BEGIN INSERT INTO "${index}" (rowid, ${list}) VALUES (new.id, ${of('new')}); END`,
  );
  await db.raw(
    `CREATE TRIGGER "${index}_delete" AFTER DELETE ON "${data}" BEGIN INSERT INTO "${index}" ("${index}", rowid, ${list}) VALUES ('delete', old.id, ${of('old')}); END`,
  );
  await db.raw(
    `CREATE TRIGGER "${index}_update" AFTER UPDATE ON "${data}" BEGIN
       INSERT INTO "${index}" ("${index}", rowid, ${list}) VALUES ('delete', old.id, ${of('old')});
       INSERT INTO "${index}" (rowid, ${list}) VALUES (new.id, ${of('new')});
     END`,
  );
  await db.raw(`INSERT INTO "${index}" ("${index}") VALUES ('rebuild')`);
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
  for (const kind of ['insert', 'delete', 'update']) await db.raw(`DROP TRIGGER IF EXISTS "${index}_${kind}"`);
  await db.raw(`DROP TABLE IF EXISTS "${index}"`);
}

export const hasSearchIndex = (db: Database, table: string): Promise<boolean> => isThere(db, indexName(table));

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
