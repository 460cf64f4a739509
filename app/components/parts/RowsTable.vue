<script setup lang="ts" generic="R extends { readonly row: Row }">
import { useStorage } from '@vueuse/core';
import Checkbox from 'primevue/checkbox';
import Column from 'primevue/column';
import type { DataTableColumnReorderEvent, DataTableSortEvent } from 'primevue/datatable';
import Skeleton from 'primevue/skeleton';
import type { VNode } from 'vue';
import type { ColumnType } from '~~/core/values/kinds/index.ts';
import type { Row } from '~~/core/values/types.ts';

/*
 * Rows of any number: only those in view are drawn and read. Columns are sorted by a press, made wider, moved, and chosen; what was
 * arranged so is kept on this computer.
 */
interface TableColumn {
  readonly key: string;
  readonly label: string;
  readonly type: ColumnType;
}
const props = defineProps<{
  rows: RowsWindow<R>;
  columns: readonly TableColumn[];
  label: string;
  /** by what name the arrangement is kept */
  keptAs: string;
  /** cells can be walked through by keys: a grid, not only a table */
  grid?: boolean;
  /** which columns stand there until somebody chooses; all, when not said */
  usual?: readonly string[];
  /** the columns shown, in their order, where that is kept elsewhere than on this computer */
  arranged?: readonly string[] | null;
  /** what the rows are sorted by, where that may be several columns */
  sorts?: readonly { readonly column: string; readonly descending: boolean }[];
  /** a column of marks stands before the numbers */
  marks?: boolean;
  /** the rows that are chosen, by number; not said where none can be */
  picked?: ReadonlySet<number> | null;
}>();
const emit = defineEmits<{
  open: [row: R];
  arrange: [columns: string[]];
  sorts: [by: { column: string; descending: boolean }[]];
  pick: [id: number, on: boolean];
}>();
const slots = defineSlots<{
  bar?(): VNode[];
  number?(given: { row: R }): VNode[];
  mark?(given: { row: R }): VNode[];
  markHead?(): VNode[];
  /** the head of a group: in the column of numbers (`place` −1) and in each other one */
  group?(given: { group: number; column: TableColumn | null; place: number }): VNode[];
  cell?(given: { row: R; index: number; column: TableColumn; place: number }): VNode[];
  endHead?(): VNode[];
  end?(given: { row: R }): VNode[];
  none?(): VNode[];
}>();
const LINE = 30;
const kept = useStorage<{ shown: string[] | null; order: string[] }>(`brisk-columns ${props.keptAs}`, { shown: null, order: [] });

const own = (keys: readonly string[]): string[] => keys.filter((k) => props.columns.some((c) => c.key === k));
const isArranged = computed(() => props.arranged !== undefined);
const chosen = computed({
  get: () =>
    own(isArranged.value ? (props.arranged ?? props.usual ?? []) : (kept.value.shown ?? props.usual ?? props.columns.map((c) => c.key))),
  set: (keys: string[]) => {
    // those that stay keep their order, others come after them
    const before = shown.value.map((c) => c.key);
    if (isArranged.value) emit('arrange', [...before.filter((k) => keys.includes(k)), ...keys.filter((k) => !before.includes(k))]);
    else kept.value = { ...kept.value, shown: keys.length ? keys : null };
  },
});
/** The columns shown, in the order they were put in. */
const shown = computed(() => {
  const order = isArranged.value ? chosen.value : kept.value.order;
  const place = (key: string): number => (order.includes(key) ? order.indexOf(key) : order.length);
  return props.columns.filter((c) => chosen.value.includes(c.key)).sort((a, b) => place(a.key) - place(b.key));
});
/** Columns were moved: places are counted with those that always stand before them. */
function moved({ dragIndex, dropIndex }: DataTableColumnReorderEvent): void {
  const keys = shown.value.map((c) => c.key);
  const before = columnNodes.value.findIndex((n) => n.key === keys[0]);
  const [key] = keys.splice(dragIndex - before, 1);
  if (key !== undefined) keys.splice(Math.max(0, dropIndex - before), 0, key);
  if (isArranged.value) emit('arrange', keys);
  else kept.value = { ...kept.value, order: keys };
}
function sorted({ sortField, multiSortMeta }: DataTableSortEvent): void {
  if (props.sorts)
    emit('sorts', (multiSortMeta ?? []).map((m) => ({ column: String(m.field), descending: m.order === -1 }))); // prettier-ignore
  else if (typeof sortField === 'string') props.rows.sortBy(sortField);
}
const sorting = computed(() =>
  props.sorts
    ? { sortMode: 'multiple' as const, removableSort: true, multiSortMeta: props.sorts.map((by) => ({ field: by.column, order: by.descending ? (-1 as const) : (1 as const) })) }
    : { sortField: props.rows.sort.value.column ?? undefined, sortOrder: props.rows.sort.value.descending ? -1 : 1 },
); // prettier-ignore
/**
 * What stands in a cell is a component to the table, known by its function: columns written in the template would be others with
 * every drawing, and their cells would be taken down and made anew, the one that is typed into with them. These stay.
 */
