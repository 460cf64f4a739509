import { randomUUID } from 'node:crypto';
import { rm } from 'node:fs/promises';
import type { Entry, ZipFile } from 'yauzl';
import { type ImportFile, openImport } from './files';
import { unpackEntry } from './zip';

/** A file of an archive as it is brought in: unpacked beside the archive, so that however long it is, it takes no memory. */
export interface Unpacked {
  readonly file: ImportFile;
  /** Takes away what it was unpacked into. */
  drop(): Promise<void>;
}

/** Unpacks CSV of the archive at `path`, which is called `name`. Refused when it cannot be read; nothing is left then. */
export async function unpacked(zip: ZipFile, entry: Entry, path: string, name: string): Promise<Unpacked> {
  const at = `${path}.${randomUUID()}`;
  const drop = (): Promise<void> => rm(at, { force: true });
  try {
    await unpackEntry(zip, entry, at);
    return { file: await openImport(`${name}.csv`, { path: at }), drop };
  } catch (e) {
    await drop();
    throw e;
  }
}
