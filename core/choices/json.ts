import type { Datum, Row } from '../values/types.ts';

/** The most items read out of one JSON value. */
const MOST = 2000;

const isScalar = (v: unknown): v is string | number | boolean => ['string', 'number', 'boolean'].includes(typeof v);
const textOf = (v: unknown): string | null => (v === null || v === undefined ? null : isScalar(v) ? String(v) : JSON.stringify(v));

/**
 * JSON as candidates: a list of texts or numbers, each a choice; a list of objects with `value` (or `id`, `key`) and
 * `label` (or `name`); or an object, whose keys are the choices and whose values they hold. The message says what is
 * wrong with a text that is no JSON or cannot be choices.
 */
export function keysOfJson(text: string): { readonly ok: true; readonly rows: Row[] } | { readonly ok: false; readonly message: string } {
  if (text.trim() === '') return { ok: true, rows: [] };
  let parsed: unknown;
  try {
    parsed = JSON.parse(text);
  } catch (e) {
    return { ok: false, message: `This is not valid JSON: ${e instanceof Error ? e.message : 'it cannot be read'}.` };
  }
  return { ok: true, rows: candidatesOf(parsed) };
}

/** A parsed JSON value as candidates; see `keysOfJson`. Items that cannot be choices are left out; values count once. */
export function candidatesOf(parsed: unknown): Row[] {
  const rows: Row[] = [];
  const seen = new Set<string>();
  const add = (value: unknown, label: unknown, holds: Datum): void => {
    const stored = textOf(value);
    if (stored === null || stored === '' || seen.has(stored) || rows.length >= MOST) return;
    seen.add(stored);
    rows.push({ id: rows.length + 1, value: stored, label: textOf(label) ?? stored, holds });
  };
  if (Array.isArray(parsed)) {
    for (const item of parsed as unknown[]) {
      if (isScalar(item)) add(item, item, textOf(item));
      else if (item && typeof item === 'object') {
        const o = item as Record<string, unknown>;
        const value = o.value ?? o.id ?? o.key ?? o.name ?? o.label;
        add(value, o.label ?? o.name ?? value, textOf(o.holds ?? o.value ?? null));
      }
    }
  } else if (parsed && typeof parsed === 'object') {
    for (const [key, value] of Object.entries(parsed)) add(key, key, textOf(value));
  } else if (isScalar(parsed)) add(parsed, parsed, textOf(parsed));
  return rows;
}

/** Follows a dotted path into a parsed value; undefined where it leads nowhere. A blank path is the value itself. */
export function atPath(value: unknown, path: string): unknown {
  let at = value;
  for (const step of path === '' ? [] : path.split('.')) {
    if (at === null || typeof at !== 'object') return undefined;
    at = Object.hasOwn(at, step) ? (at as Record<string, unknown>)[step] : undefined;
  }
  return at;
}
