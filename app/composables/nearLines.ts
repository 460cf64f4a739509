import { useMediaQuery } from '@vueuse/core';
import { atLeisure } from './nearView';

/** How high a line stands where nothing of it is drawn, in pixels. */
export const LINE_HEIGHT = 36;
/** What stands for lines that are not laid out: their height, until it is known. No custom property, which all in them would inherit. */
export const roomOfLines = (lines: number): string => `auto ${lines * LINE_HEIGHT}px`;

/** How far from the screen a line has live controls already. */
const MARGIN = '400px';
/**
 * How many lines are told near or far by the first of them: to ask where each of thousands is, in every frame, takes longer than to draw
 * an edit. So many lines are lower than the margin, so that each that is seen has its first one near; on a phone, where a line is a card,
 * each speaks for itself.
 */
const TOGETHER = 5;

/** How long lines below the screen wait at most where the browser is never idle, in milliseconds: they may be scrolled to meanwhile. */
const SOON = 100;

/** Tells what is near the screen, one observer for all of a table of lines: its stretches, and of those that are near some of their rows. */
export function useNearLines() {
  const narrow = useMediaQuery('(max-width: 640px)');
  const together = computed(() => (narrow.value ? 1 : TOGETHER));
  const told = new WeakMap<Element, (isNear: boolean) => void>();
  /** near, but below the screen: told some at a time when what is seen has been drawn, so that nobody waits for what they do not see */
  const below = new Set<Element>();
  let isDue = false;
  function tellBelow(): void {
    const [next] = below;
    isDue = false;
    if (!next) return;
    below.delete(next);
    told.get(next)?.(true);
    tellLater();
  }
  function tellLater(): void {
    if (isDue || !below.size) return;
    isDue = true;
    atLeisure(tellBelow, SOON);
  }
  const observer = new IntersectionObserver(
    (entries) => {
      for (const { target, isIntersecting, boundingClientRect } of entries) {
        if (isIntersecting && boundingClientRect.top > window.innerHeight) below.add(target);
        else {
          below.delete(target);
          told.get(target)?.(isIntersecting);
        }
      }
      tellLater();
    },
    // what scrolls inside the page has a margin of its own, which older browsers do not know
    { rootMargin: MARGIN, scrollMargin: MARGIN } as IntersectionObserverInit,
  );
  onBeforeUnmount(() => {
    observer.disconnect();
    below.clear();
  });
  return {
    together,
    /** Tells from now on whether an element is near, beginning with how it stands. */
    watch(element: Element, tell: (isNear: boolean) => void): void {
      if (!told.has(element)) observer.observe(element);
      told.set(element, tell);
    },
    forget(element: Element): void {
      observer.unobserve(element);
      told.delete(element);
      below.delete(element);
    },
  };
}
export type NearLines = ReturnType<typeof useNearLines>;
