import { computed, shallowRef } from 'vue';
import { useDebounceFn } from '@vueuse/core';
import { type Doc, type Happened, next, openDoc, saveState } from '../state/document';
import { ApiError, messageOf } from './useApi';

interface DocumentOptions<T> {
  /** how long a change waits for the next before it is saved, in milliseconds */
  readonly wait?: number;
  /** what is not sound is not sent: it stays here until it is */
  readonly sound?: (now: T) => boolean;
}

/**
 * A document that saves itself a little after each change, one save at a time. `save` sends what it is given under the revision it
 * is given and answers with the new one; it throws when that could not be saved, with status 409 when somebody else was first.
 */
export function useDocument<T>(save: (now: T, revision: number) => Promise<number>, options: DocumentOptions<T> = {}) {
  const doc = shallowRef<Doc<T> | null>(null);
  const failure = shallowRef('');
  const now = computed(() => doc.value?.now ?? null);
  const state = computed(() => (doc.value ? saveState(doc.value) : 'saved'));
  const conflict = computed(() => doc.value?.trouble === 'conflict');
  const canUndo = computed(() => (doc.value?.past.length ?? 0) > 0);
  const canRedo = computed(() => (doc.value?.future.length ?? 0) > 0);
  /** answers to what was sent before the document was read anew are not this one's */
  let opened = 0;
  let running: Promise<void> | null = null;

  function step(happened: Happened<T>): void {
    if (doc.value) doc.value = next(doc.value, happened);
  }
  async function run(): Promise<void> {
    while (doc.value && saveState(doc.value) === 'waiting' && (options.sound?.(doc.value.now) ?? true)) {
      const mine = opened;
      const { now, revision } = doc.value;
      step({ kind: 'sent' });
      try {
        const stored = await save(now, revision);
        if (mine !== opened) return;
        failure.value = '';
        step({ kind: 'stored', revision: stored });
      } catch (e) {
        if (mine !== opened) return;
        failure.value = messageOf(e);
        return step({ kind: 'refused', conflict: e instanceof ApiError && e.status === 409 });
      }
    }
  }
  /** Saves what is not saved yet, now, also what failed before; waits for what is on its way. Never throws: `state` says how it went. */
  function flush(): Promise<void> {
    if (running) return running;
    step({ kind: 'asked' });
    const mine = run().finally(() => {
      // read anew meanwhile, another may be running
      if (running === mine) running = null;
    });
    running = mine;
    return mine;
  }
  const soon = useDebounceFn(flush, options.wait ?? 500);

  /** Begins with what the server has; what was here is forgotten. */
  function open(stored: T, revision: number): void {
    opened++;
    running = null;
    failure.value = '';
    doc.value = openDoc(stored, revision);
  }
  function happens(happened: Happened<T>): boolean {
    const before = doc.value;
    step(happened);
    if (doc.value === before) return false;
    void soon();
    return true;
  }
  /** Makes one change, undoable; whether it changed anything. */
  const change = (to: T): boolean => happens({ kind: 'changed', to });
  const undo = (): boolean => happens({ kind: 'undone' });
  const redo = (): boolean => happens({ kind: 'redone' });

  return { doc, now, state, failure, conflict, canUndo, canRedo, open, change, undo, redo, flush };
}
