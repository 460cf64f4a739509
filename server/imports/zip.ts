import { createWriteStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import yauzl, { type Entry, type ZipFile } from 'yauzl';
import { Refused } from '../services/errors';

/** The most that all entries of an archive may unpack to, and how many times its own size that may be. */
const MAX_UNPACKED = 1_000_000_000;
const MAX_RATIO = 400;
const MAX_ENTRIES = 5000;

const open = (path: string): Promise<ZipFile> =>
  new Promise((resolve, reject) =>
    yauzl.open(path, { lazyEntries: true, autoClose: false, validateEntrySizes: true }, (error, zip) => {
      if (error) reject(new Refused(422, 'file', `The file is no archive that can be read (${error.message}).`, {}));
      else resolve(zip);
    }),
  );

const bomb = (): Refused => new Refused(422, 'file', 'The file unpacks to far more than its size; it is not read.', {});

/** The entries of an archive, after their sizes have been judged: an archive made to burst is refused before anything is unpacked. */
export async function zipEntries(path: string): Promise<{ zip: ZipFile; entries: readonly Entry[] }> {
  const zip = await open(path);
  return new Promise((resolve, reject) => {
    const entries: Entry[] = [];
    let unpacked = 0;
    const fail = (e: Error): void => {
      zip.close();
      reject(e instanceof Refused ? e : new Refused(422, 'file', `The archive is damaged (${e.message}).`, {}));
    };
    zip.on('entry', (entry: Entry) => {
      unpacked += entry.uncompressedSize;
      const bursts = entry.uncompressedSize > 1_000_000 && entry.uncompressedSize > entry.compressedSize * MAX_RATIO;
      if (entries.length >= MAX_ENTRIES || unpacked > MAX_UNPACKED || bursts) return fail(bomb());
      entries.push(entry);
      zip.readEntry();
    });
    zip.on('end', () => resolve({ zip, entries }));
    zip.on('error', fail);
    zip.readEntry();
  });
}

/** Unpacks one entry into a file: however long it is, it takes no memory. What it declares to be is checked meanwhile. */
export function unpackEntry(zip: ZipFile, entry: Entry, path: string): Promise<void> {
  return new Promise((resolve, reject) => {
    zip.openReadStream(entry, (error, stream) => {
      if (error) return reject(new Refused(422, 'file', `The archive is damaged (${error.message}).`, {}));
      let isDamaged = false;
      stream.on('error', () => (isDamaged = true));
      pipeline(stream, createWriteStream(path)).then(resolve, (e: Error) => reject(isDamaged ? bomb() : e));
    });
  });
}

/** Unpacks one entry; what it declares to be is checked while it is read. */
export function readEntry(zip: ZipFile, entry: Entry): Promise<Buffer> {
  return new Promise((resolve, reject) => {
    zip.openReadStream(entry, (error, stream) => {
      if (error) return reject(new Refused(422, 'file', `The archive is damaged (${error.message}).`, {}));
      const chunks: Buffer[] = [];
      stream.on('data', (c: Buffer) => chunks.push(c));
      // a size that lies is an error of the stream
      stream.on('error', () => reject(bomb()));
      stream.on('end', () => resolve(Buffer.concat(chunks)));
    });
  });
}
