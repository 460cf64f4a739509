import type { Form } from './definition.ts';
import { changeField, moveField, placeOf } from './edit.ts';
import { type FormulaPlace, placeKey } from './formulas.ts';
import type { Mend } from './mend.ts';
import { ofForm, withNamed } from './references.ts';

/** The form with a problem mended; the form itself where what it speaks of is gone. */
export function mended(form: Form, mend: Mend): Form {
  if (mend.kind === 'set') return changeField(form, mend.field, mend.change);
  if (mend.kind === 'formula') {
    const key = placeKey(mend.at);
    const text = (at: FormulaPlace): string =>
      placeKey(at) === key && at.text === mend.was ? at.text.slice(0, mend.from) + mend.insert + at.text.slice(mend.to) : at.text;
    return withNamed(form, ofForm({ formula: text }));
  }
  const to = placeOf(form, mend.above);
  return to ? moveField(form, mend.field, to.section.id, to.index) : form;
}
