import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { parse } from 'csv-parse';
import { uncell } from '../../core/exchange/csv.ts';
import { Refused } from '../services/errors';
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
const BATCH = 500;
/** Bytes read at once: what is read at once is taken apart at once, and others wait for it where no thread does it. */
const AT_ONCE = 1 << 15;
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
  return withHeader({ name, source }, size, (progress, only) => csvLines(source, size, progress, only));
}

/** A file of CSV text; for what is at hand as text. */
export const csvText = (text: string, name = 'file.csv'): Promise<ImportFile> => openImport(name, { text });

/** Goes through a file from its beginning; `only` says how many lines will be looked at, where that is known. */
type Open = (progress: (share: number) => void, only?: number) => Batches;
async function withHeader(at: FileAt, size: number, open: Open): Promise<ImportFile> {
  let share = 0;
  const headers = await headerOf(open(() => undefined, 1));
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

/** The separator that cuts the first line into most columns. */
function delimiterOf(text: string): string {
  const first = text.slice(0, text.search(/[\r\n]|$/));
  const counts = [',', ';', '\t', '|'].map((d) => ({ d, n: first.split(d).length }));
  return counts.reduce((best, c) => (c.n > best.n ? c : best)).d;
}

async function beginningOf(source: FileSource): Promise<string> {
  if ('text' in source) return source.text.slice(0, 100_000);
  const chunks: Buffer[] = [];
  for await (const chunk of createReadStream(source.path, { end: 99_999 })) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks).toString('utf8');
}

/** CSV (RFC 4180; comma, semicolon, tab or bar; UTF-8). A broken line is refused with its number. */
async function* csvLines(source: FileSource, size: number, progress: (share: number) => void, only?: number): Batches {
  const delimiter = delimiterOf((await beginningOf(source)).replace(/^\uFEFF/, ''));
  const input = 'path' in source ? createReadStream(source.path, { highWaterMark: AT_ONCE }) : Readable.from([Buffer.from(source.text)]);
  const parser = parse({ bom: true, delimiter, skip_empty_lines: true, relax_column_count: true, max_record_size: 1_000_000, ...(only && { to: only }) }); // prettier-ignore
  let bytes = 0;
  input.on('data', (chunk: Buffer) => progress(size > 0 ? Math.min(0.999, (bytes += chunk.length) / size) : 0));
  input.on('error', (e: Error) => parser.destroy(e));
  input.pipe(parser);
  try {
    for (;;) {
      const batch: string[][] = [];
      for (let record = parser.read() as string[] | null; record !== null; record = parser.read() as string[] | null) {
        batch.push(record);
        if (batch.length === BATCH) break;
      }
      if (batch.length) {
        yield batch.map(guarded);
        continue;
      }
      if (parser.readableEnded || parser.destroyed) {
        if (parser.errored) throw parser.errored;
        return;
      }
      await new Promise<void>((resolve, reject) => {
        const done = (e?: Error): void => {
          for (const event of ['readable', 'end', 'close'] as const) parser.off(event, done);
          parser.off('error', done);
          if (e instanceof Error) reject(e);
          else resolve();
        };
        for (const event of ['readable', 'end', 'close'] as const) parser.once(event, done);
        parser.once('error', done);
      });
    }
  } catch (e) {
    throw e instanceof Refused ? e : brokenCsv(e);
  } finally {
    input.destroy();
    parser.destroy();
  }
}

/** Texts that our own export guarded against spreadsheets come back as they were; what is no UTF-8 is refused. */
function guarded(cells: string[]): string[] {
  for (let i = 0; i < cells.length; i++) {
    const cell = cells[i] as string;
    if (cell.charCodeAt(0) === 39) cells[i] = uncell(cell);
    if (cell.includes('\uFFFD'))
      throw new Refused(422, 'file', 'The file is not in UTF-8: some characters could not be read. Save it as UTF-8 and try again.', {});
  }
  return cells;
}

function brokenCsv(e: unknown): Refused {
  const { lines, code, message } = e as { lines?: number; code?: string; message: string };
  const what = String(code).includes('QUOTE')
    ? 'a quotation mark is not closed or stands in the wrong place'
    : String(code).includes('MAX_RECORD_SIZE')
      ? 'one line is longer than a million characters'
      : `it is not well-formed CSV (${message})`;
  return new Refused(422, 'file', `The file cannot be read${lines ? ` at line ${lines}` : ''}: ${what}.`, { line: lines ?? null });
}
