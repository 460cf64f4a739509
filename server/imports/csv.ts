import { createReadStream } from 'node:fs';
import { StringDecoder } from 'node:string_decoder';
import { setImmediate } from 'node:timers/promises';
import Papa from 'papaparse';
import { uncell } from '../../core/exchange/csv.ts';
import { Refused } from '../services/errors';
import type { Batches, FileSource } from './files';

/* CSV: RFC 4180; comma, semicolon, tab or bar; UTF-8. A broken line is refused with its number. */

/** Bytes read at once: what is read at once is taken apart at once, and others wait for it where no thread does it. */
const AT_ONCE = 1 << 15;
/** What is looked at to tell how cells and lines are parted. */
const BEGINNING = 100_000;
const MOST_IN_LINE = 1_000_000;

/** The lines of CSV text, a batch at a time, blank ones left out. `progress` is told the share that was read, from 0 to 1. */
export async function* csvLines(source: FileSource, size: number, progress: (share: number) => void, atOnce = AT_ONCE): Batches {
  const beginning = (await beginningOf(source)).replace(/^\uFEFF/, '');
  const newline = newlineOf(beginning);
  // the parser's plain core: it takes a piece and says how far whole lines went, so that what a line may take has a bound
  const parser = new Papa.Parser({ delimiter: delimiterOf(beginning), newline });
  let rest = '';
  let lines = 0;
  let bytes = 0;
  let isBegun = false;
  const take = (last: boolean): string[][] => {
    const isGuarded = rest.includes("'");
    const { data, errors, meta } = parser.parse(rest, 0, !last) as Papa.ParseResult<string[]>;
    // of a line that is not whole yet it is too early to say
    const error = errors.find((e) => last || (e.row as number) < data.length);
    const broken = (line: number, what: string): Refused =>
      new Refused(422, 'file', `The file cannot be read at line ${line}: ${what}.`, { line });
    if (error)
      throw broken(lines + breaksIn(rest, newline, error.index ?? 0) + 1, 'a quotation mark is not closed or stands in the wrong place');
    const whole = last ? rest.length : meta.cursor;
    lines += breaksIn(rest, newline, whole);
    rest = rest.slice(whole);
    if (rest.length > MOST_IN_LINE)
      throw broken(lines + 1, 'one line is longer than a million characters, or a quotation mark in it is not closed');
    // texts that our own export guarded against spreadsheets come back as they were
    const full = data.filter((cells) => cells.length > 1 || cells[0] !== '');
    return isGuarded ? full.map((cells) => cells.map(uncell)) : full;
  };
  for await (const piece of piecesOf(source, atOnce)) {
    if (piece.text.includes('\uFFFD'))
      throw new Refused(422, 'file', 'The file is not in UTF-8: some characters could not be read. Save it as UTF-8 and try again.', {});
    rest += isBegun ? piece.text : piece.text.replace(/^\uFEFF/, '');
    isBegun ||= piece.text !== '';
    bytes += piece.bytes;
    progress(size > 0 ? Math.min(0.999, bytes / size) : 0);
    const batch = take(false);
    if (batch.length) yield batch;
  }
  const batch = rest === '' ? [] : take(true);
  if (batch.length) yield batch;
}

/** The text of a file, piece by piece; where it is no UTF-8, with the sign that stands for what could not be read. */
async function* piecesOf(source: FileSource, atOnce: number): AsyncGenerator<{ readonly text: string; readonly bytes: number }> {
  if ('text' in source) {
    for (let at = 0; at < source.text.length; at += atOnce) {
      yield { text: source.text.slice(at, at + atOnce), bytes: atOnce };
      // a file gives others their turn by itself
      await setImmediate();
    }
    return;
  }
  const decoder = new StringDecoder('utf8');
  for await (const chunk of createReadStream(source.path, { highWaterMark: atOnce }) as AsyncIterable<Buffer>)
    yield { text: decoder.write(chunk), bytes: chunk.length };
  yield { text: decoder.end(), bytes: 0 };
}

async function beginningOf(source: FileSource): Promise<string> {
  if ('text' in source) return source.text.slice(0, BEGINNING);
  const chunks: Buffer[] = [];
  for await (const chunk of createReadStream(source.path, { end: BEGINNING - 1 })) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks).toString('utf8');
}

/** The separator that cuts the first line into most columns. */
function delimiterOf(text: string): string {
  const first = text.slice(0, text.search(/[\r\n]|$/));
  const counts = [',', ';', '\t', '|'].map((d) => ({ d, n: first.split(d).length }));
  return counts.reduce((best, c) => (c.n > best.n ? c : best)).d;
}

/** What ends the first line, outside quotes. */
function newlineOf(text: string): '\n' | '\r' | '\r\n' {
  for (const [found] of text.matchAll(/"(?:[^"]|"")*"|\r\n|\n|\r/g)) if (!found.startsWith('"')) return found as '\n' | '\r' | '\r\n';
  return '\n';
}

/** How many lines end in a text before a place in it. */
function breaksIn(text: string, newline: string, end: number): number {
  let breaks = 0;
  for (let at = text.indexOf(newline); at !== -1 && at < end; at = text.indexOf(newline, at + newline.length)) breaks++;
  return breaks;
}
