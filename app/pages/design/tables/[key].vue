<script setup lang="ts">
import { keyProblem, linkTarget } from '~~/core/model/tables.ts';
import { PEOPLE } from '~~/core/values/kinds/index.ts';
import { contract } from '~~/core/contract/index.ts';
const route = useRoute();
const key = String(route.params.key);
const asked = useTables();
const tables = computed(() => asked.data.value ?? []);
const confirm = useConfirm();
const toast = useToast();
const byParent = ref(false);
const hasParents = computed(() => table.value?.columns.some((c) => linkTarget(c) !== null) ?? false);
const FILES = (
  [
    { as: 'csv', label: 'CSV', note: 'text, one line a row' },
    { as: 'xlsx', label: 'XLSX', note: 'a workbook' },
    { as: 'json', label: 'JSON', note: 'a list of objects, links with their row' },
    { as: 'package', label: 'Data package', note: 'CSV with its columns’ types and links, zipped' },
  ] as const
).map((f) => ({ ...f, url: routeAddress(contract.tables.exportOne, { key }, { as: f.as }) }));
const structure = ref(false);
const subsetsOpen = ref(false);
const togetherOpen = ref(route.query.together !== undefined);
async function load(): Promise<void> {
  await asked.refetch();
}
const table = computed(() => tables.value.find((t) => t.key === key));
const columns = computed(() => (table.value?.columns ?? []).map((c) => ({ value: c.key, label: c.label })));
async function change(body: { label?: string; shown?: string | null }): Promise<void> {
  try {
    await api.tables.change({ key }, body);
    await load();
  } catch (e) {
    toast.add({ severity: 'error', summary: 'Not changed', detail: messageOf(e), life: 8000 });
  }
}
const NOTE = 'So are the forms that are published, and what was noted of its records.';
const nameProblem = (to: string): string | null =>
  keyProblem(to) ?? (to !== key && tables.value.some((t) => t.key === to) ? `There is a table “${to}” already.` : null);
async function rename(name: string): Promise<void> {
  await api.tables.rename({ key }, { name });
  await load();
  await navigateTo(`/design/tables/${name}`, { replace: true });
}
function remove(): void {
  confirm.require({
    header: 'Delete the table',
    message: `${table.value?.label} and its ${table.value?.rows.toLocaleString(LOCALE)} rows will be gone. This cannot be undone.`,
    acceptProps: { label: 'Delete', severity: 'danger' },
    rejectProps: { label: 'Keep it', severity: 'secondary' },
    accept: async () => {
      try {
        await api.tables.remove({ key });
        await navigateTo('/design/tables');
      } catch (e) {
        toast.add({ severity: 'error', summary: 'Not deleted', detail: messageOf(e), life: 8000 });
      }
    },
  });
}
useHead({ title: computed(() => `${table.value?.label ?? 'Table'} · Brisk Acorn`) });
</script>

<template>
  <div class="screen">
    <PlaceTrail :above="[{ label: 'Tables', to: '/design/tables' }]" :here="table?.label ?? key" />
    <div v-if="!table" class="page">
      <Asked :query="asked"
        ><Note kind="bad">There is no table “{{ key }}”. <NuxtLink to="/design/tables">All tables</NuxtLink></Note></Asked
      >
    </div>
    <template v-else>
      <p class="about">
        <TextEdit
          class="bare title"
          :value="table.label"
          aria-label="Label of the table"
          @change="change({ label: ($event.target as HTMLInputElement).value.trim() || table!.label })"
          @keydown.enter="($event.target as HTMLInputElement).blur()"
        />
        <span class="muted"
          ><NameWord v-if="key !== PEOPLE" :name="key" of="the table" :note="NOTE" :problem="nameProblem" :rename="rename" /><code v-else>{{
            key
          }}</code>
          in formulas. Its rows are called by their
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
          ><Button v-if="hasParents" severity="secondary" size="small" :aria-pressed="byParent" @click="byParent = !byParent">
            {{ byParent ? 'All rows' : 'By parent' }}
          </Button>
          <Button severity="secondary" size="small" @click="structure = true">Columns</Button>
          <Button severity="secondary" size="small" @click="subsetsOpen = true">
            Subsets{{ table.subsets?.length ? ` (${table.subsets.length})` : '' }}
          </Button>
          <Button v-if="key !== PEOPLE" severity="secondary" size="small" @click="togetherOpen = true">What repeats</Button>
          <Button as="router-link" severity="secondary" size="small" :to="`/design/tables/import?into=${key}`">Import rows</Button>
          <ExportButton :files="FILES" />
          <Button v-if="key !== PEOPLE" text severity="danger" size="small" @click="remove">Delete table</Button></span
        >
      </p>
      <ByParent v-if="byParent" :table="table" :tables="tables" />
      <DataGrid
        v-else
        :key="`${key} ${table.shown} ${table.columns.map((c) => c.key + c.label + c.type).join()}`"
        :table="table"
        :tables="tables"
        @changed="load"
      />
    </template>
    <StayDialog v-model:visible="subsetsOpen" modal header="Subsets" :style="{ width: '640px' }"
      ><SubsetPanel v-if="table" :table="table" :tables="tables" :reload="load"
    /></StayDialog>
    <StayDialog v-model:visible="togetherOpen" modal header="Columns that come together" :style="{ width: '720px' }"
      ><TogetherPanel v-if="table" :table="key" @changed="load"
    /></StayDialog>
    <StayDialog v-model:visible="structure" modal header="Columns" :style="{ width: '760px' }"
      ><ColumnPanel v-if="table" :table="table" :tables="tables" :reload="load"
    /></StayDialog>
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
  width: 200px;
  min-height: 0;
}
.tools {
  display: flex;
  gap: 6px;
  white-space: nowrap;
}
.about .tools {
  margin-left: auto;
}
/* where there is little room, one thing stands below the other */
@media (max-width: 900px) {
  .about,
  .tools {
    flex-wrap: wrap;
  }
  .about .tools {
    margin-left: 0;
  }
}
</style>
