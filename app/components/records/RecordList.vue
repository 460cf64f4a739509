<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core';
import { canGroup } from '~~/core/choices/views.ts';
import type { Column } from '~~/core/model/tables.ts';
import { type ListedRecord, type RecordsPage, recordTexts } from './recordTexts';
import { sumWords } from './viewWords';

/* The records of a form as a list, as the view says. */
const props = defineProps<{ form: string; label: string; picking: boolean }>();
const picked = defineModel<ReadonlyMap<number, number>>('picked', { required: true });
const emit = defineEmits<{ open: [id: number] }>();
const records = useRecordViews();
const rows = useRows<ListedRecord, RecordsPage>(
  async (query) => {
    const whole = query.offset === 0;
    const page = await api.entries.list({ key: props.form }, { ...query, view: JSON.stringify(records.view), whole: whole ? '1' : '0' });
    if (page.whole) records.whole = page.whole;
    return page;
  },
  true,
  () => (records.view.group ? (records.whole?.groups?.map((g) => g.count) ?? null) : null),
);
rows.search.value = records.search;
void rows.again();
const again = useDebounceFn(() => {
  rows.search.value = records.search;
  void rows.again();
}, 200);
/** what the server is asked; columns are a matter of the screen */
const asked = computed(() => JSON.stringify([{ ...records.view, columns: null, calendar: null }, records.search]));
watch(asked, again);
watch(() => JSON.stringify(records.view.group), () => (rows.shut.value = new Set())); // prettier-ignore

const texts = computed(() => rows.said.value && recordTexts(rows.said.value));
const WIDTHS = `records ${props.form}`;
const groups = computed(() => (records.view.group ? records.whole?.groups : []));
const groupColumn = computed(() => rows.said.value?.columns.find((c) => c.key === records.view.group?.column) as Column | undefined);
function groupText(at: number): string {
  const [value, column, by] = [groups.value?.[at]?.value ?? null, groupColumn.value, records.view.group?.by];
  if (value === null || !column) return `no ${(column?.label ?? 'value').toLowerCase()}`;
  if (by === 'year') return String(value);
  if (by === 'month') return new Intl.DateTimeFormat(LOCALE, { month: 'long', year: 'numeric', timeZone: 'UTC' }).format(new Date(`${String(value)}-01T00:00:00Z`)); // prettier-ignore
  return texts.value?.text(column.key, { id: 0, [column.key]: value }, rows.linked) || `no ${column.label.toLowerCase()}`;
}
const stepOfGroup = (at: number) => groupColumn.value && texts.value?.step(groupColumn.value.key, { id: 0, [groupColumn.value.key]: groups.value?.[at]?.value ?? null }); // prettier-ignore
const SIGN = { sum: '', mean: 'ø ', least: '≥ ', most: '≤ ' } as const;
/** The sums of a group, or of all, in the column they are of. */
function sumsIn(column: string, sums: readonly unknown[] | undefined): string {
  return records.view.sums
    .flatMap((s, i) => {
      const value = sums?.[i] ?? null;
      return s.column === column && value !== null ? [SIGN[s.of] + (texts.value?.text(column, { id: 0, [column]: value as never }, rows.linked) ?? '')] : [];
    })
    .join(' · ');
} // prettier-ignore
/** Those of columns that are not shown, in words. */
function sumsAside(sums: readonly unknown[] | undefined): string[] {
  const shown = new Set(table.value?.shown.map((c) => c.key));
  return records.view.sums.flatMap((s, i) => {
    const value = sums?.[i] ?? null;
    return shown.has(s.column) || value === null ? [] : [`${sumWords(s, records.options)} ${texts.value?.text(s.column, { id: 0, [s.column]: value as never }, rows.linked)}`];
  });
} // prettier-ignore
const totals = computed(() =>
  records.view.sums.map((s, i) => ({
    words: sumWords(s, records.options),
    value: texts.value?.text(s.column, { id: 0, [s.column]: records.whole?.sums[i] ?? null }, rows.linked) || 'none',
  })),
);
const isNarrowed = computed(() => records.view.where !== null || records.search.trim() !== '');
const count = computed(() => {
  const n = rows.total.value;
  return `${n.toLocaleString(LOCALE)} ${isNarrowed.value ? 'found' : n === 1 ? 'record' : 'records'}`;
});
const canBeGrouped = computed(() => !groupColumn.value || canGroup(groupColumn.value));
function pick(id: number, on: boolean): void {
  const next = new Map(picked.value);
  const row = rows.find(id);
  if (on && row) next.set(id, row.revision);
  else next.delete(id);
  picked.value = next;
}
defineExpose({ again: () => rows.again(), shown: () => table.value?.shown.map((c) => c.key) ?? [], count });
const table = ref<{ shown: readonly { key: string }[] }>();
</script>

