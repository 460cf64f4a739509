import { defineQuery } from '@pinia/colada';
import type { Column, Subset } from '~~/core/form/tables.ts';
import type { Feed } from '~~/core/form/feeds.ts';
import type { OptionList } from '~~/core/form/lists.ts';

/* The model as the screens share it: tables, option lists, feeds and forms, each read once and kept. */

export interface TableSummary {
  readonly key: string;
  readonly label: string;
  readonly shown: string | null;
  readonly columns: readonly Column[];
  readonly rows: number;
  readonly large: boolean;
  readonly subsets?: readonly Subset[];
  readonly children: readonly { readonly table: string; readonly column: string }[];
}
export interface FormSummary {
  readonly key: string;
  /** why it cannot be read, when it cannot */
  readonly broken: string | null;
  readonly label: string;
  readonly table: string;
  readonly version: number | null;
  readonly publishedAt: string | null;
  readonly changedAt: string;
  readonly changes: readonly string[];
  readonly problems: { readonly errors: number; readonly warnings: number };
}
interface UsedBy {
  readonly key: string;
  readonly label: string;
}
export interface ListAnswer extends OptionList {
  readonly revision: number;
  /** why it cannot be read, when it cannot */
  readonly broken: string | null;
  readonly usedBy: readonly UsedBy[];
}
export interface FeedAnswer extends Feed {
  readonly revision: number;
  /** why it cannot be read, when it cannot */
  readonly broken: string | null;
  readonly secrets: readonly string[];
  readonly usedBy: readonly UsedBy[];
}
export interface FeedsAnswer {
  readonly feeds: readonly FeedAnswer[];
  readonly hosts: readonly string[];
  readonly standIns: Readonly<Record<string, { readonly delay: number; readonly failing: number }>>;
}

/** All tables of the workspace with counts and children. */
export const useTables = defineQuery({ key: ['tables'], query: () => api<readonly TableSummary[]>('tables') });
/** The forms a person may see, with what is not published of them. */
export const useForms = defineQuery({ key: ['forms'], query: () => api<readonly FormSummary[]>('forms') });
/** The option lists, with the forms that use them. */
export const useLists = defineQuery({ key: ['lists'], query: () => api<readonly ListAnswer[]>('lists') });
/** The feeds, the hosts that may be asked, and the stand-ins. */
export const useFeeds = defineQuery({ key: ['feeds'], query: () => api<FeedsAnswer>('feeds') });
