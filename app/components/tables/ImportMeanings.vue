<script setup lang="ts">
import type { UnmatchedText } from './importTypes';

/* What each text that names no row means, for one column of a file. */
const { texts, target, decided } = defineProps<{
  texts: readonly UnmatchedText[];
  header: string;
  /** the label of the table that the column links to */
  target: string;
  /** what was decided for a text; empty while nothing is */
  decided: (value: string) => string;
}>();
const emit = defineEmits<{ decide: [value: string, choice: string] }>();
const meanings = (u: UnmatchedText): { value: string; label: string }[] => [
  { value: '', label: 'choose…' },
  ...u.near.map((n) => ({ value: String(n.id), label: n.text })),
  { value: 'empty', label: 'leave it empty' },
  { value: 'add', label: `a new row of ${target}` },
];
</script>

<template>
  <DataTable :value="[...texts]" data-key="value" size="small" :row-class="(u: UnmatchedText) => (decided(u.value) ? 'mended' : '')">
    <Column v-memo="[]" :header="header">
      <template #body="{ data: u }"
        ><code class="value">{{ u.value }}</code> <span class="muted">line {{ u.firstLine + 1 }}</span></template
      >
    </Column>
    <Column v-memo="[]" header="Lines" class="num">
      <template #body="{ data: u }">{{ u.count.toLocaleString(LOCALE) }}</template>
    </Column>
    <Column v-memo="[]" header="Means">
      <template #body="{ data: u }">
        <div class="means">
          <span
            ><Button
              v-if="u.near[0] && !decided(u.value)"
              link
              :label="`${u.near[0].text}?`"
              @click="emit('decide', u.value, String(u.near[0].id))"
          /></span>
          <PickOne
            size="small"
            :model-value="decided(u.value)"
            :label="`What “${u.value}” means`"
            :options="meanings(u)"
            @update:model-value="emit('decide', u.value, String($event ?? ''))"
          />
        </div>
      </template>
    </Column>
  </DataTable>
</template>

<style scoped>
.means {
  display: grid;
  grid-template-columns: 180px 1fr;
  gap: 12px;
  align-items: center;
}
.value {
  white-space: pre;
  background: var(--ground-3);
  padding: 1px 4px;
}
:deep(.mended) {
  background: var(--act-wash);
}
</style>
