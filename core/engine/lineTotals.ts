import type { Result } from '../formula/errors.ts';
import { ExactSum } from '../values/exactSum.ts';
import type { Frame } from './frame.ts';

/** The sum of a column, with how many of its values are no numbers: errors, and what is still waited for. */
class Total {
  private readonly sum = new ExactSum();
  private others = 0;

  put(value: Result): void {
    if (typeof value === 'number') this.sum.add(value);
    else if (value !== null) this.others++;
  }
  take(value: Result): void {
    if (typeof value === 'number') this.sum.remove(value);
    else if (value !== null) this.others--;
  }
  get value(): number | null {
    return this.others ? null : this.sum.value;
  }
}

/**
 * Sums of columns of lines, by the place of the column: added up when they are first asked for, and then kept up by what changes. They are
 * exact, so that they are at any time what adding up anew would give.
 */
export class LineTotals {
  private readonly totals = new Map<number, Total>();

  /** The sum of a column; null where it is none. */
  of(at: number, lines: readonly Frame[]): number | null {
    let total = this.totals.get(at);
    if (!total) {
      total = new Total();
      for (const { values } of lines) total.put(values[at] ?? null);
      this.totals.set(at, total);
    }
    return total.value;
  }
  added({ values }: Frame): void {
    for (const [at, total] of this.totals) total.put(values[at] ?? null);
  }
  removed({ values }: Frame): void {
    for (const [at, total] of this.totals) total.take(values[at] ?? null);
  }
  changed(at: number, from: Result, to: Result): void {
    const total = this.totals.get(at);
    total?.take(from);
    total?.put(to);
  }
}
