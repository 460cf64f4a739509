/** How far from the screen a line has live controls already. */
const MARGIN = '400px';

/** Which lines of a table of lines are near the screen, by the `data-line` of their rows; one observer for all of them. */
export function useNearLines() {
  const near = reactive(new Set<number>());
  const observer = new IntersectionObserver(
    (entries) => {
      for (const e of entries) {
        const line = Number((e.target as HTMLElement).dataset.line);
        if (e.isIntersecting) near.add(line);
        else near.delete(line);
      }
    },
    // what scrolls inside the page has a margin of its own, which older browsers do not know
    { rootMargin: MARGIN, scrollMargin: MARGIN } as IntersectionObserverInit,
  );
  onBeforeUnmount(() => observer.disconnect());
  return {
    isNear: (line: number): boolean => near.has(line),
    watch: (row: Element): void => observer.observe(row),
    forget: (row: Element, line: number): void => {
      observer.unobserve(row);
      near.delete(line);
    },
  };
}
export type NearLines = ReturnType<typeof useNearLines>;
