import { useEventListener } from '@vueuse/core';

/** Whether somebody types into something that takes text. */
export const isTypedInto = (at: Element | null): boolean =>
  at instanceof HTMLInputElement || at instanceof HTMLTextAreaElement || (at instanceof HTMLElement && at.isContentEditable);

/**
 * What is typed while a field is on its way that a key asked for: nobody waits for it, and nothing of it goes elsewhere. `comes` tells while
 * it is asked for, `isThere` whether it takes the keys itself by now.
 */
export function useEarlyKeys(comes: () => boolean, isThere: () => boolean): Readonly<Ref<string>> {
  const early = ref('');
  const keep = (event: KeyboardEvent): void => {
    if (event.key.length > 1 || event.ctrlKey || event.metaKey || event.altKey || isThere()) return;
    event.preventDefault();
    event.stopPropagation();
    early.value += event.key;
  };
  useEventListener(() => (comes() ? document : null), 'keydown', keep, { capture: true });
  watch(comes, (is) => is || (early.value = ''));
  return early;
}
