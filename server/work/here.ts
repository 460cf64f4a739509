import type { JobHandle } from '../services/jobs';
import type { Workspace } from '../services/workspace';
import { TASKS } from './tasks';
import type { Batch, Input, Out, Output, TaskName, Working } from './working';

/** Does tasks in the thread it is in: in tests, and inside the threads of the pool. */
export class Here implements Working {
  constructor(private readonly ws: Workspace) {}

  run<K extends TaskName>(name: K, input: Input<K>, job: JobHandle, keep?: (batch: Batch<K>) => Promise<void>): Promise<Output<K>> {
    const task = TASKS[name] as (ws: Workspace, input: Input<K>, out: Out<Batch<K>>) => Promise<Output<K>>;
    return task(this.ws, input, { at: (progress, doing) => job.at(progress, doing), keep: async (batch) => keep?.(batch) });
  }
  close(): Promise<void> {
    return Promise.resolve();
  }
}
