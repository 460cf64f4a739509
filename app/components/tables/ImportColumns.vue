<script setup lang="ts">
import { COLUMN_TYPES, COLUMN_TYPE_LABELS, type Column, type ColumnType, namesTable } from '~~/core/model/tables.ts';
import type { TableSummary } from '~/stores/model';
import type { ImportColumn } from './importTypes';

/* Column by column: what the file has, and what it becomes; for an existing table, which of its columns it goes into. */
const { columns, rows, tables, into } = defineProps<{
  columns: ImportColumn[];
  rows: number;
  tables: readonly TableSummary[];
  /** the existing table, or null for a new one */
  into: TableSummary | null;
}>();
const emit = defineEmits<{ changed: [] }>();
const linkable = computed(() => tables.filter((t) => t.shown));
const types = COLUMN_TYPES.filter((t) => COLUMN_LOOKS[t].control !== 'file');

function retype(c: ImportColumn, type: ColumnType): void {
  c.type = type;
  if (!namesTable(type)) c.target = null;
  emit('changed');
}
function goesInto(c: ImportColumn, key: string): void {
  const column = into?.columns.find((x) => x.key === key);
  c.take = !!column;
  if (column) Object.assign(c, { key: column.key, label: column.label, type: column.type, target: column.target, known: true });
  else Object.assign(c, { key: '', known: false });
  emit('changed');
}
const TYPES = types.map((value) => ({ value, label: COLUMN_TYPE_LABELS[value] }));
const targets = computed(() => linkable.value.map((t) => ({ value: t.key as string | null, label: `of ${t.label}` })));
const places = computed(() => [
  { value: '', label: 'nowhere: left out' },
  ...(into?.columns ?? []).map((x) => ({ value: x.key, label: x.label })),
]);
const holds = (c: Pick<Column, 'type' | 'target'>): string =>
  namesTable(c.type)
    ? `${COLUMN_TYPE_LABELS[c.type]} of ${tables.find((t) => t.key === c.target)?.label ?? c.target}`
    : COLUMN_TYPE_LABELS[c.type];
</script>

<template>
  <DataTable :value="columns" data-key="header" size="small" :row-class="(c: ImportColumn) => (c.take ? '' : 'out')">
    <Column v-if="!into" v-memo="[]">
      <template #header><span class="sr">Take</span></template>
      <template #body="{ data: c }"
        ><Checkbox v-model="c.take" binary :aria-label="`Take ${c.header}`" @update:model-value="emit('changed')"
      /></template>
    </Column>
    <Column v-memo="[]" header="In the file">
      <template #body="{ data: c }"
        ><code>{{ c.header }}</code></template
      >
    </Column>
    <Column v-if="into" v-memo="[]" header="Goes into">
      <template #body="{ data: c }"
        ><PickOne
          size="small"
          :model-value="c.take ? c.key : ''"
          :label="`Where ${c.header} goes`"
          :options="places"
          @update:model-value="goesInto(c, String($event ?? ''))"
      /></template>
    </Column>
    <Column v-if="!into" v-memo="[]" header="Label">
      <template #body="{ data: c }"
        ><InputText v-model="c.label" size="small" :aria-label="`Label of ${c.header}`" :disabled="!c.take"
      /></template>
    </Column>
    <Column v-if="!into" v-memo="[]" header="Name">
      <template #body="{ data: c }"
        ><InputText
          v-model="c.key"
          class="mono"
          size="small"
          :aria-label="`Name of ${c.header}`"
          :disabled="!c.take"
          @change="emit('changed')"
      /></template>
    </Column>
    <Column v-memo="[]" header="Holds">
      <template #body="{ data: c }">
        <template v-if="into">{{ c.take ? holds(c) : '' }}</template>
        <div v-else class="row">
          <PickOne
            size="small"
            :model-value="c.type as ColumnType"
            :label="`Type of ${c.header}`"
            :options="TYPES"
            :disabled="!c.take"
            @update:model-value="$event && retype(c, $event)"
          />
          <PickOne
            v-if="namesTable(c.type)"
            v-model="c.target"
            size="small"
            :invalid="!c.target"
            :label="`Table ${c.header} links to`"
            placeholder="of which table?"
            :options="targets"
            @update:model-value="emit('changed')"
          />
        </div>
      </template>
    </Column>
    <Column v-memo="[]" header="For example" body-class="examples">
      <template #body="{ data: c }"
        >{{ c.examples.join(' · ')
        }}<template v-if="c.filled < rows"> ({{ (rows - c.filled).toLocaleString(LOCALE) }} empty)</template></template
      >
    </Column>
  </DataTable>
</template>

<style scoped>
:deep(.p-inputtext) {
  min-width: 110px;
}
:deep(.examples) {
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  color: var(--ink-2);
}
:deep(.out) {
  opacity: 0.6;
}
</style>
