import { useEventListener } from '@vueuse/core';

/** Ctrl+Z and Ctrl+Shift+Z take back and do again what was changed of the form, except where somebody types. */
export function useUndoKeys(): void {
  const draft = useDraft();
  useEventListener(document, 'keydown', (event: KeyboardEvent) => {
    const isTyping = (event.target as HTMLElement).closest('input, textarea, select, .cm-editor') !== null;
    if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z' || isTyping) return;
    event.preventDefault();
    if (event.shiftKey) draft.redo();
    else draft.undo();
  });
}
