<script setup lang="ts">
import type { Binding } from '~~/core/formula/scope.ts';
import { sourceSchema } from '~~/core/choices/sources/schemas.ts';
import { type FeedType, feedType } from '~~/core/model/feeds.ts';
import { type SourcePart, useSource } from './useSource';

/* What a feed answers: which feed, and with what it is asked. */
const props = defineProps<SourcePart<'feed'>>();
const { draft, put, set } = useSource(() => props.name);
const feeds = computed(() => [...draft.feeds.values()].map((f) => ({ value: f.key, label: f.label })));
const asked = computed(() => draft.feeds.get(props.source.feed));
function chooseFeed(key: string): void {
  const chosen = draft.feeds.get(key);
  const params = Object.fromEntries((chosen?.params ?? []).flatMap((p) => (likely(p) ? [[p.key, likely(p)!]] : [])));
  put(sourceSchema.parse({ kind: 'feed', feed: key, params }));
}
/** A value of a feed that is called like a field most likely takes that field. */
function likely(p: { readonly key: string; readonly label: string }): string | null {
  const bindings = draft.scope?.bindings ?? new Map<string, Binding>();
  if (bindings.has(p.key) && p.key !== props.name) return p.key;
  const called = [...bindings.values()].find(
    (b) => b.source.kind === 'slot' && b.name !== props.name && b.label.toLowerCase() === p.label.toLowerCase(),
  );
  return called?.name ?? null;
}
/** Values that are still missing, with what they most likely take: added by one press. */
const missing = computed(() =>
  (asked.value?.params ?? []).flatMap((p) => {
    const field = (props.source.params[p.key] ?? '').trim() === '' ? likely(p) : null;
    return field === null ? [] : [{ key: p.key, label: p.label.toLowerCase(), field }];
  }),
);
const fill = (): void => set({ params: { ...props.source.params, ...Object.fromEntries(missing.value.map((m) => [m.key, m.field])) } });
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
        :label="`Value ${p.label}`"
        :place="`${name} params.${p.key}`"
        @change="set({ params: { ...source.params, [p.key]: $event } })" /></template
    >.
  </p>
  <p v-if="missing.length" class="small">
    <Button size="small" severity="warn" @click="fill"
      >+ {{ missing.map((m) => `${m.label} is ${draft.scope?.bindings.get(m.field)?.label ?? m.field}`).join(', ') }}</Button
    >
  </p>
  <Note v-if="!feeds.length">There are no feeds yet. <NuxtLink to="/design/feeds">Make one</NuxtLink></Note>
</template>
