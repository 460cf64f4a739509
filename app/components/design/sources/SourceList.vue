<script setup lang="ts">
import { levelsOf } from '~~/core/model/lists.ts';
import { type SourcePart, useSource } from './useSource';

/* Choices of an option list: which level of it, and under what. */
const props = defineProps<SourcePart<'list'>>();
const { draft, set } = useSource(() => props.name);
const lists = computed(() => [...draft.lists.values()].map((l) => ({ value: l.key, label: l.label, note: `${l.items.length} choices` })));
const levels = computed(() => {
  const list = draft.lists.get(props.source.list);
  const n = list ? levelsOf(list) : 1;
  return [
    { value: 0, label: 'the whole tree' },
    ...Array.from({ length: n }, (_, i) => ({ value: i + 1, label: i === 0 ? 'the top level' : `level ${i + 1}` })),
  ];
});
/** Fields that offer the level above in the same list: what this one can stand under. */
const parents = computed(() => {
  const { list, level } = props.source;
  const fields = Object.entries(draft.form!.fields).filter(
    ([k, f]) => k !== props.name && level && f.source?.kind === 'list' && f.source.list === list && f.source.level === level - 1,
  );
  return [{ value: '', label: 'any choice above' }, ...fields.map(([k, f]) => ({ value: k, label: `the entry’s ${f.label}` }))];
});
const under = computed(() => parents.value.find((p) => p.value && props.source.where === `choice.parent = ${p.value}`)?.value ?? '');
</script>

<template>
  <p>
    Choices are <slot />: <PickWord :value="source.level ?? 0" :options="levels" label="Level" @pick="set({ level: $event || null })" /> of
    <PickWord :value="source.list" :options="lists" empty="choose a list" label="Option list" @pick="set({ list: $event })" /><template
      v-if="(source.level ?? 0) > 1"
      >, under
      <PickWord
        :value="under"
        :options="parents"
        label="Under"
        @pick="set({ where: $event ? `choice.parent = ${$event}` : null })" /></template
    >.
  </p>
  <Note v-if="!lists.length">There are no option lists yet. <NuxtLink to="/design/lists">Make one</NuxtLink></Note>
</template>
