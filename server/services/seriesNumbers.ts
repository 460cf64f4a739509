/** A number that a save counts on, until it is taken or not. */
export interface Reserved {
  readonly series: string;
  readonly number: number;
  readonly run: number;
}
interface Run {
  readonly run: number;
  next: number;
}

/**
 * Numbers of series for saves that are worked out beside each other: each is told another, as if those before it were taken. Only the
 * transaction that saves takes a number (database/series.ts), and only the one that is next; where a save before it came to nothing,
 * those after it are worked out again. So no number is left out and none is given twice, in however many processes.
 */
export class SeriesNumbers {
  private readonly runs = new Map<string, Run>();
  private count = 0;
  /** `read` gives the number that is next in the database */
  constructor(private readonly read: (series: string) => Promise<number>) {}

  async reserve(series: string): Promise<Reserved> {
    if (!this.runs.has(series)) {
      const next = await this.read(series);
      // of those who asked at the same time the first begins the run
      if (!this.runs.has(series)) {
        if (this.runs.size >= MOST_SERIES) this.runs.clear();
        this.runs.set(series, { run: ++this.count, next });
      }
    }
    const run = this.runs.get(series) as Run;
    return { series, number: run.next++, run: run.run };
  }

  /** A number was not taken after all, or was another's: those given after it are no longer right. */
  release({ series, number, run: of }: Reserved): void {
    const run = this.runs.get(series);
    if (run?.run !== of) return;
    if (run.next === number + 1) run.next--;
    else this.runs.delete(series);
  }
  /** A number turned out to be wrong: what others have taken is read anew. */
  mistaken({ series, run: of }: Reserved): void {
    if (this.runs.get(series)?.run === of) this.runs.delete(series);
  }
}
const MOST_SERIES = 1000;
