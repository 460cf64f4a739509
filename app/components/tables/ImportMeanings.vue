<script setup lang="ts">
import type { UnmatchedText } from './importTypes';

/* What each text that names no row means, for one column of a file: a row that is near, any other row, none, or a new one. */
const { texts, target, decided, table } = defineProps<{
  texts: readonly UnmatchedText[];
  header: string;
  /** the label of the table that the column links to */
  target: string;
  /** the table itself, where any of its rows can be found; null while it is not there yet */
  table: string | null;
  /** what was decided for a text; empty while nothing is */
  decided: (value: string) => string;
}>();
const emit = defineEmits<{ decide: [value: string, choice: string] }>();
const meanings = (u: UnmatchedText): { value: string; label: string }[] => [
  { value: '', label: 'choose…' },
  ...u.near.map((n) => ({ value: String(n.id), label: n.text })),
  // another row that was found for it
  ...(/^\d+$/.test(decided(u.value)) && !u.near.some((n) => String(n.id) === decided(u.value))
    ? [{ value: decided(u.value), label: found.get(Number(decided(u.value))) ?? `row ${decided(u.value)}` }]
    : []),
  ...(table === null ? [] : [{ value: OTHER, label: 'another row…' }]),
  { value: 'empty', label: 'leave it empty' },
  ...(table === null ? [] : [{ value: 'add', label: `a new row of ${target}` }]),
];
const OTHER = 'other';
/** The text whose row is being looked for, and what was found so far, by row. */
const seeking = ref<string | null>(null);
const found = reactive(new Map<number, string>());
function choose(u: UnmatchedText, choice: string): void {
  seeking.value = choice === OTHER ? u.value : null;
  if (choice !== OTHER) emit('decide', u.value, choice);
}
function take(u: UnmatchedText, row: { id: number; text: string }): void {
  found.set(row.id, row.text);
  seeking.value = null;
  emit('decide', u.value, String(row.id));
}
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
              :label="u.sure ? `${u.near[0].text}?` : `perhaps ${u.near[0].text}?`"
              @click="emit('decide', u.value, String(u.near[0].id))"
          /></span>
          <FindRow
            v-if="seeking === u.value && table"
            :table="table"
            :label="`Row of ${target} that “${u.value}” means`"
            autofocus
            @pick="take(u, $event)"
          />
          <PickOne
            v-else
            size="small"
            :model-value="decided(u.value)"
            :label="`What “${u.value}” means`"
            :options="meanings(u)"
            @update:model-value="choose(u, String($event ?? ''))"
          />
        </div>
      </template>
    </Column>
  </DataTable>
</template>

<style scoped>
.means {
  display: grid;
  grid-template-columns: minmax(0, 220px) 1fr;
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
