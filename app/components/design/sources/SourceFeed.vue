<script setup lang="ts">
import { sourceSchema } from '~~/core/choices/sources/index.ts';
import { type FeedType, feedType } from '~~/core/model/feeds.ts';
import { type SourcePart, useSource } from './useSource';

/* What a feed answers: which feed, and with what it is asked. */
const props = defineProps<SourcePart<'feed'>>();
const { draft, put, set } = useSource(() => props.name);
const feeds = computed(() => [...draft.feeds.values()].map((f) => ({ value: f.key, label: f.label })));
const asked = computed(() => draft.feeds.get(props.source.feed));
function chooseFeed(key: string): void {
  const chosen = draft.feeds.get(key);
  // a parameter named like a field most likely takes that field
  const params = Object.fromEntries((chosen?.params ?? []).filter((p) => draft.scope?.bindings.has(p.key)).map((p) => [p.key, p.key]));
  put(sourceSchema.parse({ kind: 'feed', feed: key, params }));
}
const expected = (type: FeedType) => (type === 'text' ? null : feedType(type));
</script>

<template>
  <p>
    Choices are <slot />: <PickWord :value="source.feed" :options="feeds" empty="choose a feed" label="Feed" @pick="chooseFeed" /><template
      v-for="p in asked?.params ?? []"
      :key="`${name} ${p.key}`"
      >, {{ p.label.toLowerCase() }} is
      <FormulaWord
        :text="source.params[p.key] ?? ''"
        :expected="expected(p.type)"
        :label="`Parameter ${p.label}`"
        :place="`${name} params.${p.key}`"
        @change="set({ params: { ...source.params, [p.key]: $event } })" /></template
    >.
  </p>
  <Note v-if="!feeds.length">There are no feeds yet. <NuxtLink to="/design/feeds">Make one</NuxtLink></Note>
</template>
