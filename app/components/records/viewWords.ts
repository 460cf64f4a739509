import { type View, canGroup, hasDays } from '~~/core/choices/views.ts';
import type { ColumnType } from '~~/core/values/kinds/index.ts';

/* The words of a view’s sentence: what it can be grouped, summed and sorted by. */

/** A column as a sentence names it. */
export interface ViewOption {
  readonly value: string;
  readonly label: string;
  readonly type: ColumnType;
}
type Choice = { readonly value: string; readonly label: string };

const GROUP_WORDS = { value: '', month: ', by month', year: ', by year' } as const;
export const NO_GROUP = '';
export function groupChoices(columns: readonly ViewOption[]): Choice[] {
  const all = columns.filter(canGroup).flatMap((c) =>
    (hasDays(c) ? (['value', 'month', 'year'] as const) : (['value'] as const)).map((by) => ({
      value: `${c.value} ${by}`,
      label: hasDays(c) && by === 'value' ? `${c.label}, by day` : c.label + GROUP_WORDS[by],
    })),
  );
  return [{ value: NO_GROUP, label: 'nothing' }, ...all];
}
export const groupKey = (group: View['group']): string => (group ? `${group.column} ${group.by}` : NO_GROUP);
export function groupFrom(key: string): View['group'] {
  const [column = '', by = 'value'] = key.split(' ');
  return key === NO_GROUP ? null : { column, by: by as 'value' | 'month' | 'year' };
}

const SUM_WORDS = { sum: 'sum of', mean: 'mean of', least: 'least', most: 'most' } as const;
const DAY_SUMS = { least: 'earliest', most: 'latest' } as const;
const isDay = (type: ColumnType): boolean => ['date', 'datetime', 'time'].includes(type);
/** How a sum is called: “sum of Quantity”, “latest Collected on”. */
export function sumWords(sum: View['sums'][number], columns: readonly ViewOption[]): string {
  const column = columns.find((c) => c.value === sum.column);
  const word = column && isDay(column.type) && (sum.of === 'least' || sum.of === 'most') ? DAY_SUMS[sum.of] : SUM_WORDS[sum.of];
  return `${word} ${column?.label ?? sum.column}`;
}
export function sumChoices(columns: readonly ViewOption[]): Choice[] {
  return columns.flatMap((c) => {
    const kinds = c.type === 'number' ? (['sum', 'mean', 'least', 'most'] as const) : isDay(c.type) ? (['least', 'most'] as const) : [];
    return kinds.map((of) => ({ value: `${c.value} ${of}`, label: sumWords({ column: c.value, of }, columns) }));
  });
}
export function sumFrom(key: string): View['sums'][number] {
  const [column = '', of = 'sum'] = key.split(' ');
  return { column, of: of as View['sums'][number]['of'] };
}
/** What a column is sorted by, in words that fit it. */
export function orderWords(type: ColumnType | undefined): { up: string; down: string } {
  if (type && isDay(type)) return { up: 'oldest first', down: 'newest first' };
  if (type === 'number') return { up: 'smallest first', down: 'largest first' };
  if (type === 'yesno') return { up: 'no first', down: 'yes first' };
  return { up: 'A to Z', down: 'Z to A' };
}
