import { availableParallelism } from 'node:os';
import { MessageChannel } from 'node:worker_threads';
import { Tinypool } from 'tinypool';
import { Refused } from '../services/errors';
import { Cancelled, type JobHandle } from '../services/jobs';
import type { Answered, Asked, Came, Told } from './entry';
import type { Input, Output, TaskName, Working } from './working';

/** Parts of one long work that are done beside each other. */
const AT_ONCE = Math.max(2, Math.min(4, availableParallelism() - 1));
/**
 * Threads that are kept for long work, those for single statements and those for saves, which long work must not keep waiting, and those for
 * files: whoever takes one slowly keeps its thread.
 */
const [THREADS, READING, SAVING, EXPORTING] = [AT_ONCE + 1, 2, 2, 4];
/** Room for what is made and soon forgotten, in MB: thousands of records are gone through, and with little room the collector copies what is found in them again and again. */
const YOUNG = 64;
/** What tasks of a thread fail with that is ended before they are done; and how often one is done again. */
const [ENDED, MOST_AGAIN] = ['Terminating worker thread', 3];
/** How long a thread with nothing to do is kept, in ms. */
const IDLE = 60_000;

/** Does tasks in threads that are kept, each with its own connection to the file. */
export class Pool implements Working {
  readonly atOnce = AT_ONCE;
  private readonly pool: Tinypool;
  private readonly reading: Tinypool;
  private readonly saving: Tinypool;
  private readonly exporting: Tinypool;

  constructor(
    /** the bundled file that the threads run */
    entry: string,
    private readonly file: string,
    private readonly files: string,
  ) {
    const threads = (maxThreads: number): Tinypool =>
      new Tinypool({
        filename: entry,
        runtime: 'worker_threads',
        minThreads: 0,
        maxThreads,
        idleTimeout: IDLE,
        resourceLimits: { maxYoungGenerationSizeMb: YOUNG },
      });
    this.pool = threads(THREADS);
    this.reading = threads(READING);
    this.saving = threads(SAVING);
    this.exporting = threads(EXPORTING);
  }

  /**
   * A task that waits for a thread can be handed to one that is just being ended, because the work before it was cancelled as it came to
   * its end: it ends with it, and is done again. What has given parts of what it makes already is not.
   */
  async run<K extends TaskName>(name: K, input: Input<K>, job: JobHandle): Promise<Output<K>> {
    for (let again = 0; ; again++) {
      let hasGiven = false;
      const { give } = job;
      const noted = (part: unknown): Promise<unknown> => {
        hasGiven = true;
        return give?.(part) ?? Promise.resolve();
      };
      try {
        return await this.runOnce(name, input, { ...job, give: noted });
      } catch (e) {
        const isEnded = e instanceof Error && e.message === ENDED;
        if (!isEnded || hasGiven || this.isClosing || again === MOST_AGAIN) throw e;
      }
    }
  }
  private isClosing = false;

  private async runOnce<K extends TaskName>(name: K, input: Input<K>, job: JobHandle): Promise<Output<K>> {
    if (job.signal?.aborted) throw new Cancelled();
    const { port1: here, port2: port } = new MessageChannel();
    const stop = new AbortController();
    const cancel = (): void => fail(new Cancelled());
    job.signal?.addEventListener('abort', cancel, { once: true });
    let failure: unknown = null;
    const fail = (e: unknown): void => {
      failure ??= e;
      // the thread ends in the midst of what it does: it only reads
      stop.abort();
    };
    here.on('message', (told: Told) => {
      try {
        if (!('part' in told)) return job.at(...told);
        const { part, number } = told;
        const answered = (answer: unknown): void => here.postMessage({ number, answer } satisfies Answered);
        void (job.give?.(part) ?? Promise.resolve()).then(answered).catch(fail);
      } catch (e) {
        fail(e);
      }
    });
    try {
      const asked: Asked = { file: this.file, files: this.files, name, input, port };
      const came = (await this.threadsFor(name).run(asked, { transferList: [port], signal: stop.signal })) as Came;
      if (failure !== null) throw failure;
      if ('failed' in came) throw Object.assign(new Error(came.failed.message), { code: came.failed.code });
      if ('refused' in came) throw new Refused(came.refused.status, came.refused.code, came.refused.message, came.refused.details);
      return came.result as Output<K>;
    } catch (e) {
      throw failure ?? e;
    } finally {
      job.signal?.removeEventListener('abort', cancel);
      here.close();
    }
  }

  private threadsFor(name: TaskName): Tinypool {
    return { sql: this.reading, save: this.saving, export: this.exporting }[name as string] ?? this.pool;
  }

  async close(): Promise<void> {
    this.isClosing = true;
    await Promise.all([this.pool, this.reading, this.saving, this.exporting].map((p) => p.destroy()));
  }
}
