<script setup lang="ts">
import type { TableSummary } from '~/composables/useTables';

const route = useRoute();
const key = String(route.params.key);
const tables = shallowRef<readonly TableSummary[]>([]);
const failed = ref('');
const deleting = ref(false);
const byParent = ref(false);
const hasParents = computed(() => table.value?.columns.some((c) => c.type === 'link' || c.type === 'person') ?? false);
const FILES = [
  { as: 'csv', label: 'CSV', title: 'Text, one line a row' },
  { as: 'xlsx', label: 'XLSX', title: 'A workbook' },
  { as: 'json', label: 'JSON', title: 'A list of objects, links with their row' },
  { as: 'package', label: 'data package', title: 'CSV with its columns’ types and links, zipped' },
];
const structure = ref(false);
const subsetsOpen = ref(false);
const problem = ref('');
async function load(): Promise<void> {
  try {
    tables.value = await fetchTables();
    failed.value = tables.value.some((t) => t.key === key) ? '' : `There is no table “${key}”.`;
  } catch (e) {
    failed.value = messageOf(e);
  }
}
await load();
const table = computed(() => tables.value.find((t) => t.key === key));
const columns = computed(() => (table.value?.columns ?? []).map((c) => ({ value: c.key, label: c.label })));
async function change(body: { label?: string; shown?: string | null }): Promise<void> {
  try {
    await api(`tables/${key}`, { method: 'PATCH', body });
    await load();
  } catch (e) {
    problem.value = messageOf(e);
  }
}
async function remove(): Promise<void> {
  problem.value = '';
  try {
    await api(`tables/${key}`, { method: 'DELETE' });
    await navigateTo('/design/tables');
  } catch (e) {
    problem.value = messageOf(e);
  }
}
useHead({ title: computed(() => `${table.value?.label ?? 'Table'} · Brisk Acorn`) });
</script>

<template>
  <div class="screen">
    <Teleport to="#bar-place"
      ><span class="muted"><NuxtLink to="/design/tables">Tables</NuxtLink> ›</span> <b>{{ table?.label ?? key }}</b></Teleport
    >
    <div v-if="failed" class="page">
      <p class="note bad" role="alert">{{ failed }} <NuxtLink to="/design/tables">All tables</NuxtLink></p>
    </div>
    <template v-else-if="table">
      <p class="about">
        <TextEdit
          class="title"
          :value="table.label"
          aria-label="Label of the table"
          @change="change({ label: ($event.target as HTMLInputElement).value.trim() || table!.label })"
          @keydown.enter="($event.target as HTMLInputElement).blur()"
        />
        <span class="muted"
          >Its rows are known by their
          <PickWord
            :value="table.shown"
            :options="columns"
            empty="choose a column"
            label="Shown column"
            @pick="change({ shown: $event })"
          />.<template v-if="table.children.length">
            Linked from {{ table.children.map((c) => tables.find((t) => t.key === c.table)?.label).join(', ') }}.</template
          ></span
        >
        <span class="tools"
          ><button v-if="hasParents" class="btn small" type="button" :aria-pressed="byParent" @click="byParent = !byParent">
            {{ byParent ? 'All rows' : 'By parent' }}
          </button>
          <button class="btn small" type="button" @click="structure = true">Columns</button>
          <button class="btn small" type="button" @click="subsetsOpen = true">
            Subsets{{ table.subsets?.length ? ` (${table.subsets.length})` : '' }}
          </button>
          <NuxtLink class="btn small" :to="`/design/tables/import?into=${key}`">Bring in rows</NuxtLink>
          <span class="row files"
            ><span class="muted">Save as</span>
            <a v-for="f in FILES" :key="f.as" class="word" :href="`/api/tables/${key}/export?as=${f.as}`" :title="f.title" download>{{
              f.label
            }}</a></span
          >
          <button v-if="key !== 'people'" class="btn plain small danger" type="button" @click="deleting = true">Delete table</button></span
        >
      </p>
      <ByParent v-if="byParent" :table="table" :tables="tables" />
      <DataGrid
        v-else
        :key="`${key} ${table.shown} ${table.columns.map((c) => c.key + c.label).join()}`"
        :table="table"
        :tables="tables"
        @changed="load"
      />
    </template>
    <Dialog v-model:visible="subsetsOpen" modal header="Subsets" :style="{ width: '640px' }"
      ><SubsetPanel v-if="table" :table="table" :tables="tables" :reload="load"
    /></Dialog>
    <Dialog v-model:visible="structure" modal header="Columns" :style="{ width: '760px' }"
      ><ColumnPanel v-if="table" :table="table" :tables="tables" :reload="load"
    /></Dialog>
    <Dialog v-model:visible="deleting" modal header="Delete the table" :style="{ width: '420px' }">
      <p>{{ table?.label }} and its {{ table?.rows.toLocaleString(LOCALE) }} rows will be gone. This cannot be undone.</p>
      <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
      <template #footer
        ><button class="btn" type="button" @click="deleting = false">Keep it</button
        ><button class="btn danger" type="button" @click="remove">Delete</button></template
      >
    </Dialog>
  </div>
</template>

<style scoped>
.screen {
  height: 100%;
  display: flex;
  flex-direction: column;
}
.about {
  display: flex;
  align-items: baseline;
  gap: 14px;
  padding: 10px 16px 6px;
}
.title {
  font-size: 18px;
  font-weight: 700;
  border: 0;
  border-bottom: 1px solid transparent;
  background: none;
  width: 200px;
  padding: 0;
}
.title:hover {
  border-bottom-color: var(--line-strong);
}
.tools {
  display: flex;
  gap: 6px;
  white-space: nowrap;
}
.about .tools {
  margin-left: auto;
}
</style>
