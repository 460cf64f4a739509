import { type Field, type Form, type Lines, fieldOrder } from '../form/definition.ts';

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
  ['spreads', 'what its change does'],
  ['carry', 'what the next entry starts with'],
  ['accept', 'the files it accepts'],
  ['hint', 'hint'],
];
type Fields = Form['fields'];

/** What differs between fields of one place; `of` is said before each of them. */
function fieldDifferences(published: Fields, draft: Fields, of: string): string[] {
  const differences: string[] = [];
  for (const [key, field] of Object.entries(draft)) {
    const before = published[key];
    if (!before) {
      differences.push(`${of}${field.label}: added`);
      continue;
    }
    const changed = PARTS.filter(([part]) => JSON.stringify(before[part]) !== JSON.stringify(field[part])).map(([, words]) => words);
    if (changed.length) differences.push(`${of}${field.label}: ${changed.join(', ')}`);
  }
  for (const [key, field] of Object.entries(published)) if (!draft[key]) differences.push(`${of}${field.label}: removed`);
  return differences;
}
function linesDifferences(published: Form, draft: Form): string[] {
  const differences: string[] = [];
  for (const [key, lines] of Object.entries(draft.lines)) {
    const before = published.lines[key];
    if (!before) {
      differences.push(`${lines.label}: added`);
      continue;
    }
    const settings = ({ fields: _, ...rest }: Lines): string => JSON.stringify(rest);
    if (settings(before) !== settings(lines)) differences.push(`${lines.label}: settings of the lines`);
    differences.push(...fieldDifferences(before.fields, lines.fields, `${lines.label} › `));
  }
  for (const [key, lines] of Object.entries(published.lines)) if (!draft.lines[key]) differences.push(`${lines.label}: removed`);
  return differences;
}

/** What a draft has changed against the published version, one short sentence each; empty when nothing. */
export function formDifferences(published: Form, draft: Form): string[] {
  const differences: string[] = [];
  if (published.label !== draft.label) differences.push(`renamed to “${draft.label}”`);
  differences.push(...fieldDifferences(published.fields, draft.fields, ''), ...linesDifferences(published, draft));
  const common = (form: Form, other: Form): string =>
    fieldOrder(form)
      .filter((k) => other.fields[k])
      .join();
  if (common(published, draft) !== common(draft, published)) differences.push('fields in another order');
  const sections = (form: Form): string => JSON.stringify(form.pages.map((p) => [p.label, p.sections.map((s) => [s.label, s.shown])]));
  if (sections(published) !== sections(draft)) differences.push('pages or sections');
  if (JSON.stringify(published.maps) !== JSON.stringify(draft.maps)) differences.push('value maps');
  if (published.parent !== draft.parent) differences.push('what an entry is opened under');
  if (published.known !== draft.known) differences.push('what its records are called by');
  return differences;
}
