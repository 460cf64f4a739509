export interface Link {
  readonly from: string;
  readonly to: string;
}
export interface Lane {
  readonly driver: string;
  readonly dependents: readonly string[];
  /** 0 is nearest to the fields */
  readonly lane: number;
}

/**
 * Gives each driver a lane so that no two tracks in one lane overlap: drivers in the order of their fields, short
 * tracks near the fields. Cost: drivers × lanes.
 */
export function lanesOf(links: readonly Link[], yOf: (key: string) => number): Lane[] {
  const byDriver = new Map<string, string[]>();
  for (const { from, to } of links) byDriver.set(from, [...(byDriver.get(from) ?? []), to]);
  const spans = [...byDriver].map(([driver, dependents]) => {
    const ys = [driver, ...dependents].map(yOf);
    return { driver, dependents, top: Math.min(...ys), bottom: Math.max(...ys) };
  });
  spans.sort((a, b) => a.bottom - a.top - (b.bottom - b.top) || a.top - b.top);
  const lanes: { top: number; bottom: number }[][] = [];
  const placed = spans.map(({ driver, dependents, top, bottom }) => {
    let lane = lanes.findIndex((taken) => taken.every((t) => bottom < t.top || top > t.bottom));
    if (lane < 0) lane = lanes.push([]) - 1;
    lanes[lane]?.push({ top, bottom });
    return { driver, dependents, lane };
  });
  return placed.sort((a, b) => yOf(a.driver) - yOf(b.driver));
}
