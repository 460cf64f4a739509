import type { JobHandle } from '../services/jobs';
import type { Tasks } from './tasks';

/*
 * Long reading, done where nobody has to wait for it: in threads with a connection of their own (`Pool`), or, where the database
 * is in memory, here. What is done is in `tasks.ts`; it only reads, but for what makes tables others (`reshapes.ts`). What else has to be
 * written is given back.
 */

export type TaskName = keyof Tasks;
export type Input<K extends TaskName> = Parameters<Tasks[K]>[1];
export type Output<K extends TaskName> = Awaited<ReturnType<Tasks[K]>>;

export interface Working {
  /** how many parts of one long work are worth doing beside each other */
  readonly atOnce: number;
  /** whether it can write too, in turn with whoever asks */
  readonly mayWrite: boolean;
  /** Does a task. Throws what it was refused with, and Cancelled when the job was cancelled: then it ends at once. */
  run<K extends TaskName>(name: K, input: Input<K>, job: JobHandle): Promise<Output<K>>;
  /** Somebody may soon ask for such a task: what does it stands ready from now on, so that they do not wait until it has begun. */
  expect(name: TaskName): void;
  close(): Promise<void>;
}
