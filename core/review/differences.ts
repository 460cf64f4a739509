import { type Field, type Form, type Lines, fieldAt, fieldOrder } from '../form/definition.ts';
import { ruleName } from '../form/rules.ts';
import { type SettingChange, settingChanges } from './settings.ts';

/** Something that a draft has changed: of what, which part of it, and what that was and is. */
export interface Difference {
  /** what people call the field, the lines, the rule …; empty for the form itself */
  readonly of: string;
  readonly what: string;
  /** what stood there and what stands there; empty where `what` says it all */
  readonly changes: readonly SettingChange[];
}
const said = (of: string, what: string, before?: unknown, after?: unknown): Difference => ({
  of,
  what,
  changes: settingChanges(before, after),
});

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
function fieldDifferences(published: Fields, draft: Fields, of: string): Difference[] {
  const differences: Difference[] = [];
  for (const [key, field] of Object.entries(draft)) {
    const before = published[key];
    if (!before) {
      differences.push(said(`${of}${field.label}`, 'added'));
      continue;
    }
    for (const [part, words] of PARTS)
      if (JSON.stringify(before[part]) !== JSON.stringify(field[part]))
        differences.push(said(`${of}${field.label}`, words, before[part], field[part]));
  }
  for (const [key, field] of Object.entries(published)) if (!draft[key]) differences.push(said(`${of}${field.label}`, 'removed'));
  return differences;
}
function linesDifferences(published: Form, draft: Form): Difference[] {
  const differences: Difference[] = [];
  for (const [key, lines] of Object.entries(draft.lines)) {
    const before = published.lines[key];
    if (!before) {
      differences.push(said(lines.label, 'added'));
      continue;
    }
    const settings = ({ fields: _, ...rest }: Lines): object => rest;
    if (JSON.stringify(settings(before)) !== JSON.stringify(settings(lines)))
      differences.push(said(lines.label, 'settings of the lines', settings(before), settings(lines)));
    differences.push(...fieldDifferences(before.fields, lines.fields, `${lines.label} › `));
  }
  for (const [key, lines] of Object.entries(published.lines)) if (!draft.lines[key]) differences.push(said(lines.label, 'removed'));
  return differences;
}

function ruleDifferences(published: Form, draft: Form): Difference[] {
  const name = (form: Form, id: string): string => {
    const at = form.rules.findIndex((r) => r.id === id);
    return `rule “${ruleName(form.rules[at] ?? { label: '' }, at)}”`;
  };
  const before = new Map(published.rules.map((r) => [r.id, r]));
  const differences = draft.rules.flatMap((r) => {
    const was = before.get(r.id);
    if (was === undefined) return [said(name(draft, r.id), 'added')];
    return JSON.stringify(was) === JSON.stringify(r) ? [] : [said(name(draft, r.id), 'changed', was, r)];
  });
  for (const r of published.rules) if (!draft.rules.some((d) => d.id === r.id)) differences.push(said(name(published, r.id), 'removed'));
  const order = (form: Form, other: Form): string => form.rules.map((r) => r.id).filter((id) => other.rules.some((r) => r.id === id)).join(); // prettier-ignore
  if (order(published, draft) !== order(draft, published)) differences.push(said('', 'rules in another order'));
  return differences;
}

/** What of some named things is added, changed, removed. */
function namedDifferences<T>(
  published: readonly T[],
  draft: readonly T[],
  keyOf: (one: T) => string,
  words: (one: T) => string,
): Difference[] {
  const before = new Map(published.map((one) => [keyOf(one), one]));
  const now = new Set(draft.map(keyOf));
  return [
    ...draft.flatMap((one) => {
      const was = before.get(keyOf(one));
      if (was === undefined) return [said(words(one), 'added')];
      return JSON.stringify(was) === JSON.stringify(one) ? [] : [said(words(one), 'changed', was, one)];
    }),
    ...published.filter((one) => !now.has(keyOf(one))).map((one) => said(words(one), 'removed')),
  ];
}
function stepDifferences(published: Form, draft: Form): Difference[] {
  const [before, now] = [published.steps, draft.steps];
  const place = (form: Form, at: string): string =>
    at.startsWith('@') ? placeLabel(form, at.slice(1)) : (fieldAt(form, at)?.label ?? form.lines[at]?.label ?? at);
  const differences: Difference[] = [];
  if (!before && now) differences.push(said('steps', 'added'));
  else if (before && !now) differences.push(said('steps', 'removed'));
  else if (before && now) {
    if (before.field !== now.field) differences.push(said('steps', 'the field that holds them', before.field, now.field));
    differences.push(
      ...namedDifferences(before.list, now.list, (s) => s.value, (s) => `step “${s.label}”`),
      ...namedDifferences(before.moves, now.moves, (m) => m.id, (m) => `move “${m.label}”`),
    ); // prettier-ignore
    if (!differences.length && JSON.stringify(before) !== JSON.stringify(now))
      differences.push(said('', 'steps or moves in another order'));
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

/** What a draft has changed against the published version, part by part; empty when nothing. Cost: linear in the forms. */
export function formChanges(published: Form, draft: Form): Difference[] {
  const differences: Difference[] = [];
  if (published.label !== draft.label) differences.push(said('', `renamed to “${draft.label}”`));
  differences.push(...fieldDifferences(published.fields, draft.fields, ''), ...linesDifferences(published, draft));
  const common = (form: Form, other: Form): string =>
    fieldOrder(form)
      .filter((k) => other.fields[k])
      .join();
  if (common(published, draft) !== common(draft, published)) differences.push(said('', 'fields in another order'));
  // fields that move are said above
  const sections = (form: Form): object => form.pages.map((p) => ({ ...p, sections: p.sections.map((s) => ({ ...s, fields: [] })) }));
  const whole = (what: string, before: unknown, now: unknown): void => {
    if (JSON.stringify(before) !== JSON.stringify(now)) differences.push(said('', what, before, now));
  };
  whole('pages or sections', sections(published), sections(draft));
  differences.push(...ruleDifferences(published, draft), ...stepDifferences(published, draft));
  whole('checks of the whole form', published.checks, draft.checks);
  whole('whom its records belong to', published.owners, draft.owners);
  whole('value maps', published.maps, draft.maps);
  whole('what an entry is opened under', published.parent, draft.parent);
  whole('what its records are called by', published.known, draft.known);
  whole('what publishing does while a rehearsal fails', published.red, draft.red);
  return differences;
}

/** The same, one short sentence for each thing that was changed: “Genus: when it is required, hint”. */
export function formDifferences(published: Form, draft: Form): string[] {
  const sentences: { of: string; whats: string[] }[] = [];
  for (const { of, what } of formChanges(published, draft)) {
    const last = sentences.at(-1);
    if (last && of !== '' && last.of === of) last.whats.push(what);
    else sentences.push({ of, whats: [what] });
  }
  return sentences.map(({ of, whats }) => (of === '' ? whats[0]! : `${of}: ${whats.join(', ')}`));
}
