import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { randomUUID } from 'node:crypto';
import { Refused, notFound } from './errors';

/*
 * Long work: begun by a request, watched by others, cancelled by another. Jobs live in memory; what they write is staged,
 * so that one cut short leaves nothing behind.
 */

export class Cancelled extends Error {
  constructor() {
    super('cancelled');
  }
}

export type JobState = Answer<typeof contract.jobs.read>;

/** What the work itself sees of its job. */
export interface JobHandle {
  /** Says how far it is: from 0 to 1, or, of a part of something, as whoever asked for it takes it. Throws Cancelled when somebody cancelled it. */
  at(progress: number, doing?: string): void;
  /** Hands on a part of what it makes, or asks something, to whoever asked for the work; ends with what that answers. */
  give?(part: unknown): Promise<unknown>;
  /** aborted when somebody cancels it: what cannot ask `at` in between is ended by it */
  readonly signal?: AbortSignal;
}
/** For work done without anybody watching. */
export const UNWATCHED: JobHandle = { at: () => undefined };

interface Job {
  state: JobState;
  readonly account: number;
  readonly cancel: AbortController;
}
const jobs = new Map<string, Job>();
const KEPT = 50;

/** Begins work; gives its id at once. */
export function beginJob(kind: string, account: number, work: (job: JobHandle) => Promise<unknown>): string {
  const id = randomUUID();
  const job: Job = {
    account,
    cancel: new AbortController(),
    state: { id, kind, state: 'running', progress: 0, doing: '', result: null, error: null },
  };
  jobs.set(id, job);
  for (const old of jobs.keys()) if (jobs.size > KEPT && jobs.get(old)?.state.state !== 'running') jobs.delete(old);
  const handle: JobHandle = {
    signal: job.cancel.signal,
    at(progress, doing) {
      if (job.cancel.signal.aborted) throw new Cancelled();
      job.state = { ...job.state, progress: Math.min(1, Math.max(0, progress)), doing: doing ?? job.state.doing };
    },
  };
  void work(handle).then(
    (result) => (job.state = { ...job.state, state: 'done', progress: 1, result }),
    (e: unknown) => {
      if (e instanceof Cancelled) job.state = { ...job.state, state: 'cancelled' };
      else if (e instanceof Refused)
        job.state = { ...job.state, state: 'failed', error: { code: e.code, message: e.message, details: e.details } };
      else {
        console.error(`[job ${kind}]`, e);
        job.state = {
          ...job.state,
          state: 'failed',
          error: { code: 'failed', message: 'Something went wrong on the server. Nothing was changed.', details: {} },
        };
      }
    },
  );
  return id;
}

function jobOf(id: string, account: number): Job {
  const job = jobs.get(id);
  if (!job || job.account !== account) throw notFound('This work');
  return job;
}
export const jobState = (id: string, account: number): JobState => jobOf(id, account).state;
export function cancelJob(id: string, account: number): void {
  jobOf(id, account).cancel.abort();
}
