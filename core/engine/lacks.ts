import type { Reason } from '../model/valueState.ts';
import { type Want, wantKey } from './wants.ts';

/** Who lacks something: a cell, by its key, or an effect or a giving, by its name. */
export type Lacking = number | string;

interface Lack {
  readonly wants: ReadonlyMap<string, Want>;
  /** why the cell was computed, so that it is computed for the same when the answer comes */
  readonly reason: Reason;
}
const NO_WANTS: readonly Want[] = [];

/**
 * What an entry lacks, by whom: while something is computed, its wants are collected; at its end they take the place of those it had
 * before. Numbers of series that were read are kept the same way: those still held are taken when the record is saved.
 */
export class Lacks {
  private readonly by = new Map<Lacking, Lack>();
  private collecting: Map<string, Want> | null = null;
  private numbers: Map<string, number> | null = null;
  private readonly read = new Map<number, ReadonlyMap<string, number>>();

  /** Notes that what is being computed wants this. */
  want(want: Want): void {
    this.collecting ??= new Map();
    this.collecting.set(wantKey(want), want);
  }
  /** Notes that what is being computed reads this number of a series. */
  number(series: string, number: number): void {
    this.numbers ??= new Map();
    this.numbers.set(series, number);
  }

  /** What is wanted while something is asked that no cell asks: nothing is kept of it. */
  wantedBy(ask: () => void): readonly Want[] {
    this.begin();
    ask();
    const { collecting } = this;
    this.begin();
    return collecting ? [...collecting.values()] : NO_WANTS;
  }

  /** Something begins to be computed. */
  begin(): void {
    this.collecting = null;
    this.numbers = null;
  }
  /** It has been computed: what it lacks now is what it wanted. */
  end(who: Lacking, reason: Reason): void {
    const { collecting } = this;
    this.collecting = null;
    if (this.numbers && typeof who === 'number') this.read.set(who, this.numbers);
    if (collecting) this.by.set(who, { wants: collecting, reason });
    else if (this.by.size) this.by.delete(who);
  }
  /** A cell has been computed on a way that looks nothing up: what it lacked before it lacks no more. */
  none(who: Lacking): void {
    if (this.by.size) this.by.delete(who);
  }
  /** The numbers read since `begin`, which are a cell's from now on although something else computed its value. */
  credit(cell: number): void {
    if (this.numbers) this.read.set(cell, this.numbers);
  }
  /** A line is gone: its cells lack nothing any more. `isOf` tells its keys. */
  forget(isOf: (key: number) => boolean): void {
    for (const who of [...this.by.keys()]) if (typeof who === 'number' && isOf(who)) this.by.delete(who);
  }

  /** Whether anything is lacking, to whomever. */
  get any(): boolean {
    return this.by.size > 0 || this.collecting !== null;
  }
  /** Everything still lacking, each want once. */
  get all(): readonly Want[] {
    if (this.by.size === 0) return NO_WANTS;
    const all = new Map<string, Want>();
    for (const { wants } of this.by.values()) for (const [key, want] of wants) all.set(key, want);
    return [...all.values()];
  }
  /** What each cell, by its key, and everything else lacks. */
  get each(): Iterable<readonly [Lacking, Lack]> {
    return [...this.by];
  }
  /** The cells that lack one of these, with why they were computed. */
  lacking(answered: ReadonlySet<string>): [key: number, reason: Reason][] {
    const found: [number, Reason][] = [];
    for (const [who, { wants, reason }] of this.by)
      if (typeof who === 'number' && [...wants.keys()].some((k) => answered.has(k))) found.push([who, reason]);
    return found;
  }
  /** Numbers of series by the cell, as its key, that read them. */
  get numbersRead(): Iterable<readonly [number, ReadonlyMap<string, number>]> {
    return this.read;
  }
}
