<script setup lang="ts">
import type { TableSummary } from '~/composables/useTables';

const tables = shallowRef<readonly TableSummary[]>([]);
const failed = ref('');
async function load(): Promise<void> {
  try {
    tables.value = await fetchTables();
    failed.value = '';
  } catch (e) {
    failed.value = messageOf(e);
  }
}
await load();
const label = (key: string | null): string => tables.value.find((t) => t.key === key)?.label ?? key ?? '';
const parents = (t: TableSummary): string =>
  [
    ...new Set(
      t.columns.filter((c) => c.type === 'link' || c.type === 'person').map((c) => label(c.type === 'person' ? 'people' : c.target)),
    ),
  ].join(', ');
const children = (t: TableSummary): string => [...new Set(t.children.map((c) => label(c.table)))].join(', ');
useHead({ title: 'Tables · Brisk Acorn' });
</script>

<template>
  <div class="page">
    <header class="row spread">
      <h1>Tables</h1>
      <span class="row"
        ><a class="btn" href="/api/tables/export" download title="All tables with their types and links, zipped"
          ><i class="pi pi-download" aria-hidden="true" /> Save all as a data package</a
        >
        <NuxtLink class="btn act" to="/design/tables/import"><i class="pi pi-upload" aria-hidden="true" /> Bring in a file</NuxtLink></span
      >
    </header>
    <p v-if="failed" class="note bad" role="alert">{{ failed }} <button class="word" type="button" @click="load">Try again</button></p>
    <table v-else class="plainTable">
      <thead>
        <tr>
          <th>Table</th>
          <th class="num">Rows</th>
          <th>Shown by</th>
          <th>Links to (parents)</th>
          <th>Linked from (children)</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="t in tables" :key="t.key">
          <td>
            <NuxtLink :to="`/design/tables/${t.key}`"
              ><b>{{ t.label }}</b></NuxtLink
            >
          </td>
          <td class="num">{{ t.rows.toLocaleString(LOCALE) }}</td>
          <td>{{ t.columns.find((c) => c.key === t.shown)?.label ?? 'nothing yet' }}</td>
          <td>{{ parents(t) || '–' }}</td>
          <td>{{ children(t) || '–' }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