<template>
  <Note v-if="rows.failed.value" class="out" kind="bad" :retry="rows.again">{{ rows.failed.value.message }}</Note>
  <div v-else-if="!texts" class="out"><Skeleton v-for="i in 12" :key="i" style="margin: 10px 0" /></div>
  <RowsTable
    v-if="texts"
    ref="table"
    :rows="rows"
    :columns="texts.columns"
    :usual="texts.usual"
    :arranged="records.view.columns"
    :sorts="records.view.sort"
    :marks="records.colours.length > 0"
    :picked="picking ? new Set(picked.keys()) : null"
    :label="label"
    :kept-as="WIDTHS"
    @arrange="records.change({ columns: $event.length ? $event : null })"
    @sorts="records.change({ sort: $event.slice(0, 4) })"
    @pick="pick"
    @open="emit('open', $event.row.id)"
  >
    <template #bar>
      <InputText v-model="records.search" class="search" type="search" placeholder="Search the records" aria-label="Search the records" />
      <span class="muted grow count" role="status"
        >{{ count
        }}<template v-for="t in totals" :key="t.words">
          · {{ t.words }} <b>{{ t.value }}</b></template
        ><template v-if="records.view.group && records.whole?.groups === null && canBeGrouped">
          · more than 500 groups: too many to be told apart</template
        ></span
      >
      <slot name="bar" />
    </template>
    <template #markHead>Colour</template>
    <template #mark="{ row }"
      ><ViewMark v-if="row.colour !== null && records.colours[row.colour]" :colour="records.colours[row.colour]!"
    /></template>
    <template #number="{ row }"
      ><NuxtLink :to="`/entry/${form}/${row.row.id}`">{{ row.row.id }}</NuxtLink></template
    >
    <template #group="{ group, column, place }">
      <IconButton
        v-if="place < 0"
        :icon="rows.shut.value.has(group) ? 'pi pi-angle-right' : 'pi pi-angle-down'"
        :aria-expanded="!rows.shut.value.has(group)"
        :aria-label="`${rows.shut.value.has(group) ? 'Open' : 'Shut'} the group ${groupText(group)}`"
        @click="rows.toggle(group)"
      />
      <span v-else-if="place === 0 && column" class="groupHead"
        ><StepMark v-if="stepOfGroup(group)" :step="stepOfGroup(group)!" /><template v-else>{{ groupText(group) }}</template>
        <span class="muted">{{ groups?.[group]?.count.toLocaleString(LOCALE) }}</span>
        {{ [sumsIn(column.key, groups?.[group]?.sums), ...sumsAside(groups?.[group]?.sums)].filter(Boolean).join(' · ') }}</span
      >
      <template v-else-if="column">{{ sumsIn(column.key, groups?.[group]?.sums) }}</template>
    </template>
    <template #cell="{ row, column }"
      ><StepMark v-if="texts.step(column.key, row.row)" :step="texts.step(column.key, row.row)!" /><template v-else>{{
        texts.text(column.key, row.row, rows.linked)
      }}</template></template
    >
    <template #none>{{
      isNarrowed ? 'No record is so. Change the sentence above, or clear the search.' : 'No records yet. Press New entry to add the first.'
    }}</template>
  </RowsTable>
</template>

<style scoped>
.out {
  margin: 12px 16px;
}
.search {
  width: 240px;
}
/* onto a line of its own rather than out of the screen */
.count {
  flex: 1 0 max-content;
  max-width: 100%;
}
.groupHead {
  display: inline-flex;
  gap: 8px;
}
</style>
