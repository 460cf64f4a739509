/**
 * One piece of long work at a time for a screen: how far it is, and a way to stop it. It stops when the screen is left, unless it
 * `goesOn`: then it is found among what runs, from every screen.
 */
export function useJob(words = 'working', { goesOn = false } = {}) {
  const work = useWork();
  const id = ref<string | null>(null);
  /** begun and not answered yet */
  const starting = ref(false);
  const current = computed(() => work.running.find((w) => w.id === id.value));
  const running = computed(() => starting.value || current.value !== undefined);
  const progress = computed(() => current.value?.progress ?? 0);
  const doing = computed(() => current.value?.doing ?? '');
  let latest = 0;

  /** Begins work and waits for what comes of it: null when it was cancelled or other work was begun instead. Throws ApiError. */
  async function run<T>(begin: () => Promise<Begun<T>>): Promise<T | null> {
    await cancel();
    const mine = ++latest;
    starting.value = true;
    try {
      const result = await work.run(begin, words, (begun) => {
        if (mine === latest) id.value = begun;
        else void work.cancel(begun);
        starting.value = false;
      });
      return mine === latest ? result : null;
    } finally {
      if (mine === latest) starting.value = false;
    }
  }
  async function cancel(): Promise<void> {
    latest++;
    starting.value = false;
    const stopped = id.value;
    id.value = null;
    if (stopped) await work.cancel(stopped);
  }
  onScopeDispose(() => {
    if (!goesOn) void cancel();
  });
  return { running, progress, doing, run, cancel };
}
