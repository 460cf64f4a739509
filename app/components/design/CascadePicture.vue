<script setup lang="ts">
import { TreemapChart } from 'echarts/charts';
import { TooltipComponent } from 'echarts/components';
import { use } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import VChart from 'vue-echarts';

/*
 * A cascade as a whole: each row above holds what hangs on it, as large as there is to choose below. Pressing walks into a row; what
 * has nothing below and what has one child is signed. The tree beside it tells the same in words and numbers.
 */
use([SVGRenderer, TreemapChart, TooltipComponent]);
interface CascadeRow {
  readonly id: number;
  readonly parent: number | null;
  readonly text: string | null;
  readonly offered: boolean;
  readonly childrenOffered: number | null;
}
const props = defineProps<{ levels: readonly (readonly CascadeRow[])[]; labels: readonly string[] }>();
const emit = defineEmits<{ go: [ids: readonly number[]] }>();
interface Area {
  readonly id: string;
  readonly name: string;
  readonly value: number;
  readonly sign: string;
  readonly path: readonly number[];
  readonly children?: Area[];
  readonly itemStyle?: object;
  readonly label?: object;
}
const { scheme } = useScheme();
const colours = computed(() => {
  void scheme.value;
  const css = getComputedStyle(document.documentElement);
  const read = (name: string): string => css.getPropertyValue(name).trim();
  return { ground: read('--ground'), ink: read('--ink'), line: read('--line-strong'), wash: [read('--act-wash'), read('--ground-3')], bad: read('--bad'), badWash: read('--bad-wash'), flow: read('--flow'), flowWash: read('--flow-wash') }; // prettier-ignore
});
/** What hangs on each row of a level, by the row's id. */
const below = computed(() =>
  props.levels.map((_, level) => {
    const groups = new Map<number, CascadeRow[]>();
    for (const row of props.levels[level + 1] ?? []) {
      const group = groups.get(row.parent ?? 0);
      if (group) group.push(row);
      else groups.set(row.parent ?? 0, [row]);
    }
    return groups;
  }),
);
function areaOf(row: CascadeRow, level: number, path: readonly number[]): Area {
  const c = colours.value;
  const here = [...path, row.id];
  const children = (below.value[level]?.get(row.id) ?? []).map((r) => areaOf(r, level + 1, here));
  const last = level === props.labels.length - 1;
  const gap = !last && row.childrenOffered === 0;
  const single = !last && row.childrenOffered === 1;
  const sign = gap ? 'none below' : single ? 'one below' : !row.offered ? 'not offered' : '';
  const value = Math.max(1, children.length ? children.reduce((n, a) => n + a.value, 0) : (row.childrenOffered ?? 1));
  return {
    id: here.join('/'),
    name: row.text ?? `row ${row.id}`,
    value,
    sign,
    path: here,
    ...(children.length ? { children } : {}),
    itemStyle: {
      color: gap ? c.badWash : single ? c.flowWash : (c.wash[level % 2] as string),
      borderColor: gap ? c.bad : single ? c.flow : c.line,
    },
  };
}
const areas = computed(() => (props.levels[0] ?? []).map((r) => areaOf(r, 0, [])));
const words = (name: string, sign: string): string => (sign ? `${name}\n${sign}` : name);
interface Told {
  readonly name: string;
  readonly data: Area;
  readonly value: number;
}
const option = computed(() => ({
  animation: false,
  textStyle: { fontFamily: 'Atkinson Hyperlegible Next Variable' },
  tooltip: { renderMode: 'richText', formatter: ({ data }: Told) => (data?.path ? `${data.name}: ${data.sign || `${data.value} to choose below`}` : ''), backgroundColor: colours.value.ground, textStyle: { color: colours.value.ink } },
  series: [
    {
      type: 'treemap',
      name: 'all',
      drillDownIcon: '',
      data: areas.value,
      leafDepth: 2,
      roam: false,
      nodeClick: 'zoomToNode',
      left: 0,
      right: 0,
      top: 26,
      bottom: 0,
      visibleMin: 10,
      breadcrumb: { top: 0, left: 0, height: 20, itemStyle: { color: colours.value.ground, borderColor: colours.value.line, textStyle: { color: colours.value.ink } } },
      label: { show: true, color: colours.value.ink, fontSize: 12, lineHeight: 15, overflow: 'truncate', ellipsis: '…', formatter: ({ data }: Told) => (data ? words(data.name, data.sign) : '') },
      upperLabel: { show: true, height: 20, color: colours.value.ink, fontWeight: 'bold', formatter: ({ data }: Told) => (data ? (data.sign ? `${data.name} (${data.sign})` : data.name) : '') },
      itemStyle: { gapWidth: 1, borderWidth: 1, borderColor: colours.value.line },
      levels: [{ itemStyle: { borderWidth: 0, gapWidth: 3 }, upperLabel: { show: false } }, { itemStyle: { gapWidth: 1 } }],
    },
  ],
})); // prettier-ignore
function pressed({ data }: { data?: unknown }): void {
  const path = (data as Partial<Area> | undefined)?.path;
  if (path) emit('go', path);
}
</script>

<template>
  <VChart class="picture" :option="option" autoresize aria-hidden="true" @click="pressed" />
</template>

<style scoped>
.picture {
  width: 100%;
  height: 440px;
}
</style>
