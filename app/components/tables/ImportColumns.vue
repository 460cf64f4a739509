<script setup lang="ts">
import { isFolded } from '~~/core/choices/order.ts';
import { SELF } from '~~/core/exchange/match.ts';
import { COLUMN_TYPES, COLUMN_TYPE_LABELS, type Column, type ColumnType, namesTable, targetOf } from '~~/core/model/tables.ts';
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
const linkable = computed(() => tables.filter((t) => t.columns.length > 0));
const types = COLUMN_TYPES.filter((t) => COLUMN_LOOKS[t].control !== 'file');

function retype(c: ImportColumn, type: ColumnType): void {
  c.type = type;
  if (!namesTable(type)) c.target = null;
  c.by = [];
  emit('changed');
}
function linkTo(c: ImportColumn, table: string | null): void {
  if (table !== c.target) Object.assign(c, { target: table, by: [], ways: [] });
  emit('changed');
}
/** The columns by which a link can say which row is meant: those of its table; of a link to the file’s own rows, of the file. */
function naming(c: ImportColumn): readonly { key: string; label: string }[] {
  if (c.target === SELF) return columns.filter((o) => o.take && o !== c);
  const table = tables.find((t) => t.key === targetOf(c));
  return (table?.columns ?? []).filter((o) => isFolded(o.type) || o.type === 'number');
}
const BOTH = ' + ';
const wayKey = (by: readonly string[]): string => by.join(BOTH);
/** The ways to match, those that were found first with their share of matches. */
function waysOf(c: ImportColumn): { value: string; label: string }[] {
  const all = naming(c);
  const named = (key: string): string => all.find((o) => o.key === key)?.label ?? key;
  const shown = tables.find((t) => t.key === targetOf(c))?.shown ?? null;
  const found = c.ways.map((w) => ({
    value: wayKey(w.by),
    label: `${w.by.map(named).join(' and ')} (${Math.round(w.share * 100)} % match)`,
  }));
  const others = all.filter((o) => !found.some((f) => f.value === o.key)).map((o) => ({ value: o.key, label: o.label }));
  const listed = [...found, ...others];
  const chosen = wayOf(c);
  if (c.target !== SELF && shown === null) listed.unshift({ value: '', label: 'choose a column' });
  return listed.some((o) => o.value === chosen)
    ? listed
    : [{ value: chosen, label: chosen.split(BOTH).map(named).join(' and ') }, ...listed];
}
/** How a link is matched; what is said of none is what the rows of its table are known by. */
const wayOf = (c: ImportColumn): string => (c.by.length ? wayKey(c.by) : (tables.find((t) => t.key === targetOf(c))?.shown ?? ''));
function matchBy(c: ImportColumn, way: string): void {
  c.by = way === '' ? [] : way.split(BOTH);
  emit('changed');
}
const isLink = (c: ImportColumn): boolean => c.take && targetOf(c) !== null;
function goesInto(c: ImportColumn, key: string): void {
  const column = into?.columns.find((x) => x.key === key);
  c.take = !!column;
  if (column)
    Object.assign(c, { key: column.key, label: column.label, type: column.type, target: column.target, known: true, by: [], ways: [] });
  else Object.assign(c, { key: '', known: false });
  emit('changed');
}
const TYPES = types.map((value) => ({ value, label: COLUMN_TYPE_LABELS[value] }));
const targets = computed(() => [
  ...(into ? [] : [{ value: SELF as string | null, label: 'in this file' }]),
  ...linkable.value.map((t) => ({ value: t.key as string | null, label: `of ${t.label}` })),
]);
const places = computed(() => [
  { value: '', label: 'not imported' },
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
      <template #header><span class="sr">Import</span></template>
      <template #body="{ data: c }"
        ><Checkbox v-model="c.take" binary :aria-label="`Import ${c.header}`" @update:model-value="emit('changed')"
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
    <Column v-memo="[]" header="Type">
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
            :model-value="c.target"
            size="small"
            :invalid="!c.target"
            :label="`Table ${c.header} links to`"
            placeholder="of which table?"
            :options="targets"
            @update:model-value="linkTo(c, $event ?? null)"
          />
        </div>
        <div v-if="isLink(c)" class="row by">
          <span class="muted">matched by</span>
          <PickOne
            size="small"
            :model-value="wayOf(c)"
            :label="`Column that ${c.header} is matched by`"
            :options="waysOf(c)"
            @update:model-value="matchBy(c, String($event ?? ''))"
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
.by {
  padding-top: 3px;
  font-size: 13px;
}
:deep(.out) {
  opacity: 0.6;
}
</style>
