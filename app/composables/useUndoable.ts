/** Something done that can be taken back and done again; both throw ApiError when the server does not take them. */
export interface Undoable {
  undo(): Promise<void>;
  redo(): Promise<void>;
}
/** How many steps are remembered. */
const MOST = 100;

/** What was done lately, for taking back what each step saved at once: newest last. One is under way at a time. */
export function useUndoable(failed: (e: unknown) => void) {
  const past = shallowRef<readonly Undoable[]>([]);
  const future = shallowRef<readonly Undoable[]>([]);
  const busy = ref(false);
  async function go(step: Undoable | undefined, back: boolean): Promise<void> {
    if (!step || busy.value) return;
    busy.value = true;
    try {
      await (back ? step.undo() : step.redo());
      past.value = back ? past.value.slice(0, -1) : [...past.value, step];
      future.value = back ? [...future.value, step] : future.value.slice(0, -1);
    } catch (e) {
      failed(e);
    } finally {
      busy.value = false;
    }
  }
  return {
    canUndo: computed(() => past.value.length > 0),
    canRedo: computed(() => future.value.length > 0),
    /** Remembers a step that has been done. */
    did(step: Undoable): void {
      past.value = [...past.value, step].slice(-MOST);
      future.value = [];
    },
    undo: (): Promise<void> => go(past.value.at(-1), true),
    redo: (): Promise<void> => go(future.value.at(-1), false),
  };
}
