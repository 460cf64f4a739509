<script setup lang="ts">
import { OUTCOMES } from '~~/core/evidence/fills.ts';
import { type FieldUse, type FillsUse, OUTCOME_WORDS, fillWords, useWords } from './fillWords';

/* Field by field, what became of what it was given: a bar, and what there is to know first. A press on a field tells the rest. */
const props = defineProps<{
  use: FillsUse;
  fields: readonly FieldUse[];
  label: string;
  /** counted over lines, not records */ lines?: boolean;
}>();
const of = computed(() => { const n = props.fields[0]?.records ?? props.use.records; return `Of ${n.toLocaleString(LOCALE)} ${props.lines ? (n === 1 ? 'line' : 'lines') : n === 1 ? 'record' : 'records'}`; }); // prettier-ignore
const picked = defineModel<string | null>('picked', { required: true });
const width = (n: number, of: number): string => `${(100 * n) / Math.max(1, of)}%`;
const said = (u: FieldUse): string =>
  OUTCOMES.filter((o) => u.counts[o] > 0)
    .map((o) => `${u.counts[o].toLocaleString(LOCALE)} ${OUTCOME_WORDS[o]}`)
    .join(', ');
/** most of what a fill gave was not what was wanted */
const fails = (u: FieldUse): boolean => u.fill !== null && u.counts.over + u.counts.emptied > u.counts.kept;
</script>

<template>
  <DataTable
    :value="[...fields]"
    data-key="field"
    size="small"
    :row-class="(u: FieldUse) => ({ picked: u.field === picked })"
    :table-props="{ 'aria-label': label }"
  >
    <Column header="Field" class="name"
      ><template #body="{ data: u }: { data: FieldUse }"
        ><Button link :aria-pressed="u.field === picked" :label="u.label" @click="picked = u.field" /></template
    ></Column>
    <Column header="Fills by" class="by"
      ><template #body="{ data: u }: { data: FieldUse }"
        ><span class="muted">{{ fillWords(u) }}</span></template
      ></Column
    >
    <Column :header="of"
      ><template #body="{ data: u }: { data: FieldUse }"
        ><div class="bar" role="img" :aria-label="said(u)">
          <i v-for="o in OUTCOMES" :key="o" :class="`out-${o}`" :style="{ width: width(u.counts[o], u.records) }" />
        </div>
        <span class="words"
          ><i v-if="fails(u)" class="pi pi-exclamation-triangle" role="img" aria-label="mostly not kept" />
          {{ useWords(u, use.linked) }}</span
        ></template
      ></Column
    >
  </DataTable>
</template>

<style scoped>
.bar {
  display: flex;
  height: 12px;
  border-radius: 3px;
  overflow: hidden;
  background: var(--ground-3);
  min-width: 180px;
}
.words {
  font-size: 13px;
}
.words .pi {
  color: var(--flow-ink);
  font-size: 12px;
}
:deep(.picked) {
  background: var(--flow-wash) !important;
}
:deep(.name) {
  width: 170px;
}
:deep(.by) {
  width: 130px;
  font-size: 13px;
}
</style>
