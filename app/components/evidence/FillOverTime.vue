<script setup lang="ts">
import { LineChart } from 'echarts/charts';
import { GridComponent, MarkLineComponent, TooltipComponent } from 'echarts/components';
import { use as useParts } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import VChart from 'vue-echarts';
import type { FieldUse, FillsUse } from './fillWords';

/* The share of records in which a field's fill was kept, over time, with the versions by which they were saved. */
useParts([SVGRenderer, LineChart, GridComponent, TooltipComponent, MarkLineComponent]);
const props = defineProps<{ use: FillsUse; field: FieldUse }>();
const { scheme } = useScheme();
const colours = computed(() => {
  void scheme.value;
  const css = getComputedStyle(document.documentElement);
  const read = (name: string): string => css.getPropertyValue(name).trim();
  return { ground: read('--ground'), ink: read('--ink'), soft: read('--ink-2'), line: read('--line'), act: read('--act'), flow: read('--flow') }; // prettier-ignore
});
const shares = computed(() =>
  props.field.spans.map((s) => {
    const all = s.kept + s.over + s.emptied + s.hand + s.empty;
    return { all, kept: s.kept, share: all ? Math.round((1000 * s.kept) / all) / 10 : null };
  }),
);
const spanOf = (day: string): string => props.use.spans.filter((s) => s <= day).at(-1) ?? props.use.spans[0] ?? '';
const option = computed(() => {
  const c = colours.value;
  return {
    animation: false,
    textStyle: { fontFamily: 'Atkinson Hyperlegible Next Variable', color: c.ink },
    grid: { left: 44, right: 14, top: 24, bottom: 26 },
    tooltip: {
      trigger: 'axis',
      renderMode: 'richText',
      backgroundColor: c.ground,
      textStyle: { color: c.ink },
      formatter: ([p]: { dataIndex: number; axisValue: string }[]) => (p ? `from ${showPlain('date', p.axisValue)}: kept in ${shares.value[p.dataIndex]?.kept} of ${shares.value[p.dataIndex]?.all}` : ''),
    },
    xAxis: { type: 'category', data: props.use.spans, axisLabel: { formatter: (d: string) => showPlain('date', d), color: c.soft, hideOverlap: true }, axisLine: { lineStyle: { color: c.line } }, axisTick: { show: false } },
    yAxis: { type: 'value', min: 0, max: 100, interval: 50, axisLabel: { formatter: '{value} %', color: c.soft }, splitLine: { lineStyle: { color: c.line } } },
    series: [
      {
        type: 'line',
        data: shares.value.map((s) => s.share),
        connectNulls: true,
        symbolSize: 5,
        lineStyle: { color: c.act, width: 2 },
        itemStyle: { color: c.act },
        markLine: {
          silent: true,
          symbol: 'none',
          lineStyle: { color: c.flow, type: 'dotted', width: 2 },
          label: { color: c.ink, formatter: ({ data }: { data: { name: string } }) => data.name },
          data: props.use.versions.slice(1).map((v) => ({ name: `v ${v.version}`, xAxis: spanOf(v.from) })),
        },
      },
    ],
  };
}); // prettier-ignore
const said = computed(() => shares.value.map((s, i) => (s.all ? `from ${showPlain('date', props.use.spans[i] ?? '')}: ${s.kept} of ${s.all}` : '')).filter(Boolean).join('; ')); // prettier-ignore
</script>

<template>
  <figure>
    <VChart class="chart" :option="option" autoresize aria-hidden="true" />
    <figcaption class="sr">Kept, over time: {{ said }}</figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}
.chart {
  height: 170px;
}
</style>
