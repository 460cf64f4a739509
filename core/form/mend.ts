import type { Field } from './definition.ts';
import type { Fix } from '../formula/problems.ts';
import type { FormulaPlace } from './formulas.ts';

/* What takes a problem away by one press: a change of the form, kept as data, so that it can be found in a worker and made on the screen. */
export type Mend = { readonly label: string } & (
  | { readonly kind: 'moveAbove'; readonly field: string; readonly above: string }
  | { readonly kind: 'set'; readonly field: string; readonly change: Partial<Field> }
  | FormulaMend
);
/** Some characters of a formula written otherwise; of no use once the formula is another. */
interface FormulaMend {
  readonly kind: 'formula';
  readonly at: Pick<FormulaPlace, 'path' | 'part'>;
  readonly was: string;
  readonly from: number;
  readonly to: number;
  readonly insert: string;
}
/** A fix of a formula as a change of the form it stands in. */
export const mendOfFix = (at: FormulaMend['at'], was: string, { from, to, insert, label }: Fix): Mend => ({
  kind: 'formula', at: { path: at.path, part: at.part }, was, from, to, insert, label,
}); // prettier-ignore
