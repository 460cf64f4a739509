import type { z } from 'zod';
import { type Formula, formula } from '../formula/formula.ts';
import type { Scope } from '../formula/scope.ts';
import { type Column } from '../model/tables.ts';
import type { Deep } from '../values/types.ts';
import { YESNO } from '../values/typing.ts';
import { type Narrowing, narrowingOf } from './narrowing.ts';
import { subsetScope } from './subsets.ts';
import type { viewSchema } from './viewSchemas.ts';

/*
 * A view: how the records of a form are looked at. Which of them, in what order, grouped and summed by what, and in which colours.
 * Conditions are over the record, which they call `choice` as those of subsets do.
 */

/** The signs beside a colour: nobody has to tell colours apart. */
export const VIEW_SIGNS = ['▲', '◆', '●', '■', '▼', '○', '◇', '□'] as const;
export const SUMS = ['sum', 'mean', 'least', 'most'] as const;
export type SumOf = (typeof SUMS)[number];
export const GROUP_BY = ['value', 'month', 'year'] as const;
export const MOST_COLOURS = 8;

export type View = Deep<z.infer<typeof viewSchema>>;
export type ViewColour = View['colours'][number];
/** All records, as they come. */
export const PLAIN_VIEW: View = { where: null, columns: null, sort: [], group: null, sums: [], colours: [], calendar: null };
/** How long a view may be as JSON text: it stands in addresses. */
export const MOST_VIEW_TEXT = 6000;

/** What a view’s conditions may name: the record with the columns that whoever looks may see, and the person signed in. */
export const viewScope = (tables: Scope['tables'], table: string): Scope => subsetScope({ tables }, table);

/** A condition of a view, compiled. Takes its text; gives it taken apart, or what is wrong with it as a sentence. */
export function viewCondition(text: string, scope: Scope): Narrowing | string {
  const compiled: Formula = formula(text, scope, YESNO);
  const wrong = compiled.problems.find((p) => p.severity === 'error');
  return wrong ? wrong.message : narrowingOf(compiled);
}

/** The columns a view names, each once. */
export const columnsNamed = (view: View): string[] => [
  ...new Set([
    ...(view.columns ?? []),
    ...view.sort.map((s) => s.column),
    ...(view.group ? [view.group.column] : []),
    ...view.sums.map((s) => s.column),
    ...(view.calendar ? [view.calendar.from, ...(view.calendar.until === null ? [] : [view.calendar.until])] : []),
  ]),
];
/** A view with its columns under other names. */
export function withColumns(view: View, rename: (key: string) => string): View {
  return {
    ...view,
    columns: view.columns?.map(rename) ?? null,
    sort: view.sort.map((s) => ({ ...s, column: rename(s.column) })),
    group: view.group && { ...view.group, column: rename(view.group.column) },
    sums: view.sums.map((s) => ({ ...s, column: rename(s.column) })),
    calendar: view.calendar && {
      from: rename(view.calendar.from),
      until: view.calendar.until === null ? null : rename(view.calendar.until),
    },
  };
}
/** A view without what stands on columns that are not there: what is left can be shown. Conditions are left as they are. */
export function withoutColumns(view: View, has: (key: string) => boolean): View {
  const columns = view.columns?.filter(has) ?? null;
  return {
    ...view,
    columns: columns?.length ? columns : null,
    sort: view.sort.filter((s) => has(s.column)),
    group: view.group && has(view.group.column) ? view.group : null,
    sums: view.sums.filter((s) => has(s.column)),
    calendar: view.calendar && has(view.calendar.from) ? { from: view.calendar.from, until: view.calendar.until !== null && has(view.calendar.until) ? view.calendar.until : null } : null,
  }; // prettier-ignore
}
/** Whether records can be grouped by a column: what holds several values, or long texts, makes no groups. */
export const canGroup = ({ type }: Pick<Column, 'type'>): boolean =>
  !['longtext', 'choices', 'links', 'file', 'files', 'json'].includes(type);
/** Whether a group can be of months or years. */
export const hasDays = ({ type }: Pick<Column, 'type'>): boolean => type === 'date' || type === 'datetime';
