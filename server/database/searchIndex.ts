import { isFolded } from '../../core/choices/order.ts';
import type { Database } from './connection';
import type { Column } from '../../core/model/tables.ts';
import { dataTable, foldColumn } from './names';

/*
 * Problem: "holds this text anywhere" over a large table is a scan for any ordinary index.
 * Solution: SQLite's FTS5 with trigrams over the folded texts, kept by triggers. It only preselects: the exact
 * condition is asked of what it finds, so results are the same with and without it. Part of the SQLite dialect; a
 * database without it loses speed, nothing else.
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

export async function dropSearchIndex(db: Database, table: string): Promise<void> {
  const index = indexName(table);
  for (const kind of ['insert', 'delete', 'update']) await db.raw(`DROP TRIGGER IF EXISTS "${index}_${kind}"`);
  await db.raw(`DROP TABLE IF EXISTS "${index}"`);
}

export async function hasSearchIndex(db: Database, table: string): Promise<boolean> {
  return ((await db.raw(`SELECT 1 FROM sqlite_master WHERE name = ?`, [indexName(table)])) as unknown[]).length > 0;
}

/**
 * A condition that preselects the rows of alias `t` holding a folded text in one of these columns; null when the text
 * is too short for the index.
 */
export function searchCondition(table: string, columns: readonly string[], folded: string): { sql: string; binding: string } | null {
  if (Array.from(folded).length < LEAST_SEARCHED) return null;
  const index = indexName(table);
  const phrase = `"${folded.replaceAll('"', '""')}"`;
  const filter = columns.length ? `{${columns.map((c) => `"${foldColumn(c)}"`).join(' ')}} : ` : '';
  return { sql: `t.id IN (SELECT rowid FROM "${index}" WHERE "${index}" MATCH ?)`, binding: `${filter}${phrase}` };
}
