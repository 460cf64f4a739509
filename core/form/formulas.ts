import type { Form } from './definition.ts';
import { eachNamed } from './references.ts';
import type { FieldPart } from './problems.ts';

/** A formula where it stands in a form. */
export interface FormulaPlace {
  /** the field's path, or the key of the lines, or `@` and the id of the section, page or rule it belongs to; `@` for the form itself */
  readonly path: string;
  readonly part: FieldPart | `${FieldPart}.when` | `${FieldPart}.message` | `${FieldPart}.${string}`;
  /** what people call the field, the lines or the section */
  readonly label: string;
  readonly text: string;
}

/** Names a place apart from all others of a form: the same in every version that has it. */
export const placeKey = ({ path, part }: Pick<FormulaPlace, 'path' | 'part'>): string => `${path} ${part}`;

/** What a part is called in sentences. */
export function partInWords(part: FormulaPlace['part']): string {
  const [first = ''] = part.split('.');
  return PART_WORDS[first] ?? first;
}
const PART_WORDS: Readonly<Record<string, string>> = {
  value: 'value',
  where: 'narrowing',
  shownAs: 'what is shown',
  shown: 'shown when',
  required: 'required when',
  locked: 'locked when',
  checks: 'check',
  spreads: 'change elsewhere',
  params: 'value for its feed',
  of: 'what the attributes are of',
  hint: 'hint',
  called: 'label at entry',
  placeholder: 'placeholder',
  text: 'running text',
  when: 'condition',
  then: 'effect',
  otherwise: 'effect otherwise',
};

/** Every formula of a form that is not blank. Cost: linear in the form. */
export function formulaPlaces(form: Form): readonly FormulaPlace[] {
  const found: FormulaPlace[] = [];
  eachNamed(form, { formula: (at) => void found.push(at) });
  return found;
}

/** What stood at a place in a form; null when nothing did. */
export const formulaAt = (form: Form, key: string): string | null => formulaPlaces(form).find((p) => placeKey(p) === key)?.text ?? null;
