import { nextTick } from 'vue';

/** How far from the screen something is drawn already, so that scrolling finds it there. */
const MARGIN = '700px';
const waiting = new Map<Element, () => void>();
let observer: IntersectionObserver | null = null;

/** Calls `reached` once, when an element comes near the screen; gives what takes that back. One observer serves all. */
export function nearView(element: Element, reached: () => void): () => void {
  observer ??= new IntersectionObserver(
    (entries) => {
      for (const { isIntersecting, target } of entries) if (isIntersecting) waiting.get(target)?.();
    },
    // what scrolls inside the page has a margin of its own, which older browsers do not know: there it is drawn as it comes into view
    { rootMargin: MARGIN, scrollMargin: MARGIN } as IntersectionObserverInit,
  );
  const stop = (): void => {
    waiting.delete(element);
    observer?.unobserve(element);
  };
  waiting.set(element, () => {
    stop();
    reached();
  });
  observer.observe(element);
  return stop;
}

const unseen = new Set<() => void>();
let idle = false;
/** how long one turn of drawing what is not seen yet may take, in milliseconds */
const TURN = 12;
async function drawUnseen(): Promise<void> {
  const until = performance.now() + TURN;
  for (const reveal of unseen) {
    unseen.delete(reveal);
    reveal();
    // what was revealed is drawn now, so that the time it takes counts; otherwise all of it would be drawn at the end, in one go
    await nextTick();
    if (performance.now() > until) break;
  }
  idle = unseen.size > 0;
  if (idle) later(() => void drawUnseen());
}
/** Does something when the browser has nothing else to do, or after so many milliseconds at most. */
export const atLeisure = (work: () => void, most: number): void =>
  void (window.requestIdleCallback ? window.requestIdleCallback(work, { timeout: most }) : setTimeout(work, Math.min(most, 50)));
const later = (work: () => void): void => atLeisure(work, 500);

/** Calls `reveal` when the browser has nothing else to do, a few at a time; gives what takes that back. */
export function whenIdle(reveal: () => void): () => void {
  unseen.add(reveal);
  if (!idle) {
    idle = true;
    later(() => void drawUnseen());
  }
  return () => void unseen.delete(reveal);
}
