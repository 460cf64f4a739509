import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Transform } from 'node:stream';
import { type ImportFile, openImport } from '../imports/files';
import { Refused, notFound } from './errors';
import { MAX_IMPORT_BYTES } from './imports';
import type { Workspace } from './workspace';

/* Files on their way into tables: kept on disk until they are brought in, or for a few hours. */

interface Upload {
  readonly path: string;
  readonly name: string;
  readonly account: number;
}
const uploads = new Map<string, Upload>();
const HOURS = 6;

const folderOf = (ws: Workspace): string => join(ws.files, 'uploads');

/** Writes a stream to disk; gives the id to speak of it by. Refused when it is too large. */
export async function takeUpload(
  ws: Workspace,
  account: number,
  name: string,
  stream: Readable,
): Promise<{ id: string; name: string; size: number }> {
  const folder = folderOf(ws);
  await mkdir(folder, { recursive: true });
  await sweep(folder);
  const id = randomUUID();
  const path = join(folder, id);
  let size = 0;
  const counted = new Transform({
    transform(chunk: Buffer, _, done) {
      size += chunk.length;
      done(size > MAX_IMPORT_BYTES ? new Refused(413, 'tooMuch', `A file may have at most ${MAX_IMPORT_BYTES / 1e9} GB.`) : null, chunk);
    },
  });
  try {
    await pipeline(stream, counted, createWriteStream(path));
  } catch (e) {
    await rm(path, { force: true });
    throw e;
  }
  uploads.set(id, { path, name, account });
  return { id, name, size };
}

async function sweep(folder: string): Promise<void> {
  for (const file of await readdir(folder)) {
    const path = join(folder, file);
    const age = Date.now() - ((await stat(path).catch(() => null))?.mtimeMs ?? Date.now());
    if (age > HOURS * 3_600_000) await rm(path, { force: true });
  }
}

export function uploadOf(id: string, account: number): Upload {
  const upload = uploads.get(id);
  if (!upload || upload.account !== account) throw notFound('The file that was sent (send it again)');
  return upload;
}
export const openUpload = (id: string, account: number): Promise<ImportFile> => {
  const { name, path } = uploadOf(id, account);
  return openImport(name, { path });
};
export async function dropUpload(id: string): Promise<void> {
  const upload = uploads.get(id);
  uploads.delete(id);
  if (upload) await rm(upload.path, { force: true });
}
