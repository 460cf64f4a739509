<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core';
import { type Field, fieldOrder } from '~~/core/form/definition.ts';
import { type Step, stepOf } from '~~/core/form/steps.ts';
import type { Column } from '~~/core/model/tables.ts';
import { contract } from '~~/core/contract/index.ts';
import type { Datum, Row } from '~~/core/values/types.ts';

const route = useRoute();
const key = String(route.params.form);
/** the step whose records alone are listed; empty: all */
const step = ref(String(route.query.step ?? ''));
const rows = useRows((query) => api.entries.list({ key }, { ...query, step: step.value || undefined }), true);
const { said: page, failed, search } = rows;
const here = route.path;
const router = useRouter();
search.value = String(route.query.q ?? '');
await rows.again();
function readAgain(): void {
  void rows.again();
  // Back from a record finds the list as it was left
  if (router.currentRoute.value.path === here)
    void navigateTo(
      { path: here, query: { ...route.query, q: search.value || undefined, step: step.value || undefined } },
      { replace: true },
    );
}
const searchSoon = useDebounceFn(readAgain, 200);
/** Its steps, where one sees the field that holds them. */
const steps = computed(() => {
  const { form, columns: shown } = page.value ?? {};
  const column = form?.steps ? form.fields[form.steps.field]?.column : null;
  if (!form?.steps || !shown?.some((c) => c.key === column)) return [];
  return [{ value: '', label: 'at every step' }, ...form.steps.list.map((s) => ({ value: s.value, label: `at the step ${s.label}` }))];
});
function setStep(to: string): void {
  step.value = to;
  readAgain();
}

/** The fields of the form that are saved, in its order. */
const fields = computed(() => {
  const p = page.value;
  if (!p) return [];
  return fieldOrder(p.form)
    .map((k) => ({ field: p.form.fields[k]!, column: p.columns.find((c) => c.key === p.form.fields[k]?.column) }))
    .filter((f): f is { field: Field; column: Column } => f.column !== undefined);
});
const columns = computed(() => fields.value.map((f) => ({ key: f.column.key, label: f.field.label, type: f.column.type })));
/** as many as a line can hold, until somebody chooses */
const usual = computed(() => {
  const step = page.value?.form.steps ? page.value.form.fields[page.value.form.steps.field]?.column : undefined;
  const first = columns.value.filter((c) => (COLUMN_LOOKS[c.type].lines ?? 1) === 1).slice(0, 8);
  return columns.value.filter((c) => c.key === step || (first.includes(c) && (step === undefined || c !== first[7]))).map((c) => c.key);
});
function text(columnKey: string, row: Row): string {
  const f = fields.value.find((x) => x.column.key === columnKey);
  const value: Datum = row[columnKey] ?? null;
  if (value === null || !f) return '';
  const { source } = f.field;
  if (source?.kind === 'options') return source.options.find((o) => o.value === value)?.label ?? String(value);
  return cellText({ ...f.column, decimals: f.field.decimals }, value, rows.linked);
}
/** The step that stands in a column, where it is the one that holds steps. */
function stepIn(columnKey: string, row: Row): Step | null {
  const steps = page.value?.form.steps;
  if (!steps || page.value?.form.fields[steps.field]?.column !== columnKey) return null;
  return stepOf(steps, row[columnKey]) ?? null;
}
const { data: forms } = useForms();
/** what one may do with these records */
const may = computed(() => forms.value?.find((f) => f.key === key)?.may ?? []);
const FILES = (
  [
    { as: 'csv', label: 'CSV', note: 'text, one line a record' },
    { as: 'xlsx', label: 'XLSX', note: 'a workbook' },
  ] as const
).map((f) => ({ ...f, url: routeAddress(contract.entries.export, { key }, { as: f.as }) }));
useHead({ title: computed(() => `${page.value?.form.label ?? 'Records'} · Brisk Acorn`) });
</script>

<template>
  <div class="screen">
    <PlaceTrail :above="[{ label: 'Entries', to: '/entry' }]" :here="page?.form.label ?? key" />
    <Note v-if="failed" class="out" kind="bad" :retry="failed.code === 'notPublished' ? undefined : rows.again"
      >{{ failed.message }}
      <NuxtLink v-if="failed.code === 'notPublished'" :to="`/design/forms/${key}`">Open it in the Design area</NuxtLink></Note
    >
    <template v-else-if="page">
      <header class="row spread">
        <h1>{{ page.form.label }}</h1>
        <span class="row"
          ><ExportButton v-if="may.includes('export')" :files="FILES" /><Button
            v-if="may.includes('enter')"
            as="router-link"
            icon="pi pi-plus"
            label="New entry"
            :to="`/entry/${key}/new`"
        /></span>
      </header>
      <RowsTable
        :key="page.version"
        :rows="rows"
        :columns="columns"
        :usual="usual"
        :label="page.form.label"
        :kept-as="`records ${key}`"
        @open="navigateTo(`/entry/${key}/${$event.row.id}`)"
      >
        <template #bar>
          <InputText
            v-model="search"
            class="search"
            type="search"
            placeholder="Search the records"
            aria-label="Search the records"
            @input="searchSoon"
          />
          <PickWord v-if="steps.length" :value="step" :options="steps" label="At which step" @pick="setStep" />
          <span class="muted grow count"
            >{{ rows.total.value.toLocaleString(LOCALE) }}
            {{ search || step ? 'found' : rows.total.value === 1 ? 'record' : 'records' }}</span
          >
        </template>
        <template #number="{ row }"
          ><NuxtLink :to="`/entry/${key}/${row.row.id}`">{{ row.row.id }}</NuxtLink></template
        >
        <template #cell="{ row, column }"
          ><StepMark v-if="stepIn(column.key, row.row)" :step="stepIn(column.key, row.row)!" /><template v-else>{{
            text(column.key, row.row)
          }}</template></template
        >
        <template #none>{{
          search
            ? `No record contains “${search}”.`
            : step
              ? 'No record stands at this step.'
              : 'No records yet. Press New entry to add the first.'
        }}</template>
      </RowsTable>
    </template>
  </div>
</template>

<style scoped>
.screen {
  height: 100%;
  display: flex;
  flex-direction: column;
}
header {
  padding: 14px 16px 4px;
}
.out {
  margin: 20px;
}
.search {
  width: 240px;
}
/* onto a line of its own rather than out of the screen */
.count {
  flex: 1 0 max-content;
}
</style>
