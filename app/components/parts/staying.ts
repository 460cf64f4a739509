/* What keeps a list at the word it was opened from, while the page moves under both. */

/** How PrimeVue listens for scrolling on behalf of what it has opened. */
export interface ScrollHandler {
  bindScrollListener(): void;
  unbindScrollListener(): void;
  destroy(): void;
}

/** Calls `moved` with whatever was scrolled, in the whole page. */
export function scrolls(moved: (scrolled: Node) => void): ScrollHandler {
  const listen = (event: Event): void => moved(event.target as Node);
  const stop = (): void => document.removeEventListener('scroll', listen, true);
  return { bindScrollListener: () => document.addEventListener('scroll', listen, true), unbindScrollListener: stop, destroy: stop };
}

/** Whether a word was scrolled out of the window, so that its list goes with it. */
export function isAway(word: HTMLElement): boolean {
  const { top, bottom } = word.getBoundingClientRect();
  return bottom < 0 || top > window.innerHeight;
}

/** A control with a list over the page, as PrimeVue has it inside. */
export interface Listed {
  readonly $refs: { readonly container: HTMLElement };
  readonly overlayVisible: boolean;
  hide(): void;
}
/** Keeps the list of a control at it while the page moves; it goes with a control that is scrolled away. `place` puts it in its place. */
export const staysAt = (control: Listed, place: () => void): ScrollHandler =>
  scrolls((moved) => {
    const { container } = control.$refs;
    if (!control.overlayVisible || !moved.contains(container)) return;
    if (isAway(container)) control.hide();
    else place();
  });
