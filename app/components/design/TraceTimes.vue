<script setup lang="ts">
import type { PartTime } from '~~/core/engine/state.ts';
import { PART_WORDS } from '~/composables/traceLines';

/* Where the time went: how long each part of each field took, and how long data was waited for. */
const props = defineProps<{ label: (key: string) => string; lately: boolean }>();
const emit = defineEmits<{ go: [key: string] }>();
const { host } = useTryout();

interface Part extends PartTime {
  readonly key: string;
}
const steps = computed(() => {
  const all = host.steps.value;
  if (!props.lately) return all;
  // what was done last, with the data that came for it
  const at = all.findIndex((s) => s.change.what.kind !== 'supply');
  return at < 0 ? all : all.slice(0, at + 1);
});
const parts = computed((): Part[] => {
  const by = new Map<string, Part>();
  for (const t of steps.value.flatMap((s) => s.change.times ?? [])) {
    const key = `${t.cell} ${t.field}`;
    const known = by.get(key);
    by.set(key, { ...t, key, computed: t.computed + (known?.computed ?? 0), milliseconds: t.milliseconds + (known?.milliseconds ?? 0) });
  }
  return [...by.values()].sort((a, b) => b.milliseconds - a.milliseconds || b.computed - a.computed);
});
const sum = (of: (s: TraceStep) => number): number => steps.value.reduce((n, s) => n + of(s), 0);
const computing = computed(() => parts.value.reduce((n, p) => n + p.milliseconds, 0));
const waited = computed(() => sum((s) => s.waited));
const requests = computed(() => sum((s) => s.requests));
const all = computed(() => sum((s) => s.milliseconds));
const share = (ms: number): number => (computing.value > 0 ? Math.round((ms / computing.value) * 100) : 0);
/** The clock of the browser is read to a tenth of a millisecond. */
const written = (ms: number): string => (ms < 0.05 ? '< 0.1' : ms.toFixed(1));
</script>

<template>
  <div class="times">
    <p>
      {{ written(all) }} ms in all, {{ written(computing) }} of them for the parts below;
      {{
        requests === 0
          ? 'no data was asked for'
          : `${requests} ${requests === 1 ? 'request' : 'requests'}, ${Math.round(waited)} ms waited for`
      }}.
    </p>
    <DataTable :value="parts" data-key="key" size="small" :table-props="{ 'aria-label': 'Where the time went' }">
      <Column header="Part">
        <template #body="{ data }"
          ><Button link :label="label((data as Part).field)" @click="emit('go', (data as Part).field)" />
          <span class="muted part">{{ PART_WORDS[(data as Part).cell] }}</span></template
        >
      </Column>
      <Column header="Computed" class="num"
        ><template #body="{ data }">{{ (data as Part).computed === 1 ? 'once' : `${(data as Part).computed} times` }}</template></Column
      >
      <Column header="ms" class="num"
        ><template #body="{ data }">{{ written((data as Part).milliseconds) }}</template></Column
      >
      <Column header="Share">
        <template #body="{ data }"
          ><ProgressBar
            class="bar"
            :value="share((data as Part).milliseconds)"
            :show-value="false"
            :aria-label="`${share((data as Part).milliseconds)} % of the time`"
        /></template>
      </Column>
      <template #empty>Nothing has been computed.</template>
    </DataTable>
  </div>
</template>

<style scoped>
.times {
  flex: 1;
  min-height: 0;
  overflow: auto;
  padding: 4px 16px;
  font-size: 13px;
}
.part {
  margin-left: 6px;
}
.bar {
  height: 8px;
  min-width: 120px;
}
</style>
