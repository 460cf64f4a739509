<script setup lang="ts">
import { type SourcePart, useSource } from './useSource';

/* The names of what a row, or JSON, has. */
const props = defineProps<SourcePart<'attributes'>>();
const { set } = useSource(() => props.name);
</script>

<template>
  <p>
    Choices are <slot />: those of
    <FormulaWord
      :key="`${name} of`"
      :text="source.of"
      :expected="null"
      label="Of which row or JSON"
      :place="`${name} of`"
      @change="set({ of: $event })"
    />
    ; the value of the chosen one is <code>{{ name.split('.').at(-1) }}.holds</code>.
  </p>
</template>
