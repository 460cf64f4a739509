import type { Edit } from '../engine/state.ts';
import { type Form, fieldAt } from './definition.ts';
import type { RehearsalStep } from './rehearsal.ts';

/** Edits as a newer version of their form takes them. */
export interface Followed {
  readonly edits: readonly Edit[];
  /** the labels, as they were, of what the newer version has no place for */
  readonly lost: readonly string[];
}

/** A field by the column it saves into: `@ column`, or `table column` for a field of lines. */
function byColumn(form: Form): ReadonlyMap<string, string> {
  const found = new Map<string, string>();
  for (const [key, { column }] of Object.entries(form.fields)) if (column) found.set(`@ ${column}`, key);
  for (const [group, lines] of Object.entries(form.lines))
    for (const [key, { column }] of Object.entries(lines.fields)) if (column) found.set(`${lines.table} ${column}`, `${group}.${key}`);
  return found;
}

/** Where fields and lines of one version stand in another; null: nowhere. */
interface Places {
  readonly field: (path: string) => string | null;
  readonly lines: (key: string) => string | null;
}
function placesIn(from: Form, to: Form): Places {
  const there = byColumn(to);
  return {
    field(path) {
      if (fieldAt(to, path)) return path;
      const [group = '', inner] = path.split('.');
      const column = fieldAt(from, path)?.column;
      const table = inner === undefined ? '@' : from.lines[group]?.table;
      return (column && table && there.get(`${table} ${column}`)) ?? null;
    },
    lines(key) {
      if (to.lines[key]) return key;
      const table = from.lines[key]?.table;
      return Object.entries(to.lines).find(([, l]) => l.table === table)?.[0] ?? null;
    },
  };
}

/**
 * Edits that were made on one version of a form, for another: what is called otherwise there is found by the column it saves into, what
 * is no longer there is left out and named. Moves are left to the newer version to judge. Cost: linear in the fields and edits.
 */
export function followEdits(edits: readonly Edit[], from: Form, to: Form): Followed {
  const places = placesIn(from, to);
  const lost = new Set<string>();
  const followed = edits.flatMap((edit): Edit[] => {
    const isLines = edit.kind === 'addLine' || edit.kind === 'removeLine' || edit.kind === 'moveLine';
    const field = isLines ? places.lines(edit.field) : places.field(edit.field);
    if (field !== null) return [field === edit.field ? edit : { ...edit, field }];
    // what neither version knows is for the engine to refuse
    const label = isLines ? from.lines[edit.field]?.label : fieldAt(from, edit.field)?.label;
    if (label === undefined) return [edit];
    lost.add(label);
    return [];
  });
  return { edits: followed, lost: [...lost] };
}

/** The steps of a rehearsal that was written for one version, as another calls its fields; what it has not stays as it is, to be told. */
export function followSteps(steps: readonly RehearsalStep[], from: Form, to: Form): RehearsalStep[] {
  const places = placesIn(from, to);
  return steps.map((step) => {
    if ('lines' in step) return { ...step, lines: places.lines(step.lines) ?? step.lines };
    if (!('field' in step)) return step;
    // lines as a whole have states, too
    const at = from.lines[step.field] ? places.lines(step.field) : places.field(step.field);
    return { ...step, field: at ?? step.field };
  });
}

/** Names that fields of one version had, each with its name in another where it has another there; fields of lines are left out. */
export function namesNow(from: Form, to: Form): ReadonlyMap<string, string> {
  const places = placesIn(from, to);
  return new Map(
    Object.keys(from.fields).flatMap((name) => {
      const now = places.field(name);
      return now !== null && now !== name ? [[name, now] as const] : [];
    }),
  );
}

/** The values of an address under the names that fields have now. */
export const withNames = (
  url: Readonly<Record<string, string>>,
  renamed: Readonly<Record<string, string>>,
): Readonly<Record<string, string>> => Object.fromEntries(Object.entries(url).map(([name, value]) => [renamed[name] ?? name, value]));
