import { type Origin, parseOrigin } from '../../core/model/origin.ts';
import type { Database } from './connection';
import { insertMany, selected } from './statement';

export type Origins = Readonly<Record<string, Origin>>;

/** Notes that were read lately, by their text: most records of a form were filled in one of a few ways. */
const readLately = new Map<string, Origins>();
const MOST_READ = 300;
/** In characters: those of records with many lines name the lines, so that no two are alike. */
const LONGEST_READ = 4000;

/** A note as it is read. What is alike is one object. */
export function readOrigins(text: string): Origins {
  const known = readLately.get(text);
  if (known) return known;
  const origins = JSON.parse(text) as Record<string, Origin>;
  // a record with thousands of lines has tens of thousands: read where they stand, not copied
  for (const address in origins) origins[address] = parseOrigin(origins[address]);
  if (text.length <= LONGEST_READ) {
    if (readLately.size >= MOST_READ) readLately.delete(readLately.keys().next().value as string);
    readLately.set(text, origins);
  }
  return origins;
}

/** The notes of records as they are stored; records without one are not in it. */
export async function originTexts(db: Database, table: string, rows: readonly number[]): Promise<Map<number, string>> {
  const marks = rows.map(() => '?').join(', ');
  const found = (await selected(db, `SELECT row_id, origins FROM origins WHERE table_key = ? AND row_id IN (${marks})`, [table, ...rows])) as { row_id: number; origins: string }[]; // prettier-ignore
  return new Map(found.map((f) => [f.row_id, f.origins]));
}
/** Where the values of records came from, by record and address. Records without a note are not in it; what is alike is one object. */
export async function originsOf(db: Database, table: string, rows: readonly number[]): Promise<Map<number, Origins>> {
  const texts = await originTexts(db, table, rows);
  return new Map([...texts].map(([row, text]) => [row, readOrigins(text)]));
}

/** Where one value came from, as it stands in a note: a record with many lines has hundreds, for which an object is dear to make. */
export const noteOf = (address: string, origin: Origin): string => `${JSON.stringify(address)}:${JSON.stringify(origin)}`;
/** Writes the note of a record, from its parts. */
export const writeNote = (db: Database, table: string, row: number, parts: readonly string[]): Promise<void> =>
  writeOriginTexts(db, table, [[row, `{${parts.join(',')}}`]]);

/** Writes the notes of records, as they are stored. */
export const writeOriginTexts = (db: Database, table: string, texts: readonly (readonly [row: number, text: string])[]): Promise<void> =>
  insertMany(
    db,
    'origins',
    ['table_key', 'row_id', 'origins'],
    texts.map(([row, text]) => [table, row, text]),
    'ON CONFLICT (table_key, row_id) DO UPDATE SET origins = excluded.origins',
  );
