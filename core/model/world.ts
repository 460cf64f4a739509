import type { Feeds } from './feeds.ts';
import type { OptionLists } from './lists.ts';
import type { Tables } from './tables.ts';

/** What a form is compiled against. */
export interface World {
  readonly tables: Tables;
  readonly lists: OptionLists;
  readonly feeds: Feeds;
}
