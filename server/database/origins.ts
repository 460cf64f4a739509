import { type Origin, parseOrigin } from '../../core/model/origin.ts';
import type { Database } from './connection';
import { insertMany, selected } from './statement';

export type Origins = Record<string, Origin>;

/** Where the values of records came from, by record and address. Records without a note are not in it. */
export async function originsOf(db: Database, table: string, rows: readonly number[]): Promise<Map<number, Origins>> {
  const marks = rows.map(() => '?').join(', ');
  const found = (await selected(db, `SELECT row_id, origins FROM origins WHERE table_key = ? AND row_id IN (${marks})`, [table, ...rows])) as { row_id: number; origins: string }[]; // prettier-ignore
  return new Map(
    found.map((f) => {
      // a record with thousands of lines has tens of thousands: read where they stand, not copied
      const origins = JSON.parse(f.origins) as Origins;
      for (const address in origins) origins[address] = parseOrigin(origins[address]);
      return [f.row_id, origins];
    }),
  );
}

/** Writes where the values of records came from, by record and address. */
export const writeOrigins = (db: Database, table: string, origins: ReadonlyMap<number, Readonly<Origins>>): Promise<void> =>
  insertMany(
    db,
    'origins',
    ['table_key', 'row_id', 'origins'],
    [...origins].map(([row, of]) => [table, row, JSON.stringify(of)]),
    'ON CONFLICT (table_key, row_id) DO UPDATE SET origins = excluded.origins',
  );
