import { type FileHandle, open } from 'node:fs/promises';
import type BetterSqlite3 from 'better-sqlite3';
import type { Connection } from './client';

/*
 * Brings what stands in the log beside a file to the disk, in a thread of Node's: SQLite itself does that where the log is written, and
 * nobody is answered meanwhile. What it writes there is durable once this was done after it
 * (https://www.sqlite.org/wal.html, “Performance Considerations”).
 */

type Held = Connection & Pick<BetterSqlite3.Database, 'memory' | 'name'>;

/**
 * The log of one connection. It stays open as long as the connection is: so long SQLite does not put another in its place. Of the files of
 * a database it is the one that may be opened and closed here: SQLite locks the others, and closing one lets go of that.
 */
class Log {
  private file: FileHandle | null = null;
  /** how long it took the last time, in ms */
  took = 0;
  /** what is brought there now, and what will be as soon as that is done */
  private now: Promise<void> | null = null;
  private next: Promise<void> | null = null;
  constructor(private readonly name: string) {}

  /** Waits until all that stands in the log by now is on the disk. Throws where the disk does not take it. */
  sync(): Promise<void> {
    if (!this.now) return this.begin();
    // what is under way may have begun before the last was written; whoever comes until it is done goes along with the next
    return (this.next ??= this.now.catch(() => undefined).then(() => this.begin()));
  }
  private begin(): Promise<void> {
    this.next = null;
    const now = this.bring().finally(() => {
      if (this.now === now) this.now = null;
    });
    return (this.now = now);
  }
  private async bring(): Promise<void> {
    this.file ??= await open(this.name, 'r+');
    const began = performance.now();
    await this.file.datasync();
    this.took = performance.now() - began;
  }

  async close(): Promise<void> {
    await this.now?.catch(() => undefined);
    await this.file?.close();
  }
}

const logs = new WeakMap<Connection, Log>();
/** Null for what is in memory. */
function logOf(connection: Connection): Log | null {
  const { memory, name } = connection as Held;
  if (memory) return null;
  let log = logs.get(connection);
  if (!log) logs.set(connection, (log = new Log(`${name}-wal`)));
  return log;
}

/** Waits until what a connection has written so far is on the disk. Throws where the disk does not take it. */
export const synced = (connection: Connection): Promise<void> => logOf(connection)?.sync() ?? Promise.resolve();

/** What takes longer than this, in ms, is worth the way to another thread and back. */
const SLOW = 2;
/** Whether the disk, or the machine, is slow just now: then it is better waited for aside. */
export const isSlow = (connection: Connection): boolean => (logOf(connection)?.took ?? 0) > SLOW;
/** Notes how long SQLite took to bring there itself what a connection has written, in ms. */
export function tookByItself(connection: Connection, ms: number): void {
  const log = logOf(connection);
  if (log) log.took = ms;
}

/** Call before a connection is closed. */
export const closeLog = (connection: Connection): Promise<void> => logs.get(connection)?.close() ?? Promise.resolve();
