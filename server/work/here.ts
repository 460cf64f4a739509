import type { JobHandle } from '../services/jobs';
import type { Workspace } from '../services/workspace';
import { TASKS } from './tasks';
import type { Input, Output, TaskName, Working } from './working';

/** Does tasks in the thread it is in: in tests, and inside the threads of the pool. */
export class Here implements Working {
  readonly atOnce = 1;
  readonly mayWrite = false;

  constructor(private readonly ws: Workspace) {}

  run<K extends TaskName>(name: K, input: Input<K>, job: JobHandle): Promise<Output<K>> {
    const task = TASKS[name] as (ws: Workspace, input: Input<K>, job: JobHandle) => Promise<Output<K>>;
    return task(this.ws, input, job);
  }
  expect(): void {
    // it is here
  }
  close(): Promise<void> {
    return Promise.resolve();
  }
}