interface Body {
  readonly data: RowLine<R>;
}
const inRow = (draw: ((given: { row: R }) => VNode[]) | undefined) => (b: Body) => (b.data.row ? draw?.({ row: b.data.row }) : []);
const inGroup = ({ data }: Body, column: TableColumn | null, place: number) =>
  data.group === undefined ? null : (slots.group?.({ group: data.group, column, place }) ?? []);
const tick = ({ data: { row } }: Body) =>
  row ? h(Checkbox, { binary: true, modelValue: props.picked?.has(row.row.id) ?? false, ariaLabel: `Choose ${row.row.id}`, 'onUpdate:modelValue': (on: boolean) => emit('pick', row.row.id, on) }) : []; // prettier-ignore
const made = new Map<string, VNode>();
function once(name: string, make: () => VNode): VNode {
  const known = made.get(name) ?? make();
  made.set(name, known);
  return known;
}
const columnNodes = computed(() => [
  ...(props.picked ? [once(' pick', () => h(Column, { key: ' pick', columnKey: 'pick', reorderableColumn: false, style: 'width: 40px' }, { body: tick }))] : []),
  ...(slots.mark && props.marks ? [once(' mark', () => h(Column, { key: ' mark', columnKey: 'mark', reorderableColumn: false, style: 'width: 150px' }, { header: () => slots.markHead?.(), body: inRow((given) => slots.mark?.(given) ?? []) }))] : []),
  once(' id', () => h(Column, { key: ' id', field: 'id', columnKey: 'id', header: 'Nr', sortable: true, class: 'num', reorderableColumn: false, style: 'width: 72px' }, { body: (b: Body) => inGroup(b, null, -1) ?? inRow((given) => slots.number?.(given) ?? [])(b) })),
  ...shown.value.map((column, place) =>
    once(JSON.stringify([column.key, column.label, column.type, place]), () =>
      h(Column, { key: column.key, field: column.key, columnKey: column.key, header: column.label, sortable: true, class: { num: COLUMN_LOOKS[column.type].figures }, style: { minWidth: COLUMN_LOOKS[column.type].width === 'narrow' ? '110px' : '150px' } }, {
        body: (b: Body) => inGroup(b, columnAt(column), place) ?? cell(b, column, place),
      }),
    ),
  ),
  ...(slots.end ? [once(' end', () => h(Column, { key: ' end', columnKey: 'end', reorderableColumn: false, style: 'width: 44px' }, { header: () => slots.endHead?.(), body: inRow((given) => slots.end?.(given) ?? []) }))] : []),
]); // prettier-ignore
const cell = ({ data: { row, index } }: Body, column: TableColumn, place: number) =>
  row ? slots.cell?.({ row, index, column: columnAt(column), place }) : place === 0 ? h(Skeleton, { height: '14px' }) : [];
