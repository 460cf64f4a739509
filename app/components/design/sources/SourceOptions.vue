<script setup lang="ts">
import { type SourcePart, useSource } from './useSource';

/* Choices typed in with the field, one a line. */
const props = defineProps<SourcePart<'options'>>();
const { set } = useSource(() => props.name);
const typed = computed(() => props.source.options.map((o) => (o.label === o.value ? o.value : `${o.value} = ${o.label}`)).join('\n'));
function setOptions(text: string): void {
  const seen = new Set<string>();
  const options = text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
    .map((line) => {
      const [value = '', label] = line.split(/\s*=\s*(.*)/s);
      return { value, label: label?.trim() || value };
    })
    .filter((o) => !seen.has(o.value) && seen.add(o.value));
  set({ options });
}
</script>

<template>
  <p>Choices are <slot />.</p>
  <label class="label small" :for="`options-${name}`">One a line; <code>value = label</code> where they differ</label>
  <TextEdit
    :id="`options-${name}`"
    class="mono"
    :rows="4"
    :value="typed"
    placeholder="clean = Clean"
    @change="setOptions(($event.target as HTMLTextAreaElement).value)"
  />
</template>

<style scoped>
.small {
  font-weight: 400;
  font-size: 13px;
}
</style>
