<script setup lang="ts" generic="R extends { readonly row: Row }">
import { useStorage } from '@vueuse/core';
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
}>();
const emit = defineEmits<{ open: [row: R] }>();
const slots = defineSlots<{
  bar?(): VNode[];
  number?(given: { row: R }): VNode[];
  cell?(given: { row: R; index: number; column: TableColumn; place: number }): VNode[];
  endHead?(): VNode[];
  end?(given: { row: R }): VNode[];
  none?(): VNode[];
}>();
const LINE = 30;
const kept = useStorage<{ shown: string[] | null; order: string[] }>(`brisk-columns ${props.keptAs}`, { shown: null, order: [] });

const chosen = computed({
  get: () => (kept.value.shown ?? props.usual ?? props.columns.map((c) => c.key)).filter((k) => props.columns.some((c) => c.key === k)),
  set: (keys: string[]) => (kept.value = { ...kept.value, shown: keys.length ? keys : null }),
});
/** The columns shown, in the order they were put in. */
const shown = computed(() => {
  const { order } = kept.value;
  const place = (key: string): number => (order.includes(key) ? order.indexOf(key) : order.length);
  return props.columns.filter((c) => chosen.value.includes(c.key)).sort((a, b) => place(a.key) - place(b.key));
});
/** Columns were moved: places are counted with the one of numbers before them. */
function moved({ dragIndex, dropIndex }: DataTableColumnReorderEvent): void {
  const keys = shown.value.map((c) => c.key);
  const [key] = keys.splice(dragIndex - 1, 1);
  if (key !== undefined) keys.splice(Math.max(0, dropIndex - 1), 0, key);
  kept.value = { ...kept.value, order: keys };
}
function sorted({ sortField }: DataTableSortEvent): void {
  if (typeof sortField === 'string') props.rows.sortBy(sortField);
}
/**
 * What stands in a cell is a component to the table, known by its function: columns written in the template would be others with
 * every drawing, and their cells would be taken down and made anew, the one that is typed into with them. These stay.
 */
interface Body {
  readonly data: RowLine<R>;
}
const inRow = (draw: ((given: { row: R }) => VNode[]) | undefined) => (b: Body) => (b.data.row ? draw?.({ row: b.data.row }) : []);
const made = new Map<string, VNode>();
function once(name: string, make: () => VNode): VNode {
  const known = made.get(name) ?? make();
  made.set(name, known);
  return known;
}
const columnNodes = computed(() => [
  once(' id', () => h(Column, { key: ' id', field: 'id', columnKey: 'id', header: 'Nr', sortable: true, class: 'num', reorderableColumn: false, style: 'width: 72px' }, { body: inRow((given) => slots.number?.(given) ?? []) })),
  ...shown.value.map((column, place) =>
    once(JSON.stringify([column.key, column.label, column.type, place]), () =>
      h(Column, { key: column.key, field: column.key, columnKey: column.key, header: column.label, sortable: true, class: { num: COLUMN_LOOKS[column.type].figures }, style: { minWidth: COLUMN_LOOKS[column.type].width === 'narrow' ? '110px' : '150px' } }, {
        body: ({ data: { row, index } }: Body) => (row ? slots.cell?.({ row, index, column: columnAt(column), place }) : place === 0 ? h(Skeleton, { height: '14px' }) : []),
      }),
    ),
  ),
  ...(slots.end ? [once(' end', () => h(Column, { key: ' end', columnKey: 'end', reorderableColumn: false, style: 'width: 44px' }, { header: () => slots.endHead?.(), body: inRow((given) => slots.end?.(given) ?? []) }))] : []),
]); // prettier-ignore
/** The column as it is now: what is drawn once must not speak of what it was then. */
const columnAt = (column: TableColumn): TableColumn => props.columns.find((c) => c.key === column.key) ?? column;
const virtual = { lazy: true, itemSize: LINE, numToleratedItems: 6, onLazyLoad: ({ first, last }: { first: number; last: number }) => props.rows.need(first, Math.min(last, Math.max(0, props.rows.total.value - 1))) }; // prettier-ignore
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
  const inside = (originalEvent.target as HTMLElement).closest('a, button, input');
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
      :sort-field="rows.sort.value.column ?? undefined"
      :sort-order="rows.sort.value.descending ? -1 : 1"
      resizable-columns
      column-resize-mode="expand"
      reorderable-columns
      state-storage="local"
      :state-key="`brisk-widths ${keptAs} ${shown.map((c) => c.key).join()}`"
      :pt="{
        table: { role: grid ? 'grid' : 'table', 'aria-label': label, 'aria-rowcount': rows.total.value + 1 },
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
.lazy :deep(th) {
  white-space: nowrap;
}
.lazy :deep(.p-datatable-empty-message td) {
  padding: 24px 16px;
}
</style>
