/* What of some settings is another, leaf by leaf, as people read it. */

/** One setting that is another; what it was and what it is now as text, null where there is nothing. */
export interface SettingChange {
  /** the way to it: `where`, `lines 2 value`; empty for the whole */
  readonly at: string;
  readonly before: string | null;
  readonly after: string | null;
}

/** How deep settings are looked into, how many changes are told, and how long a text is. */
const DEEPEST = 6;
const MOST = 12;
const LONGEST = 400;

/** What keys of definitions are called; others by their own name. */
const WORDS: Readonly<Record<string, string>> = {
  where: 'offered when',
  show: 'shown by',
  shownAs: 'shown as',
  beside: 'beside it',
  search: 'searched in',
  sort: 'sorted by',
  subset: 'subset',
  waiting: 'while it waits',
  onDriverChange: 'when what it hangs on changes',
  single: 'the only one left',
  fillUp: 'fills the fields above',
  kind: 'kind',
  formula: 'formula',
  typedOver: 'when typed over',
  once: 'only once',
  when: 'when',
  hiddenValue: 'what it hides',
  most: 'at most',
  eachMb: 'MB each',
  allMb: 'MB in all',
  ends: 'stays here for good',
  sets: 'sets',
  filled: 'must be filled',
  seen: 'seen by',
  on: 'on',
};

function textOf(value: unknown): string | null {
  if (value === null || value === undefined || value === '') return null;
  if (typeof value === 'string') return cut(value);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value === 'number') return String(value);
  if (Array.isArray(value)) return value.length ? cut(value.map((v) => textOf(v) ?? 'nothing').join(' · ')) : null;
  const inner = Object.entries(value as object).flatMap(([key, v]) => {
    const text = key === 'id' ? null : textOf(v);
    return text === null || text === 'no'
      ? []
      : [key === 'kind' || key === 'label' || key === 'value' ? text : `${WORDS[key] ?? key} ${text}`];
  });
  return cut(inner.join(', ')) || null;
}
const cut = (text: string): string => (text.length > LONGEST ? `${text.slice(0, LONGEST - 1)}…` : text);
const isObject = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/**
 * What differs between two values of a definition, leaf by leaf; empty when nothing does. More than a dozen are not told one by one.
 * Cost: linear in the values.
 */
export function settingChanges(before: unknown, after: unknown): readonly SettingChange[] {
  const found: SettingChange[] = [];
  const look = (was: unknown, is: unknown, way: readonly string[]): void => {
    if (JSON.stringify(was) === JSON.stringify(is)) return;
    const deeper = way.length < DEEPEST;
    if (deeper && isObject(was) && isObject(is)) {
      for (const key of new Set([...Object.keys(was), ...Object.keys(is)])) look(was[key], is[key], [...way, WORDS[key] ?? key]);
      return;
    }
    if (deeper && Array.isArray(was) && Array.isArray(is) && [...(was as unknown[]), ...(is as unknown[])].some(isObject)) {
      for (let i = 0; i < Math.max(was.length, is.length); i++) look(was[i], is[i], [...way, String(i + 1)]);
      return;
    }
    found.push({ at: way.join(' '), before: textOf(was), after: textOf(is) });
  };
  look(before, after, []);
  return found.length > MOST ? [...found.slice(0, MOST), { at: `and ${found.length - MOST} more`, before: null, after: null }] : found;
}
