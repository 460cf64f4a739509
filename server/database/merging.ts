import { isFolded } from '../../core/choices/order.ts';
import type { Column } from '../../core/model/tables.ts';
import type { Row } from '../../core/values/types.ts';
import type { Database } from './connection';
import { dialectOf } from './dialect';
import { dataTable, foldColumn, rowFrom, storedColumns } from './names';

/* Staged rows beside the rows of the table they are meant for; see `Staging`. */

const SYSTEM = '_created_at, _created_by, _changed_at, _changed_by';
/** The columns as SQL names them, folded texts too. */
const namesOf = (columns: readonly Column[]): string =>
  columns.flatMap((c) => Object.keys(storedColumns(c, null))).map((k) => `"${k}"`).join(', '); // prettier-ignore
/** What two rows are held against each other by. */
const keyOf = (column: Column): string => (isFolded(column.type) ? foldColumn(column.key) : column.key);

/** Adds all staged rows to a table; gives how many. */
export async function addStaged(db: Database, table: string, columns: readonly Column[], staging: string): Promise<number> {
  const fields = namesOf(columns);
  await db.raw(`INSERT INTO "${dataTable(table)}" (${fields}, ${SYSTEM}) SELECT ${fields}, ${SYSTEM} FROM "${staging}" ORDER BY id`);
  return countStaged(db, staging);
}
export async function countStaged(db: Database, staging: string): Promise<number> {
  const [counted] = (await db(staging).count({ n: '*' })) as { n: number }[];
  return Number(counted?.n ?? 0);
}

/** The staged rows that no row of the table has the key of; all, without a key. */
function fromFresh(table: string, staging: string, key: Column | null): string {
  if (!key) return `FROM "${staging}" s`;
  const by = keyOf(key);
  return `FROM "${staging}" s WHERE s."${by}" IS NULL OR NOT EXISTS (SELECT 1 FROM "${dataTable(table)}" d WHERE d."${by}" = s."${by}")`;
}
/** The staged rows that will be added, in the order in which they are. */
export async function freshStaged(db: Database, table: string, staging: string, key: Column | null): Promise<number[]> {
  const rows = (await db.raw(`SELECT s.id ${fromFresh(table, staging, key)} ORDER BY s.id`)) as { id: number }[];
  return rows.map((r) => r.id);
}
/** The highest id of a table's rows; 0 of none. */
export async function lastRow(db: Database, table: string): Promise<number> {
  const [last] = (await db(dataTable(table)).max({ id: 'id' })) as { id: number | null }[];
  return last?.id ?? 0;
}
/** The ids of the rows added after one, in the order in which they were. */
export async function rowsAfter(db: Database, table: string, after: number): Promise<number[]> {
  return (await db(dataTable(table)).where('id', '>', after).orderBy('id').pluck('id')) as number[];
}
/** Staged rows that are rows of the table up to one: both ids. */
export async function existingStaged(
  db: Database,
  table: string,
  staging: string,
  key: Column,
  upTo: number,
): Promise<{ staged: number; target: number }[]> {
  const by = keyOf(key);
  return (await db(`${staging} as s`)
    .join(`${dataTable(table)} as d`, `d.${by}`, `s.${by}`)
    .where('d.id', '<=', upTo)
    .select({ staged: 's.id', target: 'd.id' })) as { staged: number; target: number }[];
}

/** Adds the staged rows that no row of the table has the key of; gives how many. */
export async function addStagedAnew(
  db: Database,
  table: string,
  columns: readonly Column[],
  staging: string,
  key: Column,
): Promise<number> {
  const [name, fields] = [dataTable(table), namesOf(columns)];
  const fresh = fromFresh(table, staging, key);
  const [counted] = (await db.raw(`SELECT count(*) AS n ${fresh}`)) as { n: number }[];
  await db.raw(`INSERT INTO "${name}" (${fields}, ${SYSTEM}) SELECT ${fields}, ${SYSTEM} ${fresh} ORDER BY s.id`);
  return counted?.n ?? 0;
}

/** A staged row, and the row of the table that has its key. */
export interface Matched {
  readonly staged: Row;
  readonly target: Row;
}
/** Staged rows after one, in their order, that are rows of the table up to one: a page of them. */
export async function matchedAfter(
  db: Database,
  table: string,
  columns: readonly Column[],
  staging: string,
  key: Column,
  { after, upTo }: { readonly after: number; readonly upTo: number },
  limit: number,
): Promise<Matched[]> {
  const [name, by] = [dataTable(table), keyOf(key)];
  const page = (await db(`${staging} as s`)
    .join(`${name} as d`, `d.${by}`, `s.${by}`)
    .where('s.id', '>', after)
    .where('d.id', '<=', upTo)
    .orderBy('s.id')
    .limit(limit)
    .select('s.*', { target: 'd.id' })) as (Record<string, unknown> & { target: number })[];
  const targets = (await db(name).whereIn('id', page.map((p) => p.target))) as (Record<string, unknown> & { id: number })[]; // prettier-ignore
  const byId = new Map(targets.map((t) => [t.id, rowFrom(t, columns)]));
  return page.flatMap((p) => {
    const target = byId.get(p.target);
    return target ? [{ staged: rowFrom(p, columns), target }] : [];
  });
}

/** Some texts of a key that several rows have: of the staged ones, or of those in the table that staged ones have the key of. */
export async function doubledKeys(
  db: Database,
  table: string,
  staging: string,
  key: Column,
): Promise<{ readonly staged: readonly string[]; readonly there: readonly string[] }> {
  const by = keyOf(key);
  const doubled = async (name: string, where: string): Promise<string[]> => {
    const rows = (await db.raw(
      `SELECT min("${key.key}") AS text FROM "${name}" WHERE ${where} GROUP BY "${by}" HAVING count(*) > 1 LIMIT 5`,
    )) as { text: unknown }[];
    return rows.map((r) => String(r.text));
  };
  return {
    staged: await doubled(staging, `"${by}" IS NOT NULL`),
    there: await doubled(dataTable(table), `"${by}" IN (SELECT "${by}" FROM "${staging}")`),
  };
}

/** Puts links that were only found out afterwards into staged rows, by their ids. */
export const linkStaged = (db: Database, staging: string, column: string, links: ReadonlyMap<number, number>): Promise<void> =>
  setLinks(db, staging, column, links);
/** Sets links between rows of a table of the model. Call inside a transaction. */
export const linkRows = (db: Database, table: string, column: string, links: ReadonlyMap<number, number>): Promise<void> =>
  setLinks(db, dataTable(table), column, links);
async function setLinks(db: Database, staging: string, column: string, links: ReadonlyMap<number, number>): Promise<void> {
  const pairs = [...links];
  const { from, at } = dialectOf(db).lists('?', 'j');
  for (let i = 0; i < pairs.length; i += 500)
    await db.raw(`UPDATE "${staging}" SET "${column}" = ${at(1, 'number')} FROM ${from} WHERE "${staging}".id = ${at(0, 'number')}`, [
      JSON.stringify(pairs.slice(i, i + 500)),
    ]);
}
