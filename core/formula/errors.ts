import type { Datum } from '../values/types.ts';

/** The stretch of formula text something is about: offsets in UTF-16 units, `to` exclusive. */
export interface Span {
  readonly from: number;
  readonly to: number;
}

export type ErrorCode = 'divideByZero' | 'overflow' | 'badArgument' | 'notFound' | 'tooMuch' | 'notAvailable' | 'broken';

/**
 * An error inside the language: a value that flows through formulas until IFERROR takes it (or a field shows it).
 * Never thrown. `at` is where in the formula it arose.
 */
export class FormulaError {
  constructor(
    readonly code: ErrorCode,
    readonly message: string,
    readonly at: Span | null = null,
  ) {}
}

/**
 * Thrown inside a function when its work would outgrow its bounds; `guarded` (compile.ts) makes it an error value of the
 * formula. Nothing else catches it.
 */
export class TooMuch extends Error {}

/** The most characters of a text that a formula makes, and the most items of a list. */
export const MOST_CHARACTERS = 100_000;
export const MOST_ITEMS = 100_000;

/** The value is not known yet: rows it reads are being fetched. Flows like an error; only the engine looks at it. */
// eslint-disable-next-line @typescript-eslint/no-extraneous-class -- a class, so that instanceof tells it from every value
export class Waiting {
  private constructor() {}
  static readonly value = new Waiting();
}

/** What evaluating a formula gives. */
export type Result = Datum | FormulaError | Waiting;

export const isFormulaError = (value: unknown): value is FormulaError => value instanceof FormulaError;
export const isWaiting = (value: unknown): value is Waiting => value === Waiting.value;
/** Whether the result is a plain value (empty included). */
export const isDatum = (value: Result): value is Datum => typeof value !== 'object' || value === null || Array.isArray(value);
