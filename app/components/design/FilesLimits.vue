<script setup lang="ts">
import type { Field } from '~~/core/form/definition.ts';

/* How many files a field takes, how large each and all of them. */
const props = defineProps<{ files: Field['files'] }>();
const emit = defineEmits<{ change: [files: Field['files']] }>();
const PARTS = [
  { key: 'most', before: 'at most', after: 'files', label: 'Most files' },
  { key: 'eachMb', before: 'each of at most', after: 'MB', label: 'Most megabytes of each' },
  { key: 'allMb', before: 'and', after: 'MB in all', label: 'Most megabytes of all' },
] as const;
function set(key: (typeof PARTS)[number]['key'], text: string): void {
  const n = Number(text.replace(',', '.'));
  const now = { most: null, eachMb: null, allMb: null, ...props.files };
  const value =
    text.trim() === '' || !Number.isFinite(n) || n <= 0
      ? null
      : key === 'most'
        ? Math.min(100, Math.max(1, Math.round(n)))
        : Math.min(1000, n);
  emit('change', { ...now, [key]: value });
}
</script>

<template>
  <span v-for="p in PARTS" :key="p.key"
    >{{ p.before }}
    <TextEdit
      class="few"
      size="small"
      inputmode="decimal"
      placeholder="any"
      :value="String(files?.[p.key] ?? '')"
      :aria-label="p.label"
      @change="set(p.key, ($event.target as HTMLInputElement).value)"
    />
    {{ p.after }}{{ p.key === 'most' ? ', ' : ' ' }}</span
  >
</template>

<style scoped>
.few {
  width: 56px;
}
</style>
