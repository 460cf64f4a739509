<script setup lang="ts">
import type { NearLines } from '~/composables/nearLines';
import type { LineColumn } from './LineRow.vue';

/* Some lines of a table that stand one after the other: of many lines, what is laid out, or left out, together. */
const props = defineProps<{
  host: EntryHost;
  /** the lines by their numbers, and the place of the first among all, from 0 */
  lines: readonly number[];
  first: number;
  columns: readonly LineColumn[];
  locked: boolean;
  /** the table has few lines: all of them are live */
  few: boolean;
  near: NearLines;
  /** lines are dragged between the stretches of a group */
  group: string;
  prefix?: string;
}>();
const emit = defineEmits<{
  why: [field: string];
  keys: [event: KeyboardEvent, line: number, place: number];
  duplicate: [line: number, place: number];
  remove: [line: number, place: number];
  /** a line was let go before another, or behind it; neither: among none */
  moved: [line: number, to: { readonly before: number | null; readonly behind: number | null }];
}>();

const body = ref<HTMLElement>();
const isNear = ref(props.few);
/** of the rows that speak for those behind them, the places of those that are near */
const nearRows = reactive(new Set<number>());
const placeOf = new Map<Element, number>();
function watchRows(): void {
  const rows = isNear.value && !props.few && body.value ? [...body.value.children] : [];
  const now = new Map(rows.map((row, i) => [row, i] as const).filter(([, i]) => i % props.near.together.value === 0));
  for (const row of placeOf.keys()) if (!now.has(row)) props.near.forget(row);
  nearRows.forEach((i) => i >= props.lines.length && nearRows.delete(i));
  placeOf.clear();
  for (const [row, i] of now) {
    placeOf.set(row, i);
    props.near.watch(row, (yes) => {
      const place = placeOf.get(row);
      if (place === undefined) return;
      if (yes) nearRows.add(place);
      else nearRows.delete(place);
    });
  }
  if (!now.size) nearRows.clear();
}
watch([isNear, () => props.lines, () => props.few, props.near.together], watchRows, { flush: 'post' });
onMounted(() => {
  const own = body.value!;
  props.near.watch(own, (yes) => (isNear.value = yes));
  watchRows();
});
onBeforeUnmount(() => {
  if (body.value) props.near.forget(body.value);
  for (const row of placeOf.keys()) props.near.forget(row);
});
const isLive = (i: number): boolean => {
  const { value: together } = props.near.together;
  return props.few || nearRows.has(i - (i % together));
};

const numberOf = (row: Element | null | undefined): number | null => {
  const line = (row as HTMLElement | null | undefined)?.dataset.line;
  return line === undefined ? null : Number(line);
};
useDragOrder(
  computed(() => (isNear.value ? body.value : null)),
  ({ item, into, before }) => {
    const rows = [...into.querySelectorAll<HTMLElement>('[data-line]')].filter((row) => row !== item);
    emit('moved', Number(item.dataset.line), { before: numberOf(before), behind: before ? null : numberOf(rows.at(-1)) });
  },
  { draggable: '[data-line]', group: props.group, disabled: () => props.locked },
);
</script>

<template>
  <tbody ref="body" :style="{ containIntrinsicSize: roomOfLines(lines.length) }">
    <LineRow
      v-for="(line, i) in lines"
      :key="line"
      :host="host"
      :line="line"
      :place="first + i"
      :columns="columns"
      :locked="locked"
      :near="isLive(i)"
      :prefix="prefix"
      @keys="(...of) => emit('keys', ...of)"
      @why="emit('why', $event)"
      @duplicate="(...of) => emit('duplicate', ...of)"
      @remove="(...of) => emit('remove', ...of)"
    />
  </tbody>
</template>
