import type { Answer } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import type { View } from '~~/core/choices/views.ts';
import type { Step } from '~~/core/form/steps.ts';
import type { Column } from '~~/core/model/tables.ts';
import type { Datum } from '~~/core/values/types.ts';
import type { Linked, RecordTexts } from './recordTexts';
import { type ViewOption, sumWords } from './viewWords';

/* What the heads of a view's groups say, and its sums. */
type Whole = NonNullable<Answer<typeof contract.entries.list>['whole']>;

export interface GroupTexts {
  /** what a group is called */
  head(group: number): string;
  /** the step it is of, where the records are grouped by theirs */
  step(group: number): Step | null;
  count(group: number): number;
  /** the sums of a group that stand in a column of their own */
  sumsIn(group: number, column: string): string;
  /** its sums of columns that are not shown, in words */
  sumsAside(group: number, shown: ReadonlySet<string>): string[];
  /** the sums of all records */
  readonly totals: readonly { readonly words: string; readonly value: string }[];
}

const SIGN = { sum: '', mean: 'ø ', least: '≥ ', most: '≤ ' } as const;

/** The words of the groups and sums of a view, from what the server told of the whole. */
export function groupTexts(of: {
  readonly view: View;
  readonly whole: Whole | null;
  readonly columns: readonly Column[];
  readonly options: readonly ViewOption[];
  readonly texts: RecordTexts;
  readonly linked: Linked;
}): GroupTexts {
  const { view, whole, texts, linked } = of;
  const groups = (view.group && whole?.groups) || [];
  const column = of.columns.find((c) => c.key === view.group?.column);
  const shown = (key: string, value: Datum): string => texts.text(key, { id: 0, [key]: value }, linked);
  const sums = (values: readonly Datum[] | undefined) =>
    view.sums.flatMap((sum, i) => ((values?.[i] ?? null) === null ? [] : [{ sum, value: shown(sum.column, values?.[i] ?? null) }]));
  return {
    head(group) {
      const value = groups[group]?.value ?? null;
      if (value === null || !column) return `no ${(column?.label ?? 'value').toLowerCase()}`;
      if (view.group?.by === 'year') return String(value);
      if (view.group?.by === 'month')
        return new Intl.DateTimeFormat(LOCALE, { month: 'long', year: 'numeric', timeZone: 'UTC' }).format(new Date(`${String(value)}-01T00:00:00Z`)); // prettier-ignore
      return shown(column.key, value) || `no ${column.label.toLowerCase()}`;
    },
    step: (group) => (column ? texts.step(column.key, { id: 0, [column.key]: groups[group]?.value ?? null }) : null),
    count: (group) => groups[group]?.count ?? 0,
    sumsIn: (group, key) =>
      sums(groups[group]?.sums)
        .filter((s) => s.sum.column === key)
        .map((s) => SIGN[s.sum.of] + s.value)
        .join(' · '),
    sumsAside: (group, keys) =>
      sums(groups[group]?.sums)
        .filter((s) => !keys.has(s.sum.column))
        .map((s) => `${sumWords(s.sum, of.options)} ${s.value}`),
    totals: view.sums.map((s, i) => ({
      words: sumWords(s, of.options),
      value: (whole && shown(s.column, whole.sums[i] ?? null)) || 'none',
    })),
  };
}
