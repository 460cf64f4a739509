import type { Field, Form } from './definition.ts';
import type { FieldPart } from './problems.ts';

/** A formula where it stands in a form. */
export interface FormulaPlace {
  /** the field's path, or the key of the lines or the id of the section whose condition it is */
  readonly path: string;
  readonly part: FieldPart | `${FieldPart}.when`;
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
  params: 'parameter of its feed',
  of: 'what the attributes are of',
};

/** Every formula of a form that is not blank, in the order of its fields. Cost: linear in the form. */
export function formulaPlaces(form: Form): readonly FormulaPlace[] {
  const found: FormulaPlace[] = [];
  const put = (path: string, label: string, part: FormulaPlace['part'], text: string | null | undefined): void => {
    if (text !== null && text !== undefined && text.trim() !== '') found.push({ path, part, label, text });
  };
  const ofField = (path: string, f: Field, label: string): void => {
    put(path, label, 'value', f.value?.formula);
    put(path, label, 'where', f.source?.where);
    if (f.source?.kind === 'rows') put(path, label, 'shownAs', f.source.shownAs);
    if (f.source?.kind === 'feed') for (const [key, text] of Object.entries(f.source.params)) put(path, label, `params.${key}`, text);
    if (f.source?.kind === 'attributes') put(path, label, 'of', f.source.of);
    put(path, label, 'shown', f.shown);
    put(path, label, 'required', f.required);
    put(path, label, 'locked', f.locked);
    f.checks.forEach((c, i) => put(path, label, `checks.${i}`, c.when));
    f.spreads.forEach((s, i) => {
      put(path, label, `spreads.${i}`, s.formula);
      put(path, label, `spreads.${i}.when`, s.when);
    });
  };
  for (const { id, label, shown } of form.pages.flatMap((p) => p.sections)) put(id, label, 'shown', shown);
  for (const [key, f] of Object.entries(form.fields)) ofField(key, f, f.label);
  for (const [key, lines] of Object.entries(form.lines)) {
    put(key, lines.label, 'shown', lines.shown);
    for (const [inner, f] of Object.entries(lines.fields)) ofField(`${key}.${inner}`, f, `${lines.label}: ${f.label}`);
  }
  return found;
}

/** What stood at a place in a form; null when nothing did. */
export const formulaAt = (form: Form, key: string): string | null => formulaPlaces(form).find((p) => placeKey(p) === key)?.text ?? null;
