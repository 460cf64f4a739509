<script setup lang="ts">
import { type SourcePart, useSource } from './useSource';

/* Choices out of JSON typed in with the field. */
const props = defineProps<SourcePart<'json'>>();
const { set } = useSource(() => props.name);
</script>

<template>
  <p>Choices are <slot />.</p>
  <label class="label small" :for="`json-${name}`">A list of texts, of objects with value and label, or an object</label>
  <TextEdit
    :id="`json-${name}`"
    class="mono"
    :rows="5"
    :value="source.text"
    spellcheck="false"
    @change="set({ text: ($event.target as HTMLTextAreaElement).value })"
  />
</template>

<style scoped>
.small {
  font-weight: 400;
  font-size: 13px;
}
</style>
