/*
 * What entering costs, counted without who entered: how long from opening to saving, how many rows a list offered, how far down the one
 * chosen stood, what was searched, what was not found. Only counts are kept, numbers in wide steps,
 * texts as they were searched; nothing of who or when.
 */

/** What an entry screen tells with a save. */
export interface EntryHow {
  /** from opening to saving; null where that was not one sitting */
  readonly seconds: number | null;
  readonly choices: readonly ChoiceHow[];
}
export interface ChoiceHow {
  /** the field’s path */
  readonly field: string;
  /** how many the list offered; null where that was not known yet */
  readonly offered: number | null;
  /** the place of the one chosen, from 0; null where what was searched was not found */
  readonly at: number | null;
  /** what stood typed */
  readonly searched: string;
}

export const COUNTED = ['seconds', 'offered', 'place', 'searched', 'nothing'] as const;
export type Counted = (typeof COUNTED)[number];
/** One count: of the seconds the field is ''; `value` is the upper end of a step, or a text searched. */
export interface EntryCount {
  readonly version: number;
  readonly field: string;
  readonly what: Counted;
  readonly value: string;
  readonly count: number;
}

/** Upper ends of the steps; what is more counts as the last. */
const SECONDS = [5, 10, 15, 20, 30, 45, 60, 90, 120, 180, 240, 300, 450, 600, 900, 1800, 3600, 86_400] as const;
const NUMBERS = [0, 1, 2, 3, 4, 5, 6, 8, 10, 15, 20, 30, 50, 75, 100, 200, 300, 500, 1000, 2000, 5000, 10_000, 100_000, 1_000_000, 100_000_000] as const; // prettier-ignore
const stepOf = (steps: readonly number[], x: number): number => steps.find((s) => x <= s) ?? steps.at(-1)!;
const MOST_TEXT = 40;
/** A text as it is counted: without its case, and not for ever. */
export const searchedText = (text: string): string => text.trim().toLowerCase().slice(0, MOST_TEXT);

/** The counts that one entry adds. */
export function countsOf(version: number, { seconds, choices }: EntryHow): EntryCount[] {
  const one = (field: string, what: Counted, value: string | number): EntryCount => ({ version, field, what, value: String(value), count: 1 }); // prettier-ignore
  const found: EntryCount[] = seconds === null ? [] : [one('', 'seconds', stepOf(SECONDS, seconds))];
  for (const { field, offered, at, searched } of choices) {
    const text = searchedText(searched);
    if (at === null) {
      found.push(one(field, 'nothing', text));
      continue;
    }
    found.push(one(field, 'place', stepOf(NUMBERS, at + 1)), one(field, 'searched', text));
    if (offered !== null) found.push(one(field, 'offered', stepOf(NUMBERS, offered)));
  }
  return found;
}

export interface ListUse {
  readonly field: string;
  /** choices made */
  readonly chosen: number;
  /** the middle of how many were offered; null where that was never known */
  readonly offered: number | null;
  /** the middle of the places of those chosen, from 1; and how many of them stood first */
  readonly place: number;
  readonly first: number;
  /** choices made without searching */
  readonly unsearched: number;
  readonly searched: readonly { readonly text: string; readonly count: number }[];
  /** how often nothing was found or offered, and what was searched then, the commonest first */
  readonly nothing: number;
  readonly sought: readonly { readonly text: string; readonly count: number }[];
}
export interface EntryUse {
  readonly times: readonly { readonly version: number; readonly entries: number; readonly seconds: number }[];
  readonly lists: readonly ListUse[];
}
const MOST_TEXTS = 5;

/** What counts come to: times by version, oldest first; lists by how often they were chosen from, most first. */
export function entryUseOf(counts: readonly EntryCount[]): EntryUse {
  const versions = [...new Set(counts.filter((c) => c.what === 'seconds').map((c) => c.version))].sort((a, b) => a - b);
  const times = versions.map((version) => {
    const own = counts.filter((c) => c.what === 'seconds' && c.version === version);
    return { version, entries: total(own), seconds: middleOf(own, SECONDS) };
  });
  const fields = [...new Set(counts.filter((c) => c.field !== '').map((c) => c.field))];
  const lists = fields.map((field): ListUse => {
    const own = (what: Counted): EntryCount[] => counts.filter((c) => c.field === field && c.what === what);
    const [offered, place] = [own('offered'), own('place')];
    return {
      field,
      chosen: total(place),
      offered: offered.length ? Math.round(middleOf(offered, NUMBERS)) : null,
      place: place.length ? Math.max(1, Math.round(middleOf(place, NUMBERS))) : 1,
      first: total(place.filter((c) => c.value === '1')),
      unsearched: total(own('searched').filter((c) => c.value === '')),
      searched: textsOf(own('searched')),
      nothing: total(own('nothing')),
      sought: textsOf(own('nothing')),
    };
  });
  return { times, lists: lists.sort((a, b) => b.chosen - a.chosen) };
}
const total = (counts: readonly EntryCount[]): number => counts.reduce((n, c) => n + c.count, 0);
function textsOf(counts: readonly EntryCount[]): ListUse['searched'] {
  const texts = new Map<string, number>();
  for (const { value, count } of counts) if (value !== '') texts.set(value, (texts.get(value) ?? 0) + count);
  return [...texts].map(([text, count]) => ({ text, count })).sort((a, b) => b.count - a.count).slice(0, MOST_TEXTS); // prettier-ignore
}
/** The middle of what was counted in steps, as if it lay evenly in each. */
function middleOf(counts: readonly EntryCount[], steps: readonly number[]): number {
  const by = new Map<number, number>();
  for (const { value, count } of counts) by.set(Number(value), (by.get(Number(value)) ?? 0) + count);
  const half = total(counts) / 2;
  let seen = 0;
  for (const [i, step] of steps.entries()) {
    const here = by.get(step) ?? 0;
    if (here && seen + here >= half) {
      const from = steps[i - 1] ?? 0;
      return from + (step - from) * ((half - seen) / here);
    }
    seen += here;
  }
  return 0;
}
