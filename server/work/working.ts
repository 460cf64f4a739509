import type { JobHandle } from '../services/jobs';
import type { Tasks } from './tasks';

/*
 * Long reading, done where nobody has to wait for it: in threads with a connection of their own (`Pool`), or, where the database
 * is in memory, here. What is done is in `tasks.ts`; it only reads. What has to be written is handed over in batches.
 */

export type TaskName = keyof Tasks;
export type Input<K extends TaskName> = Parameters<Tasks[K]>[1];
export type Output<K extends TaskName> = Awaited<ReturnType<Tasks[K]>>;
/** What a task hands over on its way. */
export type Batch<K extends TaskName> = Parameters<Parameters<Tasks[K]>[2]['keep']>[0];

/** What a task sees of whoever asked for it. */
export interface Out<B> extends JobHandle {
  /** Hands a batch over; resolves when it has been taken. */
  keep(batch: B): Promise<void>;
}

export interface Working {
  /** Does a task. Throws what it was refused with, and Cancelled when the job was cancelled: then it ends at once. */
  run<K extends TaskName>(name: K, input: Input<K>, job: JobHandle, keep?: (batch: Batch<K>) => Promise<void>): Promise<Output<K>>;
  close(): Promise<void>;
}
