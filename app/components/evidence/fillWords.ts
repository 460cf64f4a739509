import type { Deep, ResultOf } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import type { Outcome } from '~~/core/evidence/fills.ts';
import type { Column } from '~~/core/model/tables.ts';
import type { Datum } from '~~/core/values/types.ts';

/* The words for how well a field fills. */

export type FillsUse = Deep<ResultOf<typeof contract.evidence.fills>>;
export type FieldUse = FillsUse['fields'][number];

export const OUTCOME_WORDS: Readonly<Record<Outcome, string>> = {
  kept: 'kept',
  over: 'typed over',
  emptied: 'emptied',
  hand: 'by hand, where nothing was given',
  empty: 'left empty',
};
export const share = (part: number, of: number): string => `${of ? Math.round((100 * part) / of) : 0} %`;
/**
 * The shares of parts in the whole they make up, so rounded that they add up to 100: what is left over when all are cut goes to those of
 * which most was cut off (the method of largest remainders).
 */
export function sharesOf(parts: readonly number[]): string[] {
  const whole = parts.reduce((sum, part) => sum + part, 0);
  const exact = parts.map((part) => (whole ? (100 * part) / whole : 0));
  const cut = exact.map(Math.floor);
  let left = whole ? 100 - cut.reduce((sum, n) => sum + n, 0) : 0;
  const byRest = parts.map((_, i) => i).sort((a, b) => (exact[b] as number) - (cut[b] as number) - ((exact[a] as number) - (cut[a] as number)) || a - b); // prettier-ignore
  for (const i of byRest) if (left-- > 0) cut[i] = (cut[i] as number) + 1;
  return cut.map((n) => `${n} %`);
}
const many = (n: number): string => n.toLocaleString(LOCALE);

/** How far a day is from the one that was given, in words. */
export const daysWords = (days: number): string =>
  days === 0 ? 'the same day' : `${Math.abs(days)} ${Math.abs(days) === 1 ? 'day' : 'days'} ${days < 0 ? 'before' : 'after'}`;
export const valueWords = (column: Column, value: Datum, linked: FillsUse['linked']): string =>
  value === null ? 'empty' : cellText(column, value, linked) || '…';
const putWords = (use: FieldUse, put: FieldUse['over'][number], linked: FillsUse['linked']): string =>
  put.days === null ? valueWords(use.column, put.value, linked) : daysWords(put.days);

/** What stands under a field's bar: what there is to know about it first. */
export function useWords(use: FieldUse, linked: FillsUse['linked']): string {
  const { counts, over, where, records } = use;
  const [most] = over;
  if (where && most)
    return `typed over in ${share(where.over, where.of)} of those with ${where.label} ${valueWords(where.column, where.value, linked)}, mostly with ${putWords(use, most, linked)}`;
  if (most && counts.over >= counts.kept / 10) {
    if (most.count === 1) return 'typed over with something else each time';
    const what = most.days === null ? `with ${putWords(use, most, linked)}` : putWords(use, most, linked);
    return `typed over, mostly ${what} (${many(most.count)} of ${many(counts.over)})`;
  }
  if (counts.kept === records) return 'always kept';
  if (counts.empty === records) return use.ever ? 'empty at first in all of them' : 'empty in all of them';
  if (counts.kept > 0) return `kept in ${many(counts.kept)} of ${many(records)}`;
  return counts.empty ? `left empty in ${many(counts.empty)} of ${many(records)}` : 'always filled in by hand';
}
/** By what a field fills: its fill, or what the form does. */
export const fillWords = (use: FieldUse): string =>
  use.fill ?? (use.by === null ? 'by hand' : use.by === 'carried' ? 'from the one before' : ORIGIN_WORDS[use.by]);
