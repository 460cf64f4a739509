import { useEventListener } from '@vueuse/core';

/** Ctrl+Z and Ctrl+Shift+Z take back and do again what was changed (of the form, else of what is named), except where somebody types. */
export function useUndoKeys(of: { undo(): unknown; redo(): unknown } = useDraft()): void {
  useEventListener(document, 'keydown', (event: KeyboardEvent) => {
    const isTyping = (event.target as HTMLElement).closest('input, textarea, select, .cm-editor') !== null;
    if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z' || isTyping) return;
    event.preventDefault();
    if (event.shiftKey) void of.redo();
    else void of.undo();
  });
}
