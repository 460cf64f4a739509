import { createHash, randomUUID } from 'node:crypto';
import { mkdir, readFile, rename, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileTypeFromBuffer } from 'file-type';
import type { Row } from '../../core/values/types.ts';
import { addFile, fileById } from '../database/files';
import type { Account } from '../database/accounts';
import { Refused, notFound } from './errors';
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
