import { useEventListener } from '@vueuse/core';

/** Whether somebody types into something that takes text. */
export const isTypedInto = (at: Element | null): boolean =>
  at instanceof HTMLInputElement || at instanceof HTMLTextAreaElement || (at instanceof HTMLElement && at.isContentEditable);

/**
 * What is typed while a field is on its way that a key asked for: nobody waits for it, and nothing of it goes elsewhere. `comes` tells while
 * it is asked for, `isThere` whether it takes the keys itself by now. `applied` is told what was typed where Ctrl+Enter ends it already.
 */
export function useEarlyKeys(comes: () => boolean, isThere: () => boolean, applied?: (text: string) => void): Readonly<Ref<string>> {
  const early = ref('');
  const keep = (event: KeyboardEvent): void => {
    const { key, ctrlKey, metaKey, altKey } = event;
    const isEnd = applied !== undefined && key === 'Enter' && (ctrlKey || metaKey);
    const isBack = key === 'Backspace' && early.value !== '';
    const isText = key.length === 1 && !ctrlKey && !metaKey && !altKey;
    if (isThere() || !(isEnd || isBack || isText)) return;
    event.preventDefault();
    event.stopPropagation();
    if (isEnd) applied(early.value);
    else early.value = isBack ? early.value.slice(0, -1) : early.value + key;
  };
  useEventListener(() => (comes() ? document : null), 'keydown', keep, { capture: true });
  watch(comes, (is) => is || (early.value = ''));
  return early;
}
