import { Refused } from '../services/errors';
import type { Batches } from './files';

const BATCH = 1000;
/** A value as a cell: lists joined, a link as our own export writes it by its text, other objects as JSON. */
function written(v: unknown): string {
  if (v === null || v === undefined) return '';
  if (typeof v === 'string') return v;
  if (typeof v !== 'object') return String(v as number | boolean);
  if (Array.isArray(v) && v.every((x) => x === null || typeof x !== 'object' || isLink(x))) return v.map(written).join('; ');
  return isLink(v) ? written(v.text) : JSON.stringify(v);
}
const isLink = (v: unknown): v is { id: number; text: string } =>
  typeof v === 'object' && v !== null && Object.keys(v).length === 2 && typeof (v as { id?: unknown }).id === 'number' && 'text' in v;

/** A JSON list of objects as lines: the names that any of them has are the header, in the order they are first met. `id` is left out. */
export async function* jsonLines(text: string): Batches {
  let parsed: unknown;
  try {
    parsed = JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch (e) {
    throw new Refused(422, 'file', `The file is no JSON: ${e instanceof Error ? e.message : 'it cannot be read'}.`, {});
  }
  const rows = Array.isArray(parsed) ? (parsed as unknown[]) : listIn(parsed);
  if (!rows) throw new Refused(422, 'file', 'The JSON must be a list of objects, one a row.', {});
  const wrong = rows.findIndex((r) => r === null || typeof r !== 'object' || Array.isArray(r));
  if (wrong >= 0) throw new Refused(422, 'file', `Item ${wrong + 1} of the JSON is no object; each must be one row.`, { line: wrong + 1 });
  const headers = [...new Set(rows.flatMap((r) => Object.keys(r as object)))].filter((h) => h !== 'id');
  yield [headers];
  for (let i = 0; i < rows.length; i += BATCH)
    yield rows.slice(i, i + BATCH).map((r) => headers.map((h) => written((r as Record<string, unknown>)[h])));
}

/** The only list inside an object: services often wrap their rows so. */
function listIn(value: unknown): unknown[] | null {
  if (value === null || typeof value !== 'object') return null;
  const lists = Object.values(value).filter((v) => Array.isArray(v));
  return lists.length === 1 ? (lists[0] as unknown[]) : null;
}