/** The column as it is now: what is drawn once must not speak of what it was then. */
const columnAt = (column: TableColumn): TableColumn => props.columns.find((c) => c.key === column.key) ?? column;
const virtual = { lazy: true, itemSize: LINE, numToleratedItems: 6, onLazyLoad: ({ first, last }: { first: number; last: number }) => props.rows.need(first, Math.min(last, Math.max(0, props.rows.lines.value.length - 1))) }; // prettier-ignore
const table = ref<{ $el: HTMLElement }>();
const scroller = (): HTMLElement | null => table.value?.$el.querySelector<HTMLElement>('.p-virtualscroller') ?? null;
/** Brings a row into view. */
function scrollTo(index: number): void {
  const box = scroller();
  if (!box) return;
  const top = index * LINE;
  // the heads stand over the first line
  if (top < box.scrollTop || top + LINE * 2 > box.scrollTop + box.clientHeight - LINE)
    box.scrollTop = Math.max(0, top - box.clientHeight / 2);
}
/** A press anywhere on a row opens it, but for a press on something in it, or one that ends the marking of text. */
function pressed({ originalEvent, data }: { originalEvent: Event; data: RowLine<R> }): void {
  const inside = (originalEvent.target as HTMLElement).closest('a, button, input, .p-checkbox');
  if (!inside && data.row && !getSelection()?.toString()) emit('open', data.row);
}
/** Where one had scrolled to is found again when one comes back to the same rows. */
const PLACE = `brisk-place ${props.keptAs}`;
onMounted(() => {
  const before = JSON.parse(sessionStorage.getItem(PLACE) ?? 'null') as { search: string; top: number } | null;
  if (!before || before.search !== props.rows.search.value || !before.top) return;
  setTimeout(() => scroller()?.scrollTo({ top: before.top }), 80);
});
onBeforeUnmount(() => {
  const top = scroller()?.scrollTop ?? 0;
  sessionStorage.setItem(PLACE, JSON.stringify({ search: props.rows.search.value, top }));
});
defineExpose({ scrollTo, shown });
</script>

<template>
  <div class="rows">
    <div class="bar">
      <slot name="bar" />
      <MultiSelect
        v-model="chosen"
        class="choose"
        size="small"
        :options="[...columns]"
        option-label="label"
        option-value="key"
        :max-selected-labels="0"
        selected-items-label="{0} columns"
        aria-label="Columns shown"
        :filter="columns.length > 14"
      />
    </div>
    <DataTable
      ref="table"
      class="lazy"
      :class="{ opens: !grid }"
      :value="rows.lines.value as RowLine<R>[]"
      data-key="index"
      lazy
      scrollable
      scroll-height="flex"
      row-hover
      :virtual-scroller-options="virtual"
      v-bind="sorting"
      :row-class="(line: RowLine<R>) => ({ head: line.group !== undefined })"
      resizable-columns
      column-resize-mode="expand"
      reorderable-columns
      state-storage="local"
      :state-key="`brisk-widths ${keptAs} ${shown.map((c) => c.key).join()}`"
      :pt="{
        table: { role: grid ? 'grid' : 'table', 'aria-label': label, 'aria-rowcount': rows.lines.value.length + 1 },
        bodyRow: ({ context }: { context: { index: number } }) => ({ 'aria-rowindex': context.index + 2 }),
        column: { bodyCell: { role: grid ? 'gridcell' : 'cell' } },
      }"
      @sort="sorted"
      @column-reorder="moved"
      @row-click="grid || pressed($event)"
      @row-dblclick="grid && $event.data.row && emit('open', $event.data.row)"
    >
      <component :is="node" v-for="node in columnNodes" :key="node.key ?? undefined" />
      <template #empty><slot v-if="rows.ready.value" name="none" /></template>
    </DataTable>
  </div>
</template>

<style scoped>
.rows {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
}
.bar {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 4px 16px 8px;
}
@media (max-width: 900px) {
  .bar {
    flex-wrap: wrap;
  }
}
.choose {
  min-height: 26px;
}
.lazy {
  flex: 1;
  min-height: 0;
}
.lazy :deep(td) {
  height: 30px;
  max-width: 320px;
  padding: 0 8px;
  vertical-align: middle;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.opens :deep(tbody tr) {
  cursor: pointer;
}
.lazy :deep(tr.head) {
  background: var(--ground-2);
  font-weight: 700;
  cursor: default;
}
.lazy :deep(tr.head td) {
  overflow: visible;
}
.lazy :deep(th) {
  white-space: nowrap;
}
.lazy :deep(.p-datatable-empty-message td) {
  padding: 24px 16px;
}
</style>
