import { stat } from 'node:fs/promises';
import { Refused } from '../services/errors';
import { csvLines } from './csv';
import { threadLines } from './thread';
import { xlsxLines } from './xlsx';

/** Lines of a file, a batch at a time, so that a million cost no more memory than a thousand. */
export type Batches = AsyncIterable<readonly (readonly string[])[]>;

/** A file with a header line, whatever its format. It can be gone through more than once. */
export interface ImportFile {
  readonly name: string;
  /** where it is, so that a thread can open it too */
  readonly at: FileAt;
  /** bytes, for progress; 0 when not known */
  readonly size: number;
  readonly headers: readonly string[];
  /** the lines after the header, each as long as the header; refused with the line's number where one is not */
  lines(): Batches;
  /** how much of the file has been read by the newest `lines()`, from 0 to 1 */
  read(): number;
}

export type FileSource = { readonly path: string } | { readonly text: string };
/** A file by what it is called, which says what it is, and where it is. */
export interface FileAt {
  readonly name: string;
  readonly source: FileSource;
}
const MAX_COLUMNS = 500;
/** JSON is read whole, so it must be small enough for that; CSV is not. */
const MAX_JSON = 150_000_000;

/** Opens a file by what its name says it is. Refused with a sentence when it is empty or cannot be read. */
export async function openImport(name: string, source: FileSource): Promise<ImportFile> {
  const size = 'path' in source ? (await stat(source.path)).size : source.text.length;
  const ending = /\.([a-z0-9]+)$/i.exec(name)?.[1]?.toLowerCase() ?? 'csv';
  if (ending === 'xls') throw new Refused(422, 'file', 'Files of the old spreadsheet format cannot be read. Save it as XLSX or CSV.', {});
  if (ending === 'xlsx' && 'path' in source) {
    const { path } = source;
    return withHeader({ name, source }, size, () => xlsxLines(path));
  }
  if (ending === 'json' && 'path' in source) {
    const { path } = source;
    if (size > MAX_JSON)
      throw new Refused(413, 'tooMuch', `A JSON file may have at most ${MAX_JSON / 1e6} MB. CSV files may be larger.`, {});
    return withHeader({ name, source }, size, () => threadLines('json', path));
  }
  return withHeader({ name, source }, size, (progress) => csvLines(source, size, progress));
}

/** A file of CSV text; for what is at hand as text. */
export const csvText = (text: string, name = 'file.csv'): Promise<ImportFile> => openImport(name, { text });

/** Goes through a file from its beginning. */
type Open = (progress: (share: number) => void) => Batches;
async function withHeader(at: FileAt, size: number, open: Open): Promise<ImportFile> {
  let share = 0;
  const headers = await headerOf(open(() => undefined));
  return {
    name: at.name,
    at,
    size,
    headers,
    read: () => share,
    async *lines() {
      share = 0;
      let line = 1;
      for await (const batch of open((s) => (share = s))) {
        const rest = line === 1 ? batch.slice(1) : batch;
        line += line === 1 ? 1 : 0;
        for (const cells of rest) {
          if (cells.length !== headers.length) {
            const values = `${cells.length} ${cells.length === 1 ? 'value' : 'values'}`;
            throw new Refused(422, 'file', `Line ${line} has ${values}, but the header names ${headers.length} columns.`, { line });
          }
          line++;
        }
        if (rest.length) yield rest;
      }
      share = 1;
    },
  };
}

async function headerOf(batches: Batches): Promise<readonly string[]> {
  for await (const [first] of batches) {
    if (!first || first.every((h) => h.trim() === '')) break;
    if (first.length > MAX_COLUMNS)
      throw new Refused(
        422,
        'file',
        `The file has ${first.length.toLocaleString('en')} columns; at most ${MAX_COLUMNS} can be imported.`,
        {},
      );
    return first.map((h) => h.trim());
  }
  throw new Refused(422, 'file', 'The file is empty. Its first line must name the columns.', {});
}
