import type { Edit } from '../engine/state.ts';
import { type Form, fieldAt } from './definition.ts';

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

/**
 * Edits that were made on one version of a form, for another: what is called otherwise there is found by the column it saves into, what
 * is no longer there is left out and named. Moves are left to the newer version to judge. Cost: linear in the fields and edits.
 */
export function followEdits(edits: readonly Edit[], from: Form, to: Form): Followed {
  const there = byColumn(to);
  const lost = new Set<string>();
  const placeOf = (path: string): string | null => {
    if (fieldAt(to, path)) return path;
    const [group = '', inner] = path.split('.');
    const column = fieldAt(from, path)?.column;
    const table = inner === undefined ? '@' : from.lines[group]?.table;
    return (column && table && there.get(`${table} ${column}`)) ?? null;
  };
  const linesOf = (key: string): string | null => {
    if (to.lines[key]) return key;
    const table = from.lines[key]?.table;
    return Object.entries(to.lines).find(([, l]) => l.table === table)?.[0] ?? null;
  };
  const followed = edits.flatMap((edit): Edit[] => {
    const isLines = edit.kind === 'addLine' || edit.kind === 'removeLine' || edit.kind === 'moveLine';
    const field = isLines ? linesOf(edit.field) : placeOf(edit.field);
    if (field !== null) return [field === edit.field ? edit : { ...edit, field }];
    // what neither version knows is for the engine to refuse
    const label = isLines ? from.lines[edit.field]?.label : fieldAt(from, edit.field)?.label;
    if (label === undefined) return [edit];
    lost.add(label);
    return [];
  });
  return { edits: followed, lost: [...lost] };
}
