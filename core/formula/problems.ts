import type { Span } from './errors.ts';

export type Severity = 'error' | 'warning';

/** One press that mends a problem: replace the span of the formula with the text. */
export interface Fix extends Span {
  readonly label: string;
  readonly insert: string;
}

export type FormulaProblemCode =
  | 'syntax'
  | 'tooLong'
  | 'tooDeep'
  | 'mixedAndOr'
  | 'unknownName'
  | 'unknownColumn'
  | 'unknownFunction'
  | 'arity'
  | 'type'
  | 'notAvailableHere'
  | 'alwaysTrue'
  | 'neverTrue';

/** Something wrong (error) or doubtful (warning) in a formula, with its place and a sentence a designer understands. */
export interface FormulaProblem extends Span {
  readonly code: FormulaProblemCode;
  readonly severity: Severity;
  readonly message: string;
  readonly fixes: readonly Fix[];
}

export const problem = (
  code: FormulaProblemCode,
  at: Span,
  message: string,
  fixes: readonly Fix[] = [],
  severity: Severity = 'error',
): FormulaProblem => ({ code, severity, from: at.from, to: at.to, message, fixes });
