import { type Field, type Form, fieldOrder } from '../form/definition.ts';

const PARTS: readonly (readonly [keyof Field, string])[] = [
  ['label', 'label'],
  ['type', 'type'],
  ['column', 'column'],
  ['source', 'choices'],
  ['value', 'value'],
  ['decimals', 'decimals'],
  ['shown', 'when it is shown'],
  ['required', 'when it is required'],
  ['locked', 'when it is locked'],
  ['hiddenValue', 'what hiding does'],
  ['checks', 'checks'],
  ['hint', 'hint'],
];

/** What a draft has changed against the published version, one short sentence each; empty when nothing. */
export function formDifferences(published: Form, draft: Form): string[] {
  const differences: string[] = [];
  if (published.label !== draft.label) differences.push(`renamed to “${draft.label}”`);
  for (const [key, field] of Object.entries(draft.fields)) {
    const before = published.fields[key];
    if (!before) {
      differences.push(`${field.label}: added`);
      continue;
    }
    const changed = PARTS.filter(([part]) => JSON.stringify(before[part]) !== JSON.stringify(field[part])).map(([, words]) => words);
    if (changed.length) differences.push(`${field.label}: ${changed.join(', ')}`);
  }
  for (const [key, field] of Object.entries(published.fields)) if (!draft.fields[key]) differences.push(`${field.label}: removed`);
  const common = (form: Form, other: Form): string =>
    fieldOrder(form)
      .filter((k) => other.fields[k])
      .join();
  if (common(published, draft) !== common(draft, published)) differences.push('fields in another order');
  const sections = (form: Form): string => JSON.stringify(form.pages.map((p) => [p.label, p.sections.map((s) => [s.label, s.shown])]));
  if (sections(published) !== sections(draft)) differences.push('pages or sections');
  return differences;
}
