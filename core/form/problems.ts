import type { Span } from '../formula/errors.ts';
import type { FormulaPlace } from './formulas.ts';
import type { Mend } from './mend.ts';
import type { Fix, FormulaProblem, Severity } from '../formula/problems.ts';

/** Which part of a field a formula or setting belongs to. */
export type FieldPart =
  | 'type'
  | 'column'
  | 'source'
  | 'where'
  | 'shownAs'
  | 'value'
  | 'shown'
  | 'required'
  | 'locked'
  | `checks.${number}`
  | 'hint'
  | 'called'
  | 'placeholder'
  | 'text'
  | 'when'
  | `then.${number}`
  | `otherwise.${number}`
  | `spreads.${number}`
  | `params.${string}`
  | 'of';

export type FormProblemCode =
  | FormulaProblem['code']
  | 'cycle'
  | 'noShownColumn'
  | 'noTable'
  | 'noColumn'
  | 'columnTwice'
  | 'columnType'
  | 'noSource'
  | 'emptyFormula'
  | 'driverBelow'
  | 'driverHidden'
  | 'neverFilled'
  | 'notOffered'
  | 'setTwice'
  | 'unreached'
  | 'looksThrough'
  | 'unused'
  | 'noOptions'
  | 'noFeed'
  | 'noSubset'
  | 'noLines'
  | 'spread'
  | 'series'
  | 'rule'
  | 'steps'
  | 'valueMap';

/** Something wrong or doubtful in a form, found without running it. */
export interface FormProblem {
  readonly code: FormProblemCode;
  readonly severity: Severity;
  /** the field or lines it is at; of a section, its first; of a rule, null */
  readonly field: string | null;
  /** the rule it is at */
  readonly rule?: string | null;
  /** it is about the steps, or who sees and fills what */
  readonly steps?: boolean;
  readonly part: FieldPart | null;
  readonly message: string;
  readonly span: Span | null;
  readonly fixes: readonly Fix[];
  /** for a cycle: the fields in it, in order, the first repeated at the end */
  readonly path: readonly string[];
  /** the formula it is of, where it stands; `span` is a part of it */
  readonly at: Pick<FormulaPlace, 'path' | 'part'> | null;
  /** what takes it away by one press */
  readonly mend: Mend | null;
}

export const formProblem = (
  code: FormProblemCode,
  field: string | null,
  part: FieldPart | null,
  message: string,
  more: Partial<Pick<FormProblem, 'severity' | 'span' | 'fixes' | 'path' | 'rule' | 'steps' | 'mend' | 'at'>> = {},
): FormProblem => ({ code, severity: 'error', field, part, message, span: null, fixes: [], path: [], at: null, mend: null, ...more });
