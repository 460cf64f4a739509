import { Refused } from '../services/errors';
import { Thread, ThreadFailure, excelPath } from '../utils/thread';
import type { Batches } from './files';

/*
 * Workbooks and JSON are read in a thread of its own with a bounded memory: what takes long keeps nobody waiting, and what is
 * made to exhaust memory exhausts the thread's. Only what is stored is read: a cell in the last row is one row, not a million.
 */

/** The most lines, the most columns looked at, and the most characters that are read out of one file. */
const LIMITS = { lines: 1_100_000, columns: 501, characters: 1_000_000_000, batch: 1000 };
const MEMORY_MB = 1024;

/*
 * The thread's whole code, given as text so that the bundled server needs no file beside it. It sends a batch of lines and
 * waits for "next" before it reads on.
 */
const THREAD = `
const { parentPort, workerData } = require('node:worker_threads');
const { kind, path, limits, excel } = workerData;
let go = null;
parentPort.on('message', () => go && go());
const refuse = (message, line) => { const e = new Error(message); e.refused = true; e.line = line ?? null; throw e; };
let lines = 0, characters = 0;
let batch = [];
async function flush() {
  if (!batch.length) return;
  const next = new Promise((resolve) => (go = resolve));
  parentPort.postMessage({ batch });
  batch = [];
  await next;
}
async function put(cells) {
  if (++lines > limits.lines) refuse('The file has more than ' + limits.lines.toLocaleString('en') + ' lines.');
  for (const c of cells) characters += c.length;
  if (characters > limits.characters) refuse('The file holds more text than can be read at once. Save it as CSV, in parts.');
  batch.push(cells);
  if (batch.length >= limits.batch) await flush();
}
const pad = (n) => String(n).padStart(2, '0');
function cellText(value) {
  if (value === null || value === undefined) return '';
  if (value instanceof Date) {
    const day = value.getUTCFullYear() + '-' + pad(value.getUTCMonth() + 1) + '-' + pad(value.getUTCDate());
    const time = pad(value.getUTCHours()) + ':' + pad(value.getUTCMinutes()) + ':' + pad(value.getUTCSeconds());
    if (value.getUTCFullYear() < 1900) return time;
    return time === '00:00:00' ? day : day + ' ' + time;
  }
  if (typeof value === 'object') {
    if (Array.isArray(value.richText)) return value.richText.map((r) => r.text).join('');
    if ('result' in value) return cellText(value.result);
    if ('text' in value) return typeof value.text === 'object' ? cellText(value.text) : String(value.text);
    return '';
  }
  return typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value);
}
async function workbook() {
  const Excel = require(excel);
  const reader = new Excel.stream.xlsx.WorkbookReader(path, { worksheets: 'emit', sharedStrings: 'cache', hyperlinks: 'ignore', styles: 'cache', entries: 'ignore' });
  let width = 0;
  let sheets = 0;
  for await (const sheet of reader) {
    sheets++;
    for await (const row of sheet) {
      let cells = [];
      row.eachCell({ includeEmpty: false }, (cell, column) => {
        const text = cellText(cell.value);
        if (text === '') return;
        const at = Math.min(column, limits.columns) - 1;
        while (cells.length < at) cells.push('');
        cells[at] = text;
      });
      if (!cells.length) continue;
      if (width === 0) width = cells.length;
      while (cells.length < width) cells.push('');
      await put(cells);
    }
    break;
  }
  if (!sheets) refuse('The workbook has no sheet.');
}
const isLink = (v) => typeof v === 'object' && v !== null && Object.keys(v).length === 2 && typeof v.id === 'number' && 'text' in v;
function written(v) {
  if (v === null || v === undefined) return '';
  if (typeof v === 'string') return v;
  if (typeof v !== 'object') return String(v);
  if (Array.isArray(v) && v.every((x) => x === null || typeof x !== 'object' || isLink(x))) return v.map(written).join('; ');
  return isLink(v) ? written(v.text) : JSON.stringify(v);
}
function listIn(value) {
  if (value === null || typeof value !== 'object') return null;
  const lists = Object.values(value).filter((v) => Array.isArray(v));
  return lists.length === 1 ? lists[0] : null;
}
async function json() {
  let parsed;
  try { parsed = JSON.parse(require('node:fs').readFileSync(path, 'utf8').replace(/^\\uFEFF/, '')); }
  catch (e) { refuse(e instanceof RangeError ? 'The JSON is nested too deep to be read.' : 'The file is not valid JSON: ' + e.message + '.'); }
  const rows = Array.isArray(parsed) ? parsed : listIn(parsed);
  if (!rows) refuse('The JSON must be a list of objects, one a row.');
  const names = new Set();
  for (const [i, r] of rows.entries()) {
    if (r === null || typeof r !== 'object' || Array.isArray(r)) refuse('Item ' + (i + 1) + ' of the JSON is no object; each must be one row.', i + 1);
    for (const name of Object.keys(r)) if (name !== 'id') names.add(name);
    if (names.size > limits.columns) break;
  }
  const headers = [...names];
  await put(headers);
  for (const r of rows) await put(headers.map((h) => written(Object.hasOwn(r, h) ? r[h] : null)));
}
(kind === 'xlsx' ? workbook() : json()).then(flush).then(
  () => parentPort.postMessage({ end: true }),
  (e) => parentPort.postMessage({ error: String((e && e.message) || e), refused: !!(e && e.refused), line: (e && e.line) || null }),
);
`;

type Message =
  | { readonly batch: string[][] }
  | { readonly end: true }
  | { readonly error: string; readonly refused: boolean; readonly line: number | null };

/** The lines of a workbook (its first sheet) or of a JSON list of objects, read in a thread. Refused with a sentence. */
export async function* threadLines(kind: 'xlsx' | 'json', path: string): Batches {
  const thread = new Thread<Message>(THREAD, { kind, path, limits: LIMITS, excel: kind === 'xlsx' ? excelPath() : '' }, MEMORY_MB);
  try {
    for (;;) {
      const message = await thread.next();
      if ('end' in message) return;
      if ('error' in message) {
        const what = kind === 'xlsx' && !message.refused ? `The workbook cannot be read (${message.error}).` : message.error;
        throw new Refused(422, 'file', what, message.line === null ? {} : { line: message.line });
      }
      yield message.batch;
      thread.post('next');
    }
  } catch (e) {
    if (e instanceof ThreadFailure)
      throw new Refused(422, 'file', e.exhausted ? 'The file takes more memory than it may. Save it as CSV.' : `The file could not be read to its end (${e.message}).`); // prettier-ignore
    throw e;
  } finally {
    await thread.end();
  }
}
