import { readonly, ref } from 'vue';
import { useDebounceFn } from '@vueuse/core';

export type SaveState = 'saved' | 'waiting' | 'saving' | 'failed';

/**
 * Saves something that is edited, a little after each change and one save at a time: a change that is made while a save is on
 * its way is saved after it, on top of what that save gave back, and is never taken for saved. `save` sends what there is now;
 * it throws when that could not be saved.
 */
export function useSaver(save: () => Promise<void>, wait = 500) {
  const state = ref<SaveState>('saved');
  /** counts changes: what was sent is what there is now only while none came since */
  let changes = 0;
  let running: Promise<void> | null = null;

  async function run(): Promise<void> {
    while (state.value === 'waiting') {
      const sent = changes;
      state.value = 'saving';
      try {
        await save();
      } catch (e) {
        state.value = 'failed';
        throw e;
      }
      state.value = changes === sent ? 'saved' : 'waiting';
    }
  }
  /** Saves what is not saved yet, now; waits for what is on its way. Never throws: `state` says how it went. */
  function flush(): Promise<void> {
    running ??= run()
      .catch(() => undefined)
      .finally(() => (running = null));
    return running;
  }
  const soon = useDebounceFn(flush, wait);
  /** Notes a change. */
  function touch(): void {
    changes++;
    // while a save is on its way it goes on with what was changed meanwhile
    if (state.value !== 'saving') state.value = 'waiting';
    void soon();
  }
  return { state: readonly(state), touch, flush };
}
