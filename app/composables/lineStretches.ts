/** Lines that stand one after the other and are laid out together. */
export interface Stretch {
  readonly key: number;
  readonly lines: readonly number[];
  /** the place of its first line among all, from 0 */
  readonly first: number;
}

/** How many lines a stretch begins with; with twice as many it becomes two. */
export const STRETCH = 32;

/**
 * Lines in stretches. What the browser asks in every frame it asks of stretches and not of thousands of lines, and an edit that adds or
 * moves a line draws one of them anew. Takes the numbers of the lines in their order, and the stretches as they were: a line stays in its
 * own, whatever comes in above it, so that nobody's typing is taken from under them; one that was moved is where it was moved to. Gives
 * the very stretches it was given where nothing in them changed. Cost: linear in lines.
 */
export function stretchesOf(lines: readonly number[], before: readonly Stretch[] = []): readonly Stretch[] {
  const owner = new Map(before.flatMap((s) => s.lines.map((line) => [line, s.key] as const)));
  const was = new Map(before.map((s) => [s.key, s]));
  let fresh = Math.max(-1, ...was.keys()) + 1;
  const runs: { key: number; lines: number[] }[] = [];
  const used = new Set<number>();
  lines.forEach((line, i) => {
    const run = runs.at(-1);
    // what comes in above all others belongs to the first of them
    const own = owner.get(line) ?? (run ? undefined : owner.get(lines.find((l) => owner.has(l)) ?? NaN));
    // one that stands alone among others was moved there: the stretch it came from goes on elsewhere, if at all
    const begins =
      own !== undefined && own !== run?.key && !used.has(own) && (i + 1 >= lines.length || owner.get(lines[i + 1]!) !== run?.key);
    if (run && !begins && (before.length > 0 || run.lines.length < STRETCH)) run.lines.push(line);
    else {
      const key = own !== undefined && !used.has(own) ? own : fresh++;
      used.add(key);
      runs.push({ key, lines: [line] });
    }
  });
  const found: Stretch[] = [];
  let first = 0;
  for (const run of runs) {
    for (let from = 0; from < run.lines.length;) {
      // what grew too long is parted; the first part keeps its name
      const until = run.lines.length - from >= 2 * STRETCH ? from + STRETCH : run.lines.length;
      const part = run.lines.slice(from, until);
      const old = from === 0 ? was.get(run.key) : undefined;
      const same = old && old.lines.length === part.length && part.every((l, i) => l === old.lines[i]);
      found.push(same && old.first === first ? old : { key: from === 0 ? run.key : fresh++, lines: same ? old.lines : part, first });
      first += part.length;
      from = until;
    }
  }
  return found;
}
