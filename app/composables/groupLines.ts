/** What stands in a line of a table whose rows are grouped: the head of a group, or a row by its place among all rows. */
export type LineAt = { readonly group: number; readonly row: null } | { readonly group: null; readonly row: number };

/**
 * The lines of a table of grouped rows: each group has a head, and beneath it its rows unless it is shut. Rows stand in the order of
 * the groups, so that where a row is follows from the counts alone, whether or not it was read.
 */
export class GroupLines {
  readonly length: number;
  /** where each group’s head stands, and the place of its first row */
  private readonly heads: number[] = [];
  private readonly first: number[] = [];

  constructor(
    private readonly counts: readonly number[],
    private readonly shut: ReadonlySet<number>,
  ) {
    let [line, row] = [0, 0];
    counts.forEach((count, g) => {
      this.heads.push(line);
      this.first.push(row);
      line += 1 + (shut.has(g) ? 0 : count);
      row += count;
    });
    this.length = line;
  }

  /** What stands in a line, from 0 to `length` − 1. */
  at(line: number): LineAt {
    let [low, high] = [0, this.heads.length - 1];
    while (low < high) {
      const middle = Math.ceil((low + high) / 2);
      if ((this.heads[middle] ?? 0) <= line) low = middle;
      else high = middle - 1;
    }
    const inGroup = line - (this.heads[low] ?? 0);
    return inGroup === 0 ? { group: low, row: null } : { group: null, row: (this.first[low] ?? 0) + inGroup - 1 };
  }

  /** The stretches of rows that lie in a stretch of lines, both ends counted. */
  rowsIn(first: number, last: number): [number, number][] {
    const found: [number, number][] = [];
    this.heads.forEach((head, g) => {
      const end = head + (this.shut.has(g) ? 0 : (this.counts[g] ?? 0));
      const [from, to] = [Math.max(first, head + 1), Math.min(last, end)];
      if (from <= to) found.push([(this.first[g] ?? 0) + from - head - 1, (this.first[g] ?? 0) + to - head - 1]);
    });
    return found;
  }
}
