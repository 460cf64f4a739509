<script setup lang="ts">
import { useQuery } from '@pinia/colada';
import { linkTarget } from '~~/core/model/tables.ts';
import type { TableSummary } from '~/stores/model';

/* A table's rows by their parent: every parent with the number of its children, those with none and with one. */
const props = defineProps<{ table: TableSummary; tables: readonly TableSummary[] }>();
const links = computed(() => props.table.columns.filter((c) => linkTarget(c) !== null));
const column = ref(links.value[0]?.key ?? null);
const only = ref<'all' | 'gaps' | 'singles'>('all');
const looking = ref<number | null>(null);
const LIMIT = 200;
const limit = ref(LIMIT);
const asked = useQuery({
  key: () => ['parents', props.table.key, column.value ?? '', only.value, limit.value],
  query: () => api.tables.parents({ key: props.table.key, column: column.value ?? '' }, { only: only.value, limit: limit.value }),
  enabled: () => column.value !== null,
});
const answer = computed(() => asked.data.value ?? null);
const SHOWN = [
  { value: 'all', label: 'all parents' },
  { value: 'gaps', label: 'without children' },
  { value: 'singles', label: 'with one child' },
];
const most = computed(() => Math.max(1, ...(answer.value?.rows ?? []).map((r) => r.children ?? 0)));
</script>

<template>
  <div class="by">
    <p class="row">
      <span v-if="links.length > 1" class="row"
        >By <PickOne v-model="column" label="Link" size="small" :options="links.map((c) => ({ value: c.key, label: c.label }))"
      /></span>
      <span v-else-if="links[0]" class="muted">By {{ links[0].label }}</span>
      <SelectButton
        v-model="only"
        :options="SHOWN"
        option-label="label"
        option-value="value"
        :allow-empty="false"
        size="small"
        aria-label="Which parents"
      />
      <span v-if="answer" class="muted"
        >{{ answer.total.toLocaleString(LOCALE) }} of {{ answer.parent.label
        }}{{ answer.orphans ? `; ${answer.orphans.toLocaleString(LOCALE)} rows have no parent` : '' }}</span
      >
    </p>
    <Note v-if="!links.length">{{ table.label }} links to no other table, so its rows have no parents.</Note>
    <Asked v-else v-slot="{ data }" :query="asked" height="200px">
      <Note v-if="!data.rows.length" kind="quiet">There is none.</Note>
      <DataTable v-else class="rows" :value="[...data.rows]" data-key="id" size="small" row-hover>
        <Column v-memo="[data.parent.label]" :header="data.parent.label">
          <template #body="{ data: r }"><Button link :label="r.text ?? `row ${r.id}`" @click="looking = r.id" /></template>
        </Column>
        <Column v-memo="[]" header="Children" class="num">
          <template #body="{ data: r }">{{ r.children ? r.children.toLocaleString(LOCALE) : 'none' }}</template>
        </Column>
        <Column v-memo="[most]" class="bar">
          <template #header><span class="sr">Share of the most</span></template>
          <template #body="{ data: r }"><span :style="{ width: `${(r.children / most) * 100}%` }" /></template>
        </Column> </DataTable
    ></Asked>
    <Button
      v-if="answer && answer.total > answer.rows.length"
      severity="secondary"
      size="small"
      label="Show more"
      @click="limit = Math.min(500, limit + LIMIT)"
    />
    <StayDialog :visible="looking !== null" modal header="Details" :style="{ width: '640px' }" @update:visible="looking = null"
      ><RowPanel v-if="looking !== null && answer" :id="looking" :table="answer.parent.key"
    /></StayDialog>
  </div>
</template>

<style scoped>
.by {
  padding: 4px 16px 20px;
  overflow: auto;
}
.by > p {
  padding-bottom: 8px;
  gap: 16px;
}
.rows {
  max-width: 720px;
}
.rows :deep(.bar) {
  width: 260px;
}
.rows :deep(.bar) > span:not(.sr) {
  display: block;
  height: 10px;
  margin-top: 5px;
  background: var(--act);
}
</style>
