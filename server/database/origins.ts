import { NOTHING_NOTED, type Noted, readNote } from '../../core/model/noted.ts';
import type { Database } from './connection';
import { insertMany, selected } from './statement';

/** Notes that were read lately, by their text: most records of a form were filled in one of a few ways. */
const readLately = new Map<string, Noted>();
const MOST_READ = 300;
/** In characters: those of records with many lines name the lines, so that no two are alike. */
const LONGEST_READ = 4000;

/** A note as it is read. What is alike is one object. */
export function readNoted(text: string | null | undefined): Noted {
  if (text === null || text === undefined) return NOTHING_NOTED;
  const known = readLately.get(text);
  if (known) return known;
  const noted = readNote(text);
  if (text.length <= LONGEST_READ) {
    if (readLately.size >= MOST_READ) readLately.delete(readLately.keys().next().value as string);
    readLately.set(text, noted);
  }
  return noted;
}

/** The notes of records as they are stored; records without one are not in it. */
export async function originTexts(db: Database, table: string, rows: readonly number[]): Promise<Map<number, string>> {
  const marks = rows.map(() => '?').join(', ');
  const found = (await selected(db, `SELECT row_id, origins FROM origins WHERE table_key = ? AND row_id IN (${marks})`, [table, ...rows])) as { row_id: number; origins: string }[]; // prettier-ignore
  return new Map(found.map((f) => [f.row_id, f.origins]));
}
/** Where the values of records came from, by record. Records without a note are not in it; what is alike is one object. */
export async function notedOf(db: Database, table: string, rows: readonly number[]): Promise<Map<number, Noted>> {
  const texts = await originTexts(db, table, rows);
  return new Map([...texts].map(([row, text]) => [row, readNoted(text)]));
}

/** Writes the notes of records, as they are stored. */
export const writeOriginTexts = (db: Database, table: string, texts: readonly (readonly [row: number, text: string])[]): Promise<void> =>
  insertMany(
    db,
    'origins',
    ['table_key', 'row_id', 'origins'],
    texts.map(([row, text]) => [table, row, text]),
    'ON CONFLICT (table_key, row_id) DO UPDATE SET origins = excluded.origins',
  );
