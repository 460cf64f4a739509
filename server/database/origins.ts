import { type Origin, parseOrigin } from '../../core/engine/origin.ts';
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

/** Writes where a record's values came from, by address. */
export async function writeOrigins(db: Database, table: string, row: number, origins: Readonly<Origins>): Promise<void> {
  await db('origins')
    .insert({ table_key: table, row_id: row, origins: JSON.stringify(origins) })
    .onConflict(['table_key', 'row_id'])
    .merge();
}
