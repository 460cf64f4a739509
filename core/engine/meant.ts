import type { Datum } from '../values/types.ts';
import type { Entry } from './entry.ts';
import { choiceNamed } from './named.ts';
import type { PlanField } from './plan.ts';
import { type ListAsked, type Want, searchFor } from './wants.ts';

/*
 * Which choice of a field somebody means by a text: in a pasted block, a sheet of rows, an address. It is looked for among what the field
 * offers now; of a large list among what a search for the text finds.
 */

/** How many of what a search finds are looked at: at first, and where there are more, of which another may be called the same. */
const LOOKED_AT = [20, 200] as const;

export type PageWant = Extract<Want, { kind: 'page' }>;
/** What a text means: what the field would hold, undefined where no choice or several are meant; or what has to be answered first. */
export type Meant = { readonly value: Datum | undefined } | { readonly want: PageWant };

const pageFor = (asked: ListAsked, text: string, limit: number): PageWant => ({
  kind: 'page',
  ...asked,
  search: searchFor(text),
  offset: 0,
  limit,
});

/**
 * Which choice of a field is meant by a text, as the entry stands. Where a want is given, supply its answer and ask again: at most twice.
 * What could not be had counts as not found. Throws RangeError for a path that is no field. Cost: as `choiceNamed`.
 */
export function choiceMeant(entry: Entry, path: string, line: number | null, text: string, locale: string): Meant {
  const field = entry.field(path);
  const rows = entry.offer(path, line)?.rows;
  if (rows) return { value: choiceNamed(entry.plan, field, rows, text, entry.cache, locale) };
  const asked = entry.asked(path, line);
  for (const limit of LOOKED_AT) {
    const want = pageFor(asked, text, limit);
    const answer = entry.cache.answer(want);
    if (!answer) return { want };
    if (answer.kind !== 'page') break;
    if (!answer.more || limit === LOOKED_AT[1]) return { value: choiceNamed(entry.plan, field, answer.rows, text, entry.cache, locale) };
  }
  return { value: undefined };
}

/**
 * What else is sure to be asked when other texts are put into the same field of other lines: where what is offered does not hang on the
 * line. Takes the want of one of them; gives the wants of the others, each once, at most `most`; none where each line has a list of its own.
 */
export function wantsBeside(entry: Entry, field: PlanField, want: PageWant, texts: Iterable<string>, most: number): readonly PageWant[] {
  const { plan, cache } = entry;
  if ((field.choices?.narrowing?.drivers ?? []).some((slot) => plan.fields[slot]?.group !== null)) return [];
  const found = new Map<string, PageWant>();
  for (const text of texts) {
    if (found.size >= most) break;
    const beside = pageFor(want, text, LOOKED_AT[0]);
    const { search } = beside;
    if (search !== '' && search !== want.search && !found.has(search) && !cache.answer(beside)) found.set(search, beside);
  }
  return [...found.values()];
}
