/*
 * What can go wrong around the application, said in one sentence with what to do: at the start, and when a request meets it.
 */

const SENTENCES: Readonly<Record<string, string>> = {
  SQLITE_FULL: 'The disk is full. Make room, then try again; what was saved before is safe.',
  ENOSPC: 'The disk is full. Make room, then try again; what was saved before is safe.',
  SQLITE_READONLY: 'The database file cannot be written. Give the server the right to write its folder, then start it again.',
  EROFS: 'The database folder is on a disk that cannot be written. Choose another with BRISK_DATA.',
  EACCES: 'The server may not read or write its data folder. Give it the right to, or choose another with BRISK_DATA.',
  EPERM: 'The server may not read or write its data folder. Give it the right to, or choose another with BRISK_DATA.',
  SQLITE_CANTOPEN: 'The database file cannot be opened. Check that the folder named by BRISK_DATA is there and can be written.',
  SQLITE_BUSY: 'Another program holds the database. Close it (a second server, a backup, an SQL tool), then try again.',
  SQLITE_LOCKED: 'Another program holds the database. Close it (a second server, a backup, an SQL tool), then try again.',
  SQLITE_CORRUPT: 'The database file is damaged. Put a backup in its place (docs/operating.md), then start again.',
  SQLITE_NOTADB: 'The database file is no database. Put a backup in its place (docs/operating.md), then start again.',
  SQLITE_IOERR: 'The disk could not be read or written. Check it, then try again.',
  EIO: 'The disk could not be read or written. Check it, then try again.',
  ECONNREFUSED: 'The database server named by DATABASE_URL does not answer. Start it, or correct the address, then try again.',
  ENOTFOUND: 'The database server named by DATABASE_URL is not known. Correct the address, then start again.',
  '28P01': 'The database server does not take the name and password in DATABASE_URL. Correct them, then start again.',
  '28000': 'The database server does not take the name and password in DATABASE_URL. Correct them, then start again.',
  '3D000': 'The database named by DATABASE_URL is not there. Make it (createdb), then start again.',
  '42501': 'The account in DATABASE_URL may not do that. Make it the owner of the database, then try again.',
  '53100': 'The disk of the database server is full. Make room, then try again; what was saved before is safe.',
  '53300': 'The database server has no connection left. Allow it more (max_connections), then try again.',
  '57P01': 'The database server was stopped. Start it, then try again; what was saved before is safe.',
  EEXIST: 'BRISK_DATA names a file where a folder is needed. Choose another folder.',
  ENOTDIR: 'BRISK_DATA names a file where a folder is needed. Choose another folder.',
  EADDRINUSE: 'The port is taken by another program. Stop it, or choose another port with PORT.',
  EADDRNOTAVAIL: 'The address to listen on is not one of this machine. Choose another with HOST.',
};

/** The sentence for an error of the world around us; null when it is a mistake of ours. */
export function troubleOf(error: unknown): string | null {
  for (let e = error, depth = 0; e && typeof e === 'object' && depth < 5; e = (e as { cause?: unknown }).cause, depth++) {
    const code = String((e as { code?: unknown }).code ?? '');
    const known = SENTENCES[code] ?? SENTENCES[code.split('_').slice(0, 2).join('_')];
    if (known) return known;
  }
  return null;
}
