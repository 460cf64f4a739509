import { useMediaQuery } from '@vueuse/core';

/** How far from the screen a line has live controls already. */
const MARGIN = '400px';
/**
 * How many lines are told near or far by the first of them: to ask where each of thousands is, in every frame, takes longer than to draw
 * an edit. So many lines are lower than the margin, so that each that is seen has its first one near; on a phone, where a line is a card,
 * each speaks for itself.
 */
const TOGETHER = 5;

/** Which lines of a table of lines are near the screen, by their place; one observer for all of them. */
export function useNearLines() {
  const narrow = useMediaQuery('(max-width: 640px)');
  const together = computed(() => (narrow.value ? 1 : TOGETHER));
  const blocks = new WeakMap<Element, number>();
  const near = reactive(new Set<number>());
  const observer = new IntersectionObserver(
    (entries) => {
      for (const e of entries) {
        const block = blocks.get(e.target);
        if (block === undefined) continue;
        if (e.isIntersecting) near.add(block);
        else near.delete(block);
      }
    },
    // what scrolls inside the page has a margin of its own, which older browsers do not know
    { rootMargin: MARGIN, scrollMargin: MARGIN } as IntersectionObserverInit,
  );
  onBeforeUnmount(() => observer.disconnect());
  const blockOf = (place: number): number => Math.floor(place / together.value);
  return {
    /** Whether a line at a place, from 0, is near. */
    isNear: (place: number): boolean => near.has(blockOf(place)),
    /** Watches the row at a place, where it speaks for those behind it. */
    watch(row: Element, place: number): void {
      const block = place % together.value === 0 ? blockOf(place) : undefined;
      if (blocks.get(row) === block) return;
      // what was near stays so until it is told otherwise: a line put in above moves all of them on by one place
      observer.unobserve(row);
      blocks.delete(row);
      if (block === undefined) return;
      blocks.set(row, block);
      observer.observe(row);
    },
    forget(row: Element): void {
      observer.unobserve(row);
      blocks.delete(row);
    },
  };
}
export type NearLines = ReturnType<typeof useNearLines>;
