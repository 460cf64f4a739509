<script setup lang="ts">
import { type SourceKindName, sourceStores } from '~~/core/choices/sources/index.ts';
import { sourceSchema } from '~~/core/choices/sources/schemas.ts';
import { fieldAt } from '~~/core/form/definition.ts';
import { KINDS } from '~~/core/values/kinds/index.ts';
import { SOURCE_SCREENS } from './sources';
import { useSource } from './sources/useSource';

/* Where a field's choices come from, as one sentence: its kind, and the part that says the rest. */
const props = defineProps<{ name: string }>();
const { draft, put } = useSource(() => props.name);
const field = computed(() => fieldAt(draft.form!, props.name)!);
const stores = computed(() => KINDS[field.value.type].chooses);
/** The kinds a field of its type can have; a word to choose from where there are several. */
const kinds = computed(() =>
  (Object.keys(SOURCE_SCREENS) as SourceKindName[])
    .filter((k) => sourceStores(k) === stores.value)
    .map((value) => ({ value, label: SOURCE_SCREENS[value].words })),
);
/** Its kind; where its source is of none that its type can have, the first, to begin anew with. */
const kind = computed(() => kinds.value.find((k) => k.value === field.value.source?.kind)?.value ?? kinds.value[0]!.value);
const source = computed(() => (field.value.source?.kind === kind.value ? field.value.source : null));
const setKind = (fresh: SourceKindName): void => put(sourceSchema.parse({ ...SOURCE_SCREENS[fresh].fresh(draft), kind: fresh }));
</script>

<template>
  <component :is="SOURCE_SCREENS[kind].part" v-if="source || kinds.length === 1" :name="name" :source="source">
    <PickWord :value="kind" :options="kinds" label="Kind of list" @pick="setKind" />
  </component>
  <p v-else>Choices are <PickWord :value="kind" :options="kinds" label="Kind of list" @pick="setKind" />.</p>
</template>
