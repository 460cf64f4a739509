import { defineQuery } from '@pinia/colada';
import type { contract } from '~~/core/contract/index.ts';

/* The model as the screens share it: tables, option lists, feeds and forms, each read once and kept. */

export type TableSummary = Answer<typeof contract.tables.list>[number];
export type FormSummary = Answer<typeof contract.forms.list>[number];
export type ListAnswer = Answer<typeof contract.lists.list>[number];
export type FeedsAnswer = Answer<typeof contract.feeds.list>;
export type FeedAnswer = FeedsAnswer['feeds'][number];

/** All tables of the workspace with counts and children. */
export const useTables = defineQuery({ key: ['tables'], query: () => api.tables.list() });
/** The forms a person may see, with what is not published of them. */
export const useForms = defineQuery({ key: ['forms'], query: () => api.forms.list() });
/** The option lists, with the forms that use them. */
export const useLists = defineQuery({ key: ['lists'], query: () => api.lists.list() });
/** The feeds, the hosts that may be asked, and the stand-ins. */
export const useFeeds = defineQuery({ key: ['feeds'], query: () => api.feeds.list() });
