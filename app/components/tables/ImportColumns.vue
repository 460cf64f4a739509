<script setup lang="ts">
import { COLUMN_TYPES, COLUMN_TYPE_LABELS, type Column, type ColumnType } from '~~/core/form/tables.ts';
import type { TableSummary } from '~/composables/useTables';
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
const types = COLUMN_TYPES.filter((t) => t !== 'file');

function retype(c: ImportColumn, type: ColumnType): void {
  c.type = type;
  if (type !== 'link' && type !== 'links') c.target = null;
  emit('changed');
}
function goesInto(c: ImportColumn, key: string): void {
  const column = into?.columns.find((x) => x.key === key);
  c.take = !!column;
  if (column) Object.assign(c, { key: column.key, label: column.label, type: column.type, target: column.target, known: true });
  else Object.assign(c, { key: '', known: false });
  emit('changed');
}
const holds = (c: Pick<Column, 'type' | 'target'>): string =>
  c.type === 'link' || c.type === 'links'
    ? `${COLUMN_TYPE_LABELS[c.type]} of ${tables.find((t) => t.key === c.target)?.label ?? c.target}`
    : COLUMN_TYPE_LABELS[c.type];
</script>

<template>
  <table class="plainTable columns">
    <thead>
      <tr>
        <th v-if="!into"><span class="sr">Take</span></th>
        <th>In the file</th>
        <template v-if="into"><th>Goes into</th></template>
        <template v-else
          ><th>Label</th>
          <th>Name</th></template
        >
        <th>Holds</th>
        <th>For example</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="c in columns" :key="c.header" :class="{ out: !c.take }">
        <td v-if="!into"><input v-model="c.take" type="checkbox" :aria-label="`Take ${c.header}`" @change="emit('changed')" /></td>
        <td>
          <code>{{ c.header }}</code>
        </td>
        <template v-if="into">
          <td>
            <select
              class="in"
              :value="c.take ? c.key : ''"
              :aria-label="`Where ${c.header} goes`"
              @change="goesInto(c, ($event.target as HTMLSelectElement).value)"
            >
              <option value="">nowhere: left out</option>
              <option v-for="x in into.columns" :key="x.key" :value="x.key">{{ x.label }}</option>
            </select>
          </td>
          <td>{{ c.take ? holds(c) : '' }}</td>
        </template>
        <template v-else>
          <td><input v-model="c.label" class="in" :aria-label="`Label of ${c.header}`" :disabled="!c.take" /></td>
          <td>
            <input v-model="c.key" class="in mono" :aria-label="`Name of ${c.header}`" :disabled="!c.take" @change="emit('changed')" />
          </td>
          <td>
            <div class="row">
              <select
                class="in"
                :value="c.type"
                :aria-label="`Type of ${c.header}`"
                :disabled="!c.take"
                @change="retype(c, ($event.target as HTMLSelectElement).value as ColumnType)"
              >
                <option v-for="t in types" :key="t" :value="t">{{ COLUMN_TYPE_LABELS[t] }}</option>
              </select>
              <select
                v-if="c.type === 'link' || c.type === 'links'"
                v-model="c.target"
                class="in"
                :class="{ missing: !c.target }"
                :aria-label="`Table ${c.header} links to`"
                @change="emit('changed')"
              >
                <option :value="null" disabled>of which table?</option>
                <option v-for="t in linkable" :key="t.key" :value="t.key">of {{ t.label }}</option>
              </select>
            </div>
          </td>
        </template>
        <td class="muted examples">
          {{ c.examples.join(' · ') }}<template v-if="c.filled < rows"> ({{ (rows - c.filled).toLocaleString(LOCALE) }} empty)</template>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.columns .in {
  min-width: 110px;
}
.examples {
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.out {
  opacity: 0.55;
}
.missing {
  border-color: var(--bad);
}
</style>
