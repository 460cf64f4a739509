import { KINDS } from '../../core/values/kinds/index.ts';
import { type Origins, linesAlike, noteText, readNote } from '../../core/model/noted.ts';
import type { Column } from '../../core/model/tables.ts';
import type { Database } from './connection';
import { dialectOf } from './dialect';
import { dataTable, foldColumn } from './names';
import { endRetyping } from './retyping';
import { type KnownIndex, indexesOf } from './schema';
import { dropSearchIndex } from './searchIndex';

/*
 * Other names for tables and columns of the model: in SQL, in what is known of them, and in what was noted about their rows. The
 * definitions that name them are written by `services/renaming.ts` in the same transaction.
 */

/** What an index is called: as those who make it call it (see model.ts), so that it is found again. */
function indexName(was: string, table: string, columns: readonly string[]): string {
  const [first = '', second = ''] = columns;
  const of = was.startsWith('nx_') ? columns.slice(0, -1).join('_') : was.startsWith('lx_') ? second : first;
  return `${was.slice(0, 3)}${table}_${of}`.slice(0, 120);
}
async function makeIndexes(db: Database, table: string, indexes: readonly KnownIndex[]): Promise<void> {
  for (const { name, columns } of indexes)
    await db.raw(
      `CREATE INDEX IF NOT EXISTS "${indexName(name, table, columns)}" ON "${dataTable(table)}" (${columns.map((c) => `"${c}"${c === 'id' ? '' : dialectOf(db).indexed}`).join(', ')})`,
    );
}

/** Gives a column another name. Call inside a transaction. Cost: its indexes, and the history of the table's rows. */
export async function renameColumnSql(db: Database, table: string, column: Column, to: string): Promise<void> {
  const from = column.key;
  await dropSearchIndex(db, table);
  await endRetyping(db, table);
  const fresh = (name: string): string => (name === from ? to : name === foldColumn(from) ? foldColumn(to) : name);
  const touched = (await indexesOf(db, dataTable(table))).filter((i) => i.columns.some((c) => fresh(c) !== c));
  for (const { name } of touched) await db.raw(`DROP INDEX "${name}"`);
  await db.raw(`ALTER TABLE "${dataTable(table)}" RENAME COLUMN "${from}" TO "${to}"`);
  if (KINDS[column.type].folded)
    await db.raw(`ALTER TABLE "${dataTable(table)}" RENAME COLUMN "${foldColumn(from)}" TO "${foldColumn(to)}"`);
  await makeIndexes(db, table, touched.map((i) => ({ ...i, columns: i.columns.map(fresh) }))); // prettier-ignore
  await db('model_columns').where({ table_key: table, key: from }).update({ key: to });
  await db('model_tables').where({ key: table, shown: from }).update({ shown: to });
  for (const noted of ['changes', 'origins']) await renameKeys(db, 'history', noted, from, to, { table_key: table });
}

/** Gives a table another name. Call inside a transaction. Cost: its indexes, and what was noted about its rows. */
export async function renameTableSql(db: Database, from: string, to: string): Promise<void> {
  await dropSearchIndex(db, from);
  await endRetyping(db, from);
  const indexes = await indexesOf(db, dataTable(from));
  for (const { name } of indexes) await db.raw(`DROP INDEX "${name}"`);
  await db.raw(`ALTER TABLE "${dataTable(from)}" RENAME TO "${dataTable(to)}"`);
  await makeIndexes(db, to, indexes);
  // others hold the name as a key: it stands under both until they have the new one
  const own = (await db('model_tables').where({ key: from }).first()) as Record<string, unknown>;
  await db('model_tables').insert({ ...own, key: to });
  for (const holder of ['model_columns', 'subsets', 'forms', 'origins', 'history'])
    await db(holder).where({ table_key: from }).update({ table_key: to });
  await db('model_columns').where({ target: from }).update({ target: to });
  await db('model_tables').where({ key: from }).delete();
}

/** Writes a key of JSON objects under another name, where it is one of theirs. */
async function renameKeys(
  db: Database,
  table: string,
  column: string,
  from: string,
  to: string,
  where: Readonly<Record<string, string>>,
): Promise<void> {
  if (dialectOf(db).name === 'postgres') {
    await db(table)
      .where(where)
      .whereRaw('jsonb_exists((??)::jsonb, ?)', [column, from])
      .update({ [column]: db.raw(`(((??)::jsonb - ?::text) || jsonb_build_object(?::text, (??)::jsonb -> ?::text))::text`, [column, from, to, column, from]) }); // prettier-ignore
    return;
  }
  const path = `$."${from}"`;
  await db(table)
    .where(where)
    .whereRaw('json_type(??, ?) IS NOT NULL', [column, path])
    .update({ [column]: db.raw(`json_remove(json_set(??, ?, json(?? -> ?)), ?)`, [column, `$."${to}"`, column, path, path]) });
}

/**
 * Writes where values came from under the new names of their fields, in records entered through a form: `names` from the old path
 * to the new; those of fields of lines as well.
 */
export async function renameOrigins(db: Database, table: string, form: string, names: ReadonlyMap<string, string>): Promise<void> {
  if (!names.size) return;
  const rows = (await db('origins')
    .where({ table_key: table })
    .whereIn('row_id', db(dataTable(table)).select('id').where({ _form: form }))
    .select('row_id', 'origins')) as { row_id: number; origins: string }[];
  const renamed = (origins: Origins): Origins =>
    Object.fromEntries(Object.entries(origins).map(([path, origin]) => [names.get(path) ?? path, origin]));
  for (const { row_id, origins: text } of rows) {
    const { origins, lines } = readNote(text);
    if (![origins, ...new Set(lines.values())].some((all) => Object.keys(all).some((path) => names.has(path)))) continue;
    await db('origins')
      .where({ table_key: table, row_id })
      .update({ origins: noteText(renamed(origins), linesAlike([...lines].map(([line, came]) => [line, renamed(came)]))) });
  }
}
