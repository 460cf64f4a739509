import { foldText } from '../values/text.ts';
import { MY_ROLES, MY_ROLES_TYPE } from './check.ts';
import type { Scope } from './scope.ts';
import { type Type, typeInWords } from '../values/typing.ts';

/** A name that a formula may use here: a plain one, or a column of the row it holds. */
export interface NameAtHand {
  readonly path: string;
  readonly label: string;
  readonly type: Type;
  /** the type in words */
  readonly words: string;
  /** whether it stands under the name before it */
  readonly inner: boolean;
}

/**
 * Every name of a scope with the columns of the rows they hold, in the order fields are placed, that has the text in its
 * path or label; blank text gives all. Cost: linear in names and columns.
 */
export function namesAtHand(scope: Scope, sought = ''): NameAtHand[] {
  const text = foldText(sought.trim());
  const words = (t: Type): string => typeInWords(t, (k) => scope.tables.get(k)?.label ?? k);
  const fits = (path: string, label: string): boolean => text === '' || foldText(path).includes(text) || foldText(label).includes(text);
  const found: NameAtHand[] = [];
  for (const { name, label, type, source } of scope.bindings.values()) {
    const more = source.kind === 'me' ? [MY_ROLES_AT_HAND] : [];
    const members = [...membersOf(type, scope), ...more].filter((m) => fits(`${name}.${m.key}`, m.label) || fits(name, label));
    if (fits(name, label) || members.length) found.push({ path: name, label, type, words: words(type), inner: false });
    for (const m of members) found.push({ path: `${name}.${m.key}`, label: m.label, type: m.type, words: words(m.type), inner: true });
  }
  return found;
}

/** What stands after `me.` beside the columns of People. */
export const MY_ROLES_AT_HAND = { key: MY_ROLES, label: 'Roles', type: MY_ROLES_TYPE };

/** What may stand after a point behind a value of this type: columns of a row, attributes of a choice, parts of a group. */
export function membersOf(type: Type, scope: Scope): { key: string; label: string; type: Type }[] {
  if (type.kind === 'object') return [...type.members].map(([key, t]) => ({ key, label: key, type: t }));
  if (type.kind === 'choice') return [...(type.attributes ?? [])].map(([key, t]) => ({ key, label: key, type: t }));
  const row = type.kind === 'list' ? type.of : type;
  const table = row.kind === 'row' ? scope.tables.get(row.table) : undefined;
  return [...(table?.columns.values() ?? [])].map((c) => ({ key: c.key, label: c.label, type: c.type }));
}
