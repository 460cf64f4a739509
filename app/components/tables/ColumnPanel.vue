<script setup lang="ts">
import { COLUMN_TYPES, COLUMN_TYPE_LABELS, type ColumnType, keyFromLabel } from '~~/core/form/tables.ts';
import type { TableSummary } from '~/composables/useTables';

/* The columns of a table: their labels can be changed, new ones added. */
/** `reload` is a function and no event: an event of a dialog closed while it saves would be lost. */
const props = defineProps<{ table: TableSummary; tables: readonly TableSummary[]; reload: () => Promise<void> }>();
const label = ref('');
const type = ref<ColumnType>('text');
const target = ref<string | null>(null);
const problem = ref('');
const key = computed(() =>
  keyFromLabel(
    label.value || 'column',
    props.table.columns.map((c) => c.key),
  ),
);
const tableLabel = (k: string | null): string => props.tables.find((t) => t.key === k)?.label ?? '';
async function attempt(work: () => Promise<unknown>): Promise<void> {
  problem.value = '';
  try {
    await work();
    await props.reload();
  } catch (e) {
    problem.value = messageOf(e);
  }
}
const rename = (column: string, text: string): Promise<void> =>
  attempt(() => api(`tables/${props.table.key}/columns/${column}`, { method: 'PATCH', body: { label: text } }));
async function add(): Promise<void> {
  await attempt(() =>
    api(`tables/${props.table.key}/columns`, {
      body: { key: key.value, label: label.value.trim(), type: type.value, target: type.value === 'link' ? target.value : null },
    }),
  );
  if (!problem.value) label.value = '';
}
</script>

<template>
  <table class="plainTable">
    <thead>
      <tr>
        <th>Label</th>
        <th>Name in formulas</th>
        <th>Holds</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="c in table.columns" :key="c.key">
        <td>
          <input
            class="in"
            :value="c.label"
            :aria-label="`Label of ${c.key}`"
            @change="rename(c.key, ($event.target as HTMLInputElement).value)"
          />
        </td>
        <td>
          <code>{{ c.key }}</code>
        </td>
        <td>{{ COLUMN_TYPE_LABELS[c.type] }}{{ c.type === 'link' ? ` of ${tableLabel(c.target)}` : '' }}</td>
      </tr>
    </tbody>
  </table>
  <form class="adder" @submit.prevent="add">
    <label><span class="label">New column</span><input v-model="label" class="in" placeholder="Label" /></label>
    <label
      ><span class="label">Holds</span
      ><select v-model="type" class="in">
        <option v-for="t in COLUMN_TYPES" :key="t" :value="t">{{ COLUMN_TYPE_LABELS[t] }}</option>
      </select></label
    >
    <label v-if="type === 'link'"
      ><span class="label">Rows of</span
      ><select v-model="target" class="in">
        <option v-for="t in tables" :key="t.key" :value="t.key">{{ t.label }}</option>
      </select></label
    >
    <button class="btn act" type="submit" :disabled="!label.trim() || (type === 'link' && !target)">Add</button>
  </form>
  <p v-if="label.trim()" class="muted">
    It will be <code>{{ key }}</code> in formulas. The rows that exist have it empty.
  </p>
  <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
</template>

<style scoped>
.adder {
  display: flex;
  gap: 12px;
  align-items: end;
  padding: 14px 0 6px;
}
</style>
