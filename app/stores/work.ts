import { defineStore } from 'pinia';

export interface Work {
  readonly id: string;
  /** what it is, for people, and the place it was begun at */
  readonly words: string;
  readonly place: string;
  readonly progress: number;
  readonly doing: string;
}
const FIRST_PAUSE = 40;
const LONGEST_PAUSE = 600;

/** Long work on the server: how far each piece is, from whatever screen it was begun, and a way to stop it. */
export const useWork = defineStore('work', () => {
  const running = shallowRef<readonly Work[]>([]);
  const put = (id: string, change: Partial<Work> | null): void => {
    running.value = running.value.flatMap((w) => (w.id !== id ? [w] : change ? [{ ...w, ...change }] : []));
  };

  /**
   * Begins work and waits for what comes of it; `began` is told what it is called. Gives null when it was cancelled. Throws ApiError
   * when it could not be begun, or failed.
   */
  async function run<T>(begin: () => Promise<Begun<T>>, words: string, began: (id: string) => void = () => undefined): Promise<T | null> {
    const { job: id } = await begin();
    running.value = [...running.value, { id, words, place: useRoute().fullPath, progress: 0, doing: '' }];
    began(id);
    try {
      for (let pause = FIRST_PAUSE; ; pause = Math.min(LONGEST_PAUSE, pause * 1.5)) {
        await new Promise((resolve) => setTimeout(resolve, pause));
        if (!running.value.some((w) => w.id === id)) return null;
        const job = await api.jobs.read({ id });
        put(id, { progress: job.progress, doing: job.doing });
        if (job.state === 'done') return job.result as T;
        if (job.state === 'cancelled') return null;
        if (job.state === 'failed') throw new ApiError(422, job.error!.code, job.error!.message, job.error!.details);
      }
    } finally {
      put(id, null);
    }
  }
  /** Stops work; what it had written is undone by the server. */
  async function cancel(id: string): Promise<void> {
    put(id, null);
    await api.jobs.cancel({ id }).catch(() => undefined);
  }
  return { running, run, cancel };
});
