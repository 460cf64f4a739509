import { createHash, randomUUID } from 'node:crypto';
import { mkdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileTypeFromBuffer } from 'file-type';
import type { Row } from '../../core/values/types.ts';
import { holdsFiles } from '../../core/values/kinds/index.ts';
import { type FilePlace, addFile, dropFiles, fileById, filesBefore, hasContent, heldIn } from '../database/files';
import type { Account } from '../database/accounts';
import { Refused, notFound } from './errors';
import { readingOf } from './tables';
import type { Workspace } from './workspace';

export const MAX_FILE_BYTES = 20_000_000;

/** What is known of a stored file, as formulas and screens read it. */
export async function fileRow(ws: Workspace, id: number): Promise<Row | null> {
  const row = await fileById(ws.db, id);
  return row ? { id, name: row.name, kind: row.kind, size: row.size } : null;
}

/** The kind of a file by its content, as an ending: `pdf`, `png`; text that no signature tells apart goes by its ending. */
async function kindOf(name: string, content: Uint8Array): Promise<string> {
  const found = await fileTypeFromBuffer(content);
  if (found) return found.ext === 'jpg' ? 'jpeg' : found.ext;
  const isText = !content.subarray(0, 4096).includes(0);
  const ending = /\.([a-z0-9]{1,8})$/i.exec(name)?.[1]?.toLowerCase() ?? '';
  return isText && ['txt', 'csv', 'json', 'md', 'svg', 'html', 'xml'].includes(ending) ? ending : isText ? 'txt' : 'bin';
}

/** Keeps a file under the hash of its content; the same content is kept once. Gives what is known of it. */
export async function storeFile(ws: Workspace, account: Account, name: string, content: Buffer): Promise<Row> {
  if (!content.length) throw new Refused(422, 'file', 'The file is empty.', {});
  if (content.length > MAX_FILE_BYTES) throw new Refused(413, 'tooMuch', `A file may have at most ${MAX_FILE_BYTES / 1e6} MB.`, {});
  const clean =
    name
      .replace(/[\p{Cc}/\\]/gu, '')
      .trim()
      .slice(0, 200) || 'file';
  const hash = createHash('sha256').update(content).digest('hex');
  const kind = await kindOf(clean, content);
  const path = pathOf(ws, hash);
  if (!(await stat(path).catch(() => null))) {
    await mkdir(join(ws.files, hash.slice(0, 2)), { recursive: true });
    // written beside and renamed, so that a file is never there in part
    const part = `${path}.${randomUUID()}.part`;
    await writeFile(part, content);
    await rename(part, path);
  }
  const size = content.length;
  const id = await addFile(ws.db, { hash, name: clean, kind, size, at: ws.clock.now(), account_id: account.id });
  return { id, name: clean, kind, size };
}

const pathOf = (ws: Workspace, hash: string): string => join(ws.files, hash.slice(0, 2), hash);

export async function readStored(ws: Workspace, id: number): Promise<{ name: string; content: Buffer }> {
  const row = Number.isSafeInteger(id) ? await fileById(ws.db, id) : null;
  if (!row) throw notFound('This file');
  return { name: row.name, content: await readFile(pathOf(ws, row.hash)) };
}

/** How long a file that no record holds is kept: whoever sent it may still be typing the record, or come back to it. In days. */
const KEPT_FOR = 14;
/** Files looked at together. */
const SWEEP = 200;
/**
 * Removes files that were sent and stand in no record any more: those of entries that were given up, and those that were taken out or
 * whose record was deleted. Gives how many. Cost: each file that is old enough, against the columns that hold files.
 */
export async function sweepFiles(ws: Workspace): Promise<number> {
  const now = ws.clock.now();
  const before = new Date(Date.parse(`${now}Z`) - KEPT_FOR * 86_400_000).toISOString().slice(0, 19);
  const places: FilePlace[] = [];
  for (const table of await ws.modelTables())
    for (const c of table.columns)
      if (holdsFiles(c.type)) places.push({ table, column: c.key, several: c.type === 'files', reading: await readingOf(ws, table) });
  let removed = 0;
  for (let after = 0; ;) {
    const page = await filesBefore(ws.db, before, after, SWEEP);
    const ids = page.map((f) => f.id);
    const held = new Set<number>();
    for (const p of ids.length ? places : []) for (const id of await heldIn(ws.db, p, ids)) held.add(id);
    const loose = page.filter((f) => !held.has(f.id));
    if (loose.length) await dropFiles(ws.db, loose.map((f) => f.id)); // prettier-ignore
    // the same content may be kept for another file
    for (const { hash } of loose) if (!(await hasContent(ws.db, hash))) await rm(pathOf(ws, hash), { force: true });
    removed += loose.length;
    if (page.length < SWEEP) return removed;
    after = ids.at(-1) ?? after;
  }
}

/** Kinds that a browser may show, with what they are sent as. */
const SHOWN: Readonly<Record<string, string>> = {
  png: 'image/png',
  jpeg: 'image/jpeg',
  gif: 'image/gif',
  webp: 'image/webp',
  pdf: 'application/pdf',
};
/** A file to be looked at in the browser: a picture or a PDF, by its content; refused for any other. */
export async function previewOf(ws: Workspace, id: number): Promise<{ name: string; type: string; content: Buffer }> {
  const row = Number.isSafeInteger(id) ? await fileById(ws.db, id) : null;
  const type = SHOWN[row?.kind ?? ''];
  if (!row) throw notFound('This file');
  if (!type) throw new Refused(422, 'file', 'Only pictures and PDFs can be looked at here. Download it instead.', {});
  return { name: row.name, type, content: await readFile(pathOf(ws, row.hash)) };
}
