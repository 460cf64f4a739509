interface JobState {
  readonly state: 'running' | 'done' | 'failed' | 'cancelled';
  readonly progress: number;
  readonly doing: string;
  readonly result: unknown;
  readonly error: { readonly code: string; readonly message: string; readonly details: Record<string, unknown> } | null;
}

/** Long work on the server, one piece at a time: how far it is, and a way to stop it. It stops when the screen is left, unless it `goesOn`. */
export function useJob({ goesOn = false } = {}) {
  const running = ref(false);
  const progress = ref(0);
  const doing = ref('');
  let current: string | null = null;

  /** Begins work and waits for what comes of it: null when it was cancelled or other work was begun instead. Throws ApiError. */
  async function run<T>(path: string, body: unknown): Promise<T | null> {
    await cancel();
    running.value = true;
    progress.value = 0;
    doing.value = '';
    let id: string | null = null;
    try {
      id = (await api<{ job: string }>(path, { body })).job;
      current = id;
      for (let pause = 40; ; pause = Math.min(600, pause * 1.5)) {
        await new Promise((resolve) => setTimeout(resolve, pause));
        if (current !== id) return null;
        const job = await api<JobState>(`jobs/${id}`);
        if (current !== id) return null;
        progress.value = job.progress;
        doing.value = job.doing;
        if (job.state === 'done') return job.result as T;
        if (job.state === 'cancelled') return null;
        if (job.state === 'failed') throw new ApiError(422, job.error!.code, job.error!.message, job.error!.details);
      }
    } finally {
      if (current === id) {
        current = null;
        running.value = false;
      }
    }
  }
  /** Stops what runs; what it had written is undone by the server. */
  async function cancel(): Promise<void> {
    const id = current;
    current = null;
    running.value = false;
    if (id) await api(`jobs/${id}`, { method: 'DELETE' }).catch(() => undefined);
  }
  onScopeDispose(() => {
    if (goesOn) current = null;
    else void cancel();
  });
  return { running: readonly(running), progress: readonly(progress), doing: readonly(doing), run, cancel };
}
