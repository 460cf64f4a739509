import { availableParallelism } from 'node:os';
import { MessageChannel } from 'node:worker_threads';
import { Tinypool } from 'tinypool';
import { isServer } from '../database/connection';
import { Refused } from '../services/errors';
import { Cancelled, type JobHandle } from '../services/jobs';
import type { Answered, Asked, Came, Told } from './entry';
import type { Input, Output, TaskName, Working } from './working';

/** Parts of one long work that are done beside each other. */
const AT_ONCE = Math.max(2, Math.min(4, availableParallelism() - 1));

/** Threads that are kept for one kind of work, which no other kind keeps waiting. */
interface Kept {
  /** the most of them; whoever takes a file slowly keeps its thread */
  readonly most: number;
  /** how many stand ready once this kind of work is expected: who searches, or asks what a draft would do, does not wait until one has begun */
  readonly ready: number;
  /** how long one with nothing to do is kept, in ms; one for exports holds much */
  readonly idle: number;
}
const KEPT = {
  long: { most: AT_ONCE + 1, ready: 1, idle: 600_000 },
  reading: { most: 2, ready: 1, idle: 600_000 },
  saving: { most: 2, ready: 1, idle: 600_000 },
  exporting: { most: 4, ready: 0, idle: 60_000 },
} satisfies Record<string, Kept>;
type Kind = keyof typeof KEPT;
/** What is not done by the threads for long work. */
const KINDS: Partial<Record<TaskName, Kind>> = { sql: 'reading', save: 'saving', reshape: 'saving', export: 'exporting' };
const kindOf = (name: TaskName): Kind => KINDS[name] ?? 'long';
/** Room for what is made and soon forgotten, in MB: thousands of records are gone through, and with little room the collector copies what is found in them again and again. */
const YOUNG = 64;
/** What tasks of a thread fail with that is ended before they are done; and how often one is done again. */
const [ENDED, MOST_AGAIN] = ['Terminating worker thread', 3];

/** Does tasks in threads that are kept, each with its own connection to the file. */
export class Pool implements Working {
  readonly atOnce = AT_ONCE;
  readonly mayWrite: boolean;
  private readonly pools = new Map<Kind, Tinypool>();

  constructor(
    /** the bundled file that the threads run */
    private readonly entry: string,
    private readonly file: string,
    private readonly files: string,
  ) {
    // a server keeps only those waiting who write to the same table
    this.mayWrite = !isServer(file);
  }

  /** The threads of a kind; they begin with the first that asks for them. */
  private poolOf(kind: Kind): Tinypool {
    let known = this.pools.get(kind);
    if (!known) {
      const { most: maxThreads, ready: minThreads, idle: idleTimeout } = KEPT[kind];
      const resourceLimits = { maxYoungGenerationSizeMb: YOUNG };
      known = new Tinypool({ filename: this.entry, runtime: 'worker_threads', minThreads, maxThreads, idleTimeout, resourceLimits });
      this.pools.set(kind, known);
    }
    return known;
  }
  /** How many threads there are now. */
  get threads(): number {
    return [...this.pools.values()].reduce((sum, p) => sum + p.threads.length, 0);
  }
  expect(name: TaskName): void {
    if (!this.isClosing) this.poolOf(kindOf(name));
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
    if (this.isClosing) throw new Error(ENDED);
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
      const came = (await this.poolOf(kindOf(name)).run(asked, { transferList: [port], signal: stop.signal })) as Came;
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

  async close(): Promise<void> {
    this.isClosing = true;
    await Promise.all([...this.pools.values()].map((p) => p.destroy()));
  }
}
