import { createRequire } from 'node:module';
import { Worker } from 'node:worker_threads';

/** Why a thread said no more. */
export class ThreadFailure extends Error {
  constructor(
    message: string,
    /** it took more memory than it was given */
    readonly exhausted: boolean,
  ) {
    super(message);
  }
}

/** Where a thread finds the package that reads and writes workbooks. */
export const excelPath = (): string => createRequire(import.meta.url).resolve('exceljs');

/**
 * A thread with a memory of its own, whose messages are taken one by one. Its whole code is given as text, so that the bundled
 * server needs no file beside it.
 */
export class Thread<Message> {
  private readonly worker: Worker;
  private readonly queue: (Message | ThreadFailure)[] = [];
  private wake: (() => void) | null = null;

  constructor(code: string, workerData: unknown, memoryMb: number) {
    this.worker = new Worker(code, { eval: true, workerData, resourceLimits: { maxOldGenerationSizeMb: memoryMb } });
    const arrive = (message: Message | ThreadFailure): void => {
      this.queue.push(message);
      this.wake?.();
    };
    this.worker.on('message', arrive);
    this.worker.on('error', (e: NodeJS.ErrnoException) => arrive(new ThreadFailure(e.message, e.code === 'ERR_WORKER_OUT_OF_MEMORY')));
    this.worker.on('exit', () => arrive(new ThreadFailure('its thread ended', false)));
  }

  /** The next message, waited for. Throws ThreadFailure when there will be none. */
  async next(): Promise<Message> {
    if (!this.queue.length) await new Promise<void>((resolve) => (this.wake = resolve));
    this.wake = null;
    const message = this.queue.shift() as Message | ThreadFailure;
    if (message instanceof ThreadFailure) throw message;
    return message;
  }
  post(message: unknown): void {
    this.worker.postMessage(message);
  }
  async end(): Promise<void> {
    await this.worker.terminate();
  }
}
