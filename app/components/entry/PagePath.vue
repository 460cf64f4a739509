<script setup lang="ts">
import type { Page } from '~~/core/form/definition.ts';

/* The pages of a form as a path: where one is, and what is still open on each. */
const { pages, current, open } = defineProps<{ pages: readonly Page[]; current: string; open: ReadonlyMap<string, number> }>();
const emit = defineEmits<{ go: [id: string] }>();
const at = computed(() => pages.findIndex((p) => p.id === current));
const openWords = (id: string): string => {
  const n = open.get(id) ?? 0;
  return n === 0 ? '' : `${n} open`;
};
</script>

<template>
  <nav class="path" aria-label="Pages">
    <ol>
      <li v-for="(p, i) in pages" :key="p.id">
        <Button
          text
          :severity="p.id === current ? undefined : 'secondary'"
          size="small"
          class="step"
          :class="{ here: p.id === current, passed: i < at }"
          :aria-current="p.id === current ? 'step' : undefined"
          @click="emit('go', p.id)"
          ><span class="number">{{ i + 1 }}</span> {{ p.label || `Page ${i + 1}` }}
          <span v-if="openWords(p.id)" class="open">{{ openWords(p.id) }}</span></Button
        >
      </li>
    </ol>
  </nav>
</template>

<style scoped>
ol {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  padding: 0 4px 8px;
  list-style: none;
}
.step {
  gap: 6px;
  border-bottom: 2px solid var(--line);
  border-radius: 0;
}
.here {
  font-weight: 700;
  border-bottom-color: var(--flow);
}
.number {
  color: var(--ink-2);
  font-variant-numeric: tabular-nums;
}
.open {
  font-size: 12px;
  color: var(--flow-ink);
}
</style>
