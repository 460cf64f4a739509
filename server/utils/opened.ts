import { z } from 'zod';
import type { OpenedWith } from '../services/entries';

/** The address an entry screen was opened by: `parent` is the record it stands under, the rest are values for the form. */
export const openedQuery = z.record(z.string().max(100), z.union([z.string().max(1000), z.array(z.string())])) as z.ZodType<
  Record<string, string | string[]>
>;

export function openedWith(query: Readonly<Record<string, string | string[]>>): OpenedWith {
  const url: Record<string, string> = {};
  for (const [key, value] of Object.entries(query).slice(0, 100)) url[key] = Array.isArray(value) ? (value.at(-1) ?? '') : value;
  const parent = Number(url.parent);
  return { parent: Number.isInteger(parent) && parent > 0 ? parent : null, url };
}
