import { type Field, type Form, type Lines, fieldAt, fieldOrder } from '../form/definition.ts';
import { ruleName } from '../form/rules.ts';

const PARTS: readonly (readonly [keyof Field, string])[] = [
  ['label', 'label'],
  ['type', 'type'],
  ['column', 'column'],
  ['source', 'choices'],
  ['value', 'value'],
  ['decimals', 'decimals'],
  ['format', 'how its values are shown'],
  ['shown', 'when it is shown'],
  ['required', 'when it is required'],
  ['locked', 'when it is locked'],
  ['hiddenValue', 'what hiding does'],
  ['checks', 'checks'],
  ['spreads', 'what its change does'],
  ['carry', 'what the next entry starts with'],
  ['width', 'width'],
  ['accept', 'the files it accepts'],
  ['files', 'how many files and how large'],
  ['hint', 'hint'],
  ['called', 'label at entry'],
  ['placeholder', 'what stands in the empty field'],
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

function ruleDifferences(published: Form, draft: Form): string[] {
  const name = (form: Form, id: string): string => {
    const at = form.rules.findIndex((r) => r.id === id);
    return `rule “${ruleName(form.rules[at] ?? { label: '' }, at)}”`;
  };
  const before = new Map(published.rules.map((r) => [r.id, JSON.stringify(r)]));
  const differences = draft.rules.flatMap((r) => {
    const was = before.get(r.id);
    return was === undefined ? [`${name(draft, r.id)}: added`] : was === JSON.stringify(r) ? [] : [`${name(draft, r.id)}: changed`];
  });
  for (const r of published.rules) if (!draft.rules.some((d) => d.id === r.id)) differences.push(`${name(published, r.id)}: removed`);
  const order = (form: Form, other: Form): string => form.rules.map((r) => r.id).filter((id) => other.rules.some((r) => r.id === id)).join(); // prettier-ignore
  if (order(published, draft) !== order(draft, published)) differences.push('rules in another order');
  return differences;
}

/** What of some named things is added, changed, removed. */
function namedDifferences<T>(published: readonly T[], draft: readonly T[], keyOf: (one: T) => string, words: (one: T) => string): string[] {
  const before = new Map(published.map((one) => [keyOf(one), JSON.stringify(one)]));
  const now = new Set(draft.map(keyOf));
  return [
    ...draft.flatMap((one) => {
      const was = before.get(keyOf(one));
      return was === JSON.stringify(one) ? [] : [`${words(one)}: ${was === undefined ? 'added' : 'changed'}`];
    }),
    ...published.filter((one) => !now.has(keyOf(one))).map((one) => `${words(one)}: removed`),
  ];
}
function stepDifferences(published: Form, draft: Form): string[] {
  const [before, now] = [published.steps, draft.steps];
  const place = (form: Form, at: string): string =>
    at.startsWith('@') ? placeLabel(form, at.slice(1)) : (fieldAt(form, at)?.label ?? form.lines[at]?.label ?? at);
  const differences: string[] = [];
  if (!before && now) differences.push('steps: added');
  else if (before && !now) differences.push('steps: removed');
  else if (before && now) {
    if (before.field !== now.field) differences.push('steps: the field that holds them');
    differences.push(
      ...namedDifferences(before.list, now.list, (s) => s.value, (s) => `step “${s.label}”`),
      ...namedDifferences(before.moves, now.moves, (m) => m.id, (m) => `move “${m.label}”`),
    ); // prettier-ignore
    if (!differences.length && JSON.stringify(before) !== JSON.stringify(now)) differences.push('steps or moves in another order');
  }
  const of = (form: Form) => (a: Form['access'][number]) => `who sees and fills ${place(form, a.place)}`;
  return [...differences, ...namedDifferences(published.access, draft.access, (a) => a.place, (a) => of(draft.access.includes(a) ? draft : published)(a))]; // prettier-ignore
}
/** What people call a section or a page. */
function placeLabel(form: Form, id: string): string {
  const page = form.pages.find((p) => p.id === id);
  if (page) return `page ${page.label || form.pages.indexOf(page) + 1}`;
  return form.pages.flatMap((p) => p.sections).find((s) => s.id === id)?.label || 'a section';
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
  // fields that move are said above
  const sections = (form: Form): string => JSON.stringify(form.pages.map((p) => ({ ...p, sections: p.sections.map((s) => ({ ...s, fields: [] })) }))); // prettier-ignore
  if (sections(published) !== sections(draft)) differences.push('pages or sections');
  differences.push(...ruleDifferences(published, draft), ...stepDifferences(published, draft));
  if (JSON.stringify(published.checks) !== JSON.stringify(draft.checks)) differences.push('checks of the whole form');
  if (JSON.stringify(published.owners) !== JSON.stringify(draft.owners)) differences.push('whom its records belong to');
  if (JSON.stringify(published.maps) !== JSON.stringify(draft.maps)) differences.push('value maps');
  if (published.parent !== draft.parent) differences.push('what an entry is opened under');
  if (published.known !== draft.known) differences.push('what its records are called by');
  return differences;
}
