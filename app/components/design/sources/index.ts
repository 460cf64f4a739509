import type { Component } from 'vue';
import type { SourceKindName } from '~~/core/choices/sources/index.ts';
import type { useDraft } from '~/stores/draft';
import SourceAttributes from './SourceAttributes.vue';
import SourceDistinct from './SourceDistinct.vue';
import SourceFeed from './SourceFeed.vue';
import SourceJson from './SourceJson.vue';
import SourceList from './SourceList.vue';
import SourceOptions from './SourceOptions.vue';
import SourceRows from './SourceRows.vue';

/** A kind of source on screen: what it is called, the part of the sentence that sets it, and what a new one begins with. */
interface SourceScreen {
  readonly words: string;
  readonly part: Component;
  fresh(draft: ReturnType<typeof useDraft>): object;
}
const first = <T>(map: ReadonlyMap<string, T>, otherwise: string): string => map.keys().next().value ?? otherwise;

export const SOURCE_SCREENS: Readonly<Record<SourceKindName, SourceScreen>> = {
  rows: { words: 'rows of a table', part: SourceRows, fresh: ({ tables }) => ({ table: first(tables, 'people') }) },
  options: { words: 'a list typed in here', part: SourceOptions, fresh: () => ({}) },
  list: { words: 'an option list', part: SourceList, fresh: ({ lists }) => ({ list: first(lists, 'list') }) },
  distinct: { words: 'the values of a column', part: SourceDistinct, fresh: ({ tables }) => ({ table: first(tables, 'people') }) },
  feed: { words: 'the answer of a feed', part: SourceFeed, fresh: ({ feeds }) => ({ feed: first(feeds, 'feed') }) },
  attributes: {
    words: 'the attributes of a row or JSON',
    part: SourceAttributes,
    fresh: ({ scope }) => {
      const link = [...(scope?.bindings.values() ?? [])].find((b) => b.source.kind === 'slot' && b.type.kind === 'row');
      return { of: link?.name ?? '' };
    },
  },
  json: { words: 'JSON typed in here', part: SourceJson, fresh: () => ({ text: '[\n  { "value": "a", "label": "A" }\n]' }) },
};
