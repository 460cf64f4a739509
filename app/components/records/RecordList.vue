<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core';
import { canGroup } from '~~/core/choices/views.ts';
import type { Column } from '~~/core/model/tables.ts';
import { type ListedRecord, type RecordsPage, recordTexts } from './recordTexts';
import { groupTexts } from './groupTexts';

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
const groupColumn = computed(() => rows.said.value?.columns.find((c) => c.key === records.view.group?.column) as Column | undefined);
const groups = computed(() =>
  texts.value
    ? groupTexts({ view: records.view, whole: records.whole, columns: records.columns, options: records.options, texts: texts.value, linked: rows.linked })
    : null,
); // prettier-ignore
const totals = computed(() => groups.value?.totals ?? []);
const shown = computed(() => new Set(table.value?.shown.map((c) => c.key)));
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
        :aria-label="`${rows.shut.value.has(group) ? 'Open' : 'Shut'} the group ${groups?.head(group)}`"
        @click="rows.toggle(group)"
      />
      <span v-else-if="place === 0 && column && groups" class="groupHead"
        ><StepMark v-if="groups.step(group)" :step="groups.step(group)!" /><template v-else>{{ groups.head(group) }}</template>
        <span class="muted">{{ groups.count(group).toLocaleString(LOCALE) }}</span>
        {{ [groups.sumsIn(group, column.key), ...groups.sumsAside(group, shown)].filter(Boolean).join(' · ') }}</span
      >
      <template v-else-if="column">{{ groups?.sumsIn(group, column.key) }}</template>
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
