import { createRequire } from 'node:module';
import { Worker } from 'node:worker_threads';

/** What long reading needs of a database: raw SQL with bound values, rows back. A Knex instance is one too. */
export interface Reading {
  raw(sql: string, bindings?: readonly (string | number | null)[]): PromiseLike<unknown>;
}

/*
 * The thread's whole code: it opens the file read-only and answers statements one after another. It is given as text so
 * that the bundled server needs no file beside it.
 */
const THREAD = `
const { parentPort, workerData } = require('node:worker_threads');
const Database = require(workerData.driver);
const db = new Database(workerData.file, { readonly: true });
parentPort.on('message', ({ id, sql, bindings }) => {
  try { parentPort.postMessage({ id, rows: db.prepare(sql).all(...bindings) }); }
  catch (e) { parentPort.postMessage({ id, error: String(e && e.message || e) }); }
});
`;

/**
 * Reads in a thread of its own, so that counting a million rows keeps nobody waiting. The thread begins with the first
 * question and ends when the process does.
 */
export class Aside implements Reading {
  private worker: Worker | null = null;
  private readonly open = new Map<number, { resolve(rows: unknown): void; reject(e: Error): void }>();
  private asked = 0;

  constructor(private readonly file: string) {}

  raw(sql: string, bindings: readonly (string | number | null)[] = []): Promise<unknown> {
    return new Promise((resolve, reject) => {
      const id = ++this.asked;
      this.open.set(id, { resolve, reject });
      this.thread().postMessage({ id, sql, bindings });
    });
  }

  /** Ends the thread, which holds the file open. What is still asked fails. */
  async close(): Promise<void> {
    const { worker } = this;
    this.worker = null;
    for (const { reject } of this.open.values()) reject(new Error('The server is stopping.'));
    this.open.clear();
    await worker?.terminate();
  }

  private thread(): Worker {
    if (this.worker) return this.worker;
    const driver = createRequire(import.meta.url).resolve('better-sqlite3');
    const worker = new Worker(THREAD, { eval: true, workerData: { file: this.file, driver } });
    worker.unref();
    worker.on('message', ({ id, rows, error }: { id: number; rows?: unknown; error?: string }) => {
      const waiting = this.open.get(id);
      this.open.delete(id);
      if (error === undefined) waiting?.resolve(rows);
      else waiting?.reject(new Error(error));
    });
    worker.on('error', (e: Error) => {
      this.worker = null;
      for (const { reject } of this.open.values()) reject(e);
      this.open.clear();
    });
    return (this.worker = worker);
  }
}
