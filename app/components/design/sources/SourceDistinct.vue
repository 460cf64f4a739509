<script setup lang="ts">
import { isFolded } from '~~/core/choices/order.ts';
import { MORE, type SourcePart, useSource, useTableWords } from './useSource';

/* The values of a text column, each once. */
const props = defineProps<SourcePart<'distinct'>>();
const { set } = useSource(() => props.name);
const { tables, subsets, columns } = useTableWords(() => props.source.table);
const more = inject(MORE, ref(true));
const textColumns = computed(() => columns.value.filter((c) => isFolded(c.type)));
</script>

<template>
  <p>
    Choices are <slot />:
    <PickWord
      :value="source.values"
      :options="textColumns"
      empty="choose a column"
      label="Column of values"
      @pick="set({ values: $event })"
    />
    of <PickWord :value="source.table" :options="tables" label="Table" @pick="set({ table: $event, values: null, subset: null })" />, each
    once<template v-if="subsets.length > 1 && (more || source.subset)"
      >, from <PickWord :value="source.subset ?? ''" :options="subsets" label="Subset" @pick="set({ subset: $event || null })" /></template
    >.
  </p>
</template>
