import { type Origin, parseOrigin } from '../../core/model/origin.ts';
import type { Database } from './connection';

export type Origins = Record<string, Origin>;

/** Where the values of records came from, by record and address. Records without a note are not in it. */
export async function originsOf(db: Database, table: string, rows: readonly number[]): Promise<Map<number, Origins>> {
  const found = (await db('origins')
    .where({ table_key: table })
    .whereIn('row_id', [...rows])) as { row_id: number; origins: string }[];
  return new Map(
    found.map((f) => {
      const raw = JSON.parse(f.origins) as Record<string, unknown>;
      return [f.row_id, Object.fromEntries(Object.entries(raw).map(([address, origin]) => [address, parseOrigin(origin)]))];
    }),
  );
}

/** Writes where the values of records came from, by record and address. */
export async function writeOrigins(db: Database, table: string, origins: ReadonlyMap<number, Readonly<Origins>>): Promise<void> {
  const rows = [...origins].map(([row, of]) => ({ table_key: table, row_id: row, origins: JSON.stringify(of) }));
  for (let i = 0; i < rows.length; i += 100)
    await db('origins')
      .insert(rows.slice(i, i + 100))
      .onConflict(['table_key', 'row_id'])
      .merge();
}
