import { type Database, closeDatabase, openDatabase, openToRead } from './connection';
import { createUnlinked, linkColumns, readModel } from './model';
import { dataTable } from './names';
import { isOfRetyping } from './retyping';
import { execute } from './statement';

/*
 * A workspace in a file is copied into a database of a server, all of it: every table, row by row, compared when it stands there.
 */

/** What a copy says of itself as it goes on. */
export interface CopyTold {
  readonly table: string;
  readonly rows: number;
}
/** Rows read, written and compared at once. */
const PAGE = 1000;

type Raw = Readonly<Record<string, unknown>>;
interface SqlTable {
  readonly name: string;
  readonly columns: readonly string[];
  /** what its rows are told apart by, and put in order */
  readonly key: readonly string[];
}

/** Tables that are of a database itself: they count what was written in it. */
const OF_ITSELF = new Set(['changes']);

/** The tables of a file, but those of Knex, of search indexes, and of what was under way when the file was left. */
async function tablesOf(db: Database): Promise<SqlTable[]> {
  const named = (await db.raw(
    `SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' AND name NOT LIKE 'knex\\_%' ESCAPE '\\' AND name NOT LIKE 'fts\\_%' ESCAPE '\\' AND name NOT LIKE 'importing\\_%' ESCAPE '\\' AND name NOT LIKE 'filling\\_%' ESCAPE '\\' AND name NOT LIKE 'retyping\\_%' ESCAPE '\\' ORDER BY name`,
  )) as { name: string }[];
  const tables: SqlTable[] = [];
  for (const { name } of named.filter((t) => !OF_ITSELF.has(t.name))) {
    const columns = (await db.raw(`SELECT name, pk FROM pragma_table_info(?)`, [name])) as { name: string; pk: number }[];
    const key = columns.filter((c) => c.pk > 0).sort((a, b) => a.pk - b.pk);
    tables.push({
      name,
      columns: columns.map((c) => c.name).filter((c) => !isOfRetyping(c)),
      key: key.map((c) => c.name),
    });
  }
  return tables;
}

const quoted = (names: readonly string[]): string => names.map((n) => `"${n}"`).join(', ');
/** A page of a table in the order of its key. */
const page = async (db: Database, { name, columns, key }: SqlTable, offset: number, after: number | null): Promise<Raw[]> =>
  (after === null
    ? await db.raw(`SELECT ${quoted(columns)} FROM "${name}" ORDER BY ${quoted(key)} LIMIT ? OFFSET ?`, [PAGE, offset])
    : await db.raw(`SELECT ${quoted(columns)} FROM "${name}" WHERE id > ? ORDER BY id LIMIT ?`, [after, PAGE])) as Raw[]; // prettier-ignore
/** All pages of a table; by the numbers of rows where they have one. */
async function* pages(db: Database, table: SqlTable): AsyncGenerator<Raw[]> {
  const isNumbered = table.key.join() === 'id';
  let last = 0;
  for (let offset = 0; ; offset += PAGE) {
    const rows = await page(db, table, offset, isNumbered ? last : null);
    if (rows.length) yield rows;
    if (rows.length < PAGE) return;
    last = Number(rows.at(-1)?.id);
  }
}

/**
 * Copies the workspace in a file into an empty database of a server, and compares every row of both. The file is only read: nobody should
 * write to it meanwhile, since what comes later is not copied. Throws where the database is not empty, or a row is not the same.
 */
export async function copyToServer(file: string, url: string, tell: (told: CopyTold) => void): Promise<void> {
  const from = openToRead(file);
  const to = await openDatabase(url);
  try {
    const [accounts] = (await to('accounts').count({ n: '*' })) as { n: number }[];
    const [models] = (await to('model_tables').count({ n: '*' })) as { n: number }[];
    if (Number(accounts?.n) || Number(models?.n) > 1) throw new Error('The database named is not empty: it has accounts or tables already. Name an empty one.'); // prettier-ignore
    const tables = await tablesOf(from);
    const model = await readModel(from);
    await to.transaction(async (db) => {
      const links = await withoutLinks(db);
      await db('model_columns').delete();
      await db('model_tables').delete();
      await db.schema.dropTable(dataTable('people'));
      for (const { key, columns } of model) await createUnlinked(db, key, columns);
      for (const table of tables) tell({ table: table.name, rows: await copyTable(from, db, table) });
      // each link is held against the rows there are as it is made
      for (const { table, name, definition } of links) await db.raw(`ALTER TABLE ${table} ADD CONSTRAINT "${name}" ${definition}`);
      for (const { key, columns } of model) await linkColumns(db, key, columns);
    });
    for (const table of tables) await compareTable(from, to, table);
  } finally {
    await closeDatabase(to);
    await from.destroy();
  }
}

interface Constraint {
  readonly table: string;
  readonly name: string;
  readonly definition: string;
}
/** Takes away what holds rows to rows that they name, since rows come before those they name; gives what was taken away. */
async function withoutLinks(db: Database): Promise<Constraint[]> {
  const links = (await db.raw(
    `SELECT conrelid::regclass::text AS table, conname AS name, pg_get_constraintdef(oid) AS definition FROM pg_constraint WHERE contype = 'f' AND connamespace = current_schema()::regnamespace`,
  )) as Constraint[];
  for (const { table, name } of links) await db.raw(`ALTER TABLE ${table} DROP CONSTRAINT "${name}"`);
  return links;
}

/** Copies the rows of a table; gives how many. */
async function copyTable(from: Database, to: Database, table: SqlTable): Promise<number> {
  let rows = 0;
  const insert = `INSERT INTO "${table.name}" (${quoted(table.columns)}) SELECT ${quoted(table.columns)} FROM json_populate_recordset(NULL::"${table.name}", ?::json)`;
  for await (const found of pages(from, table)) {
    await execute(to, insert, [JSON.stringify(found)]).catch((e: unknown) => {
      throw new Error(`Rows of ${table.name} from ${rows + 1} on cannot be written: ${e instanceof Error ? e.message : String(e)}`, { cause: e }); // prettier-ignore
    });
    rows += found.length;
  }
  return rows;
}

/** Holds every row of a table against its copy. Throws at the first that is not the same, or is there only once. */
async function compareTable(from: Database, to: Database, table: SqlTable): Promise<void> {
  const copies = pages(to, table);
  let at = 0;
  for await (const rows of pages(from, table)) {
    const copied = ((await copies.next()).value ?? []) as Raw[];
    rows.forEach((row, i) => {
      const copy = copied[i];
      const other = table.columns.find((c) => !copy || (row[c] ?? null) !== (copy[c] ?? null));
      if (other !== undefined)
        throw new Error(`${table.name}: row ${at + i + 1} is not the same in both, in ${other}: ${JSON.stringify(row[other])} and ${JSON.stringify(copy?.[other])}.`); // prettier-ignore
    });
    at += rows.length;
  }
  const more = ((await copies.next()).value ?? []) as Raw[];
  if (more.length) throw new Error(`${table.name}: the copy has rows that the file does not have.`);
}
