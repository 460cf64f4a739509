<script setup lang="ts">
import { contract } from '~~/core/contract/index.ts';
import { linkTarget } from '~~/core/model/tables.ts';
import type { TableSummary } from '~/stores/model';

const asked = useTables();
const making = ref(false);
const tables = computed(() => asked.data.value ?? []);
const labels = computed(() => new Map(tables.value.map((t) => [t.key, t.label])));
const label = (key: string): string => labels.value.get(key) ?? key;
const parents = (t: TableSummary): string => [...new Set(t.columns.flatMap((c) => linkTarget(c) ?? []).map(label))].join(', ');
const children = (t: TableSummary): string => [...new Set(t.children.map((c) => label(c.table)))].join(', ');
const { sought, isMany, found, paging } = useFinding(
  () => asked.data.value,
  (t) => [t.label, t.key],
);
useHead({ title: 'Tables · Brisk Acorn' });
</script>

<template>
  <div class="page">
    <header class="row spread">
      <h1>Tables</h1>
      <span class="row"
        ><Button
          v-tooltip.bottom="'All tables with their types and links, zipped'"
          as="a"
          severity="secondary"
          :href="routeAddress(contract.tables.exportAll)"
          download
          ><i class="pi pi-download" aria-hidden="true" /> Export all (data package)</Button
        >
        <Button severity="secondary" @click="making = true"><i class="pi pi-plus" aria-hidden="true" /> New table</Button>
        <Button as="router-link" to="/design/tables/import"><i class="pi pi-upload" aria-hidden="true" /> Import a file</Button></span
      >
    </header>
    <Asked :query="asked">
      <FindField v-if="isMany" v-model="sought" label="Find a table" />
      <DataTable :value="found" data-key="key" row-hover v-bind="paging">
        <template #empty>{{ sought ? 'No table is called so.' : 'No tables yet. Import a file, or make one.' }}</template>
        <Column v-memo="[]" header="Table" field="label" sortable>
          <template #body="{ data: t }"
            ><NuxtLink :to="`/design/tables/${t.key}`"
              ><b>{{ t.label }}</b></NuxtLink
            ></template
          >
        </Column>
        <Column v-memo="[]" header="Rows" field="rows" sortable class="num">
          <template #body="{ data: t }">{{ t.rows.toLocaleString(LOCALE) }}</template>
        </Column>
        <Column v-memo="[]" header="Rows called by">
          <template #body="{ data: t }">{{ (t as TableSummary).columns.find((c) => c.key === t.shown)?.label ?? 'nothing yet' }}</template>
        </Column>
        <Column v-memo="[]" header="Links to (parents)"
          ><template #body="{ data: t }">{{ parents(t) || '–' }}</template></Column
        >
        <Column v-memo="[]" header="Linked from (children)"
          ><template #body="{ data: t }">{{ children(t) || '–' }}</template></Column
        >
      </DataTable>
    </Asked>
    <MakeTable v-if="making" v-model:visible="making" :tables="tables" />
  </div>
</template>
