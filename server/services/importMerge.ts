import { isFolded } from '../../core/choices/order.ts';
import type { Column } from '../../core/model/tables.ts';
import type { Datum } from '../../core/values/types.ts';
import type { Database } from '../database/connection';
import { addHistory } from '../database/history';
import { type ModelTable, ensureIndex } from '../database/model';
import { dataTable, foldColumn, rowFrom, storedColumns } from '../database/names';
import { type RowStamp, updateRow } from '../database/rows';
import { Refused } from './errors';
import { asChanges } from './tables';

interface Merge {
  readonly table: ModelTable;
  readonly columns: readonly Column[];
  /** the name of the staged table */
  readonly staging: string;
  /** the column by which a staged row is one that exists; null adds all */
  readonly match: string | null;
  readonly stamp: RowStamp;
}
const PAGE = 1000;

/**
 * Puts staged rows into their table: adds those that are new, changes those that exist. Cells that are empty in the file
 * leave what stands. Call inside a transaction.
 */
export async function mergeStaged(
  db: Database,
  merge: Merge,
  progress: (share: number) => void,
): Promise<{ added: number; changed: number }> {
  const { table, columns, staging, match } = merge;
  const name = dataTable(table.key);
  const fields = columns.flatMap((c) => Object.keys(storedColumns(c, null))).map((k) => `"${k}"`).join(', '); // prettier-ignore
  const system = '_created_at, _created_by, _changed_at, _changed_by';
  const column = columns.find((c) => c.key === match);
  if (!column) {
    await db.raw(`INSERT INTO "${name}" (${fields}, ${system}) SELECT ${fields}, ${system} FROM "${staging}" ORDER BY id`);
    const [counted] = (await db(staging).count({ n: '*' })) as { n: number }[];
    return { added: Number(counted?.n ?? 0), changed: 0 };
  }
  const by = isFolded(column.type) ? foldColumn(column.key) : column.key;
  await ensureIndex(db, table.key, [column]);
  await refuseDoubles(db, merge, column, by);
  const [all] = (await db(staging).max({ n: 'id' })) as { n: number | null }[];
  let changed = 0;
  for (let last = 0; ;) {
    const page = (await db(`${staging} as s`)
      .join(`${name} as d`, `d.${by}`, `s.${by}`)
      .where('s.id', '>', last)
      .orderBy('s.id')
      .limit(PAGE)
      .select('s.*', { target: 'd.id' })) as (Record<string, unknown> & { id: number; target: number })[];
    if (!page.length) break;
    const targets = (await db(name).whereIn('id', page.map((p) => p.target))) as (Record<string, unknown> & { id: number; _revision: number })[]; // prettier-ignore
    const byId = new Map(targets.map((t) => [t.id, t]));
    for (const staged of page) {
      const raw = byId.get(staged.target);
      if (!raw) continue;
      const before = rowFrom(raw, columns);
      const given = rowFrom(staged, columns);
      const values: Record<string, Datum> = {};
      for (const c of columns)
        if (given[c.key] !== null && JSON.stringify(given[c.key]) !== JSON.stringify(before[c.key])) values[c.key] = given[c.key] ?? null;
      if (!Object.keys(values).length) continue;
      await updateRow(db, table, staged.target, raw._revision, values, merge.stamp);
      await addHistory(db, {
        table: table.key,
        row: staged.target,
        kind: 'changed',
        stamp: merge.stamp,
        changes: asChanges(before, values),
      });
      changed++;
    }
    last = page.at(-1)?.id ?? last;
    progress(all?.n ? last / all.n : 1);
  }
  const fresh = `FROM "${staging}" s WHERE s."${by}" IS NULL OR NOT EXISTS (SELECT 1 FROM "${name}" d WHERE d."${by}" = s."${by}")`;
  const [counted] = (await db.raw(`SELECT count(*) AS n ${fresh}`)) as { n: number }[];
  await db.raw(`INSERT INTO "${name}" (${fields}, ${system}) SELECT ${fields}, ${system} ${fresh} ORDER BY s.id`);
  return { added: counted?.n ?? 0, changed };
}

/** A key must name one line and one row: otherwise it could not be said which is changed by which. */
async function refuseDoubles(db: Database, { table, staging }: Merge, column: Column, by: string): Promise<void> {
  const doubled = async (name: string, where: string): Promise<string[]> => {
    const rows = (await db.raw(
      `SELECT min("${column.key}") AS text FROM "${name}" WHERE ${where} GROUP BY "${by}" HAVING count(*) > 1 LIMIT 5`,
    )) as { text: unknown }[];
    return rows.map((r) => `“${String(r.text)}”`);
  };
  const inFile = await doubled(staging, `"${by}" IS NOT NULL`);
  if (inFile.length)
    throw new Refused(422, 'import', `The file has several lines for one ${column.label}: ${inFile.join(', ')}. Nothing was imported.`, {});
  const inTable = await doubled(dataTable(table.key), `"${by}" IN (SELECT "${by}" FROM "${staging}")`);
  if (inTable.length)
    throw new Refused(
      422,
      'import',
      `${table.label} has several rows of one ${column.label}: ${inTable.join(', ')}, so the file cannot say which to change.`,
      {},
    );
}
