import type { OpenedWith } from '../services/judging';

/** The address an entry screen was opened by: `parent` is the record it stands under, the rest are values for the form. */
export function openedWith(query: Readonly<Record<string, string | readonly string[]>>): OpenedWith {
  const url: Record<string, string> = {};
  for (const [key, value] of Object.entries(query).slice(0, 100)) url[key] = typeof value === 'string' ? value : (value.at(-1) ?? '');
  const parent = Number(url.parent);
  return { parent: Number.isInteger(parent) && parent > 0 ? parent : null, url };
}
