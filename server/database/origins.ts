import { type Origin, parseOrigin } from '../../core/model/origin.ts';
import type { Database } from './connection';
import { execute, selected } from './statement';

export type Origins = Record<string, Origin>;

/** Where the values of records came from, by record and address. Records without a note are not in it. */
export async function originsOf(db: Database, table: string, rows: readonly number[]): Promise<Map<number, Origins>> {
  const marks = rows.map(() => '?').join(', ');
  const found = (await selected(db, `SELECT row_id, origins FROM origins WHERE table_key = ? AND row_id IN (${marks})`, [table, ...rows])) as { row_id: number; origins: string }[]; // prettier-ignore
  return new Map(
    found.map((f) => {
      const raw = JSON.parse(f.origins) as Record<string, unknown>;
      return [f.row_id, Object.fromEntries(Object.entries(raw).map(([address, origin]) => [address, parseOrigin(origin)]))];
    }),
  );
}

/** Writes where the values of records came from, by record and address. */
export async function writeOrigins(db: Database, table: string, origins: ReadonlyMap<number, Readonly<Origins>>): Promise<void> {
  for (const [row, of] of origins)
    await execute(db, 'INSERT INTO origins (table_key, row_id, origins) VALUES (?, ?, ?) ON CONFLICT (table_key, row_id) DO UPDATE SET origins = excluded.origins', [table, row, JSON.stringify(of)]); // prettier-ignore
}
