import { useDocumentVisibility, useIntervalFn } from '@vueuse/core';

/** How often a window says that it has a record open, in milliseconds. */
const BEAT = 15_000;

/**
 * Who else has a record open, and whether it was saved since it was read: asked again and again while the window is looked at. What
 * cannot be asked is not told; it is no part of the entry.
 */
export function usePresence(form: string, record: number | null, revision: () => number | null) {
  const others = ref<readonly string[]>([]);
  const savedSince = ref(false);
  if (record === null) return { others, savedSince };
  const window = crypto.randomUUID();
  const sight = useDocumentVisibility();
  async function say(gone = false): Promise<void> {
    try {
      const answer = await api.entries.here({ key: form, id: record as number }, { window, gone });
      if (gone) return;
      others.value = answer.others;
      const read = revision();
      savedSince.value = read !== null && answer.revision !== null && answer.revision > read;
    } catch {
      others.value = [];
    }
  }
  useIntervalFn(() => sight.value === 'visible' && void say(), BEAT, { immediateCallback: true });
  watch(sight, (now) => void say(now !== 'visible'));
  onBeforeUnmount(() => void say(true));
  return { others, savedSince };
}
