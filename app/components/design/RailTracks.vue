<script setup lang="ts">
import { lanesOf } from '~/components/design/lanes';

/* The rail: thin tracks from each driver to its dependents, one lane a driver, in the order of the fields. */
const props = defineProps<{ rows: readonly { key: string; y: number }[]; height: number; selected: string | null }>();
const draft = useDraft();
const tryout = useTryout();
const WIDTH = 112;
const EDGE = WIDTH - 2;

const at = computed(() => props.selected?.split('.')[0] ?? null);
const tracks = computed(() => {
  const plan = draft.plan;
  if (!plan) return [];
  const y = new Map(props.rows.map((r) => [r.key, r.y]));
  const links = plan.fields.flatMap((f) =>
    (plan.drivers[f.slot] ?? [])
      // the fields of lines stand in one row together
      .map((d) => ({ from: plan.fields[d.slot]!.key.split('.')[0]!, to: f.key.split('.')[0]! }))
      .filter((l) => l.from !== l.to && y.has(l.from) && y.has(l.to)),
  );
  const lanes = lanesOf(links, (k) => y.get(k) ?? 0);
  const upstream = reach(links, at.value, 'up');
  const downstream = reach(links, at.value, 'down');
  const most = Math.max(1, ...lanes.map((l) => l.lane + 1));
  const gap = Math.min(14, (WIDTH - 26) / most);
  return lanes.map((l) => {
    const x = EDGE - 16 - l.lane * gap;
    const from = y.get(l.driver) ?? 0;
    const ends = l.dependents.map((d) => ({ key: d, y: y.get(d) ?? 0, lit: isLit(l.driver, d), against: (y.get(d) ?? 0) < from }));
    const litEnds = ends.filter((e) => e.lit);
    return {
      driver: l.driver,
      x,
      from,
      ends,
      lit: litEnds.length > 0,
      litTop: Math.min(from, ...litEnds.map((e) => e.y)),
      litBottom: Math.max(from, ...litEnds.map((e) => e.y)),
      top: Math.min(from, ...ends.map((e) => e.y)),
      bottom: Math.max(from, ...ends.map((e) => e.y)),
      own: l.driver === at.value,
    };
  });
  function isLit(driver: string, dependent: string): boolean {
    if (!at.value) return false;
    return (upstream.has(dependent) && upstream.has(driver)) || (downstream.has(driver) && downstream.has(dependent));
  }
});
/** Everything a field is fed by (up) or feeds (down), itself included. */
function reach(links: readonly { from: string; to: string }[], start: string | null, way: 'up' | 'down'): Set<string> {
  const found = new Set<string>(start ? [start] : []);
  for (const key of found) {
    for (const l of links) {
      if (way === 'up' && l.to === key) found.add(l.from);
      if (way === 'down' && l.from === key) found.add(l.to);
    }
  }
  return found;
}
const { label } = tryout.host;
</script>

<template>
  <svg
    class="rail"
    :width="WIDTH"
    :height="height"
    :class="{ focused: selected !== null }"
    role="img"
    aria-label="Tracks from drivers to dependents"
  >
    <g v-for="t in tracks" :key="t.driver" :class="{ lit: t.lit }">
      <title>{{ label(t.driver) }} → {{ t.ends.map((e) => label(e.key)).join(', ') }}</title>
      <path class="track" :d="`M ${t.x} ${t.top} V ${t.bottom}`" />
      <path v-if="t.lit" class="track bright" :d="`M ${t.x} ${t.litTop} V ${t.litBottom}`" />
      <path class="lead" :class="{ bright: t.lit }" :d="`M ${t.x} ${t.from} H ${EDGE}`" />
      <g v-for="e in t.ends" :key="e.key" :class="{ bright: e.lit, against: e.against }">
        <path class="track" :d="`M ${t.x} ${e.y} H ${EDGE - 5}`" />
        <path class="head" :d="`M ${EDGE - 6} ${e.y - 3.5} L ${EDGE} ${e.y} L ${EDGE - 6} ${e.y + 3.5} Z`" />
      </g>
      <circle class="dot" :class="{ bright: t.lit }" :cx="t.x" :cy="t.from" r="4" />
    </g>
  </svg>
</template>

<style scoped>
.rail {
  position: absolute;
  left: 0;
  top: 0;
  pointer-events: none;
}
.track,
.lead {
  fill: none;
  stroke: var(--act);
  stroke-width: 1.5;
}
.lead {
  stroke-dasharray: 2 3;
  opacity: 0.55;
}
.head,
.dot {
  fill: var(--act);
}
.focused .track,
.focused .lead {
  stroke: var(--quiet-track);
}
.focused .head,
.focused .dot {
  fill: var(--quiet-track);
}
.focused .bright .track,
.focused .track.bright,
.focused .lead.bright {
  stroke: var(--flow);
  stroke-width: 2.5;
}
.focused .bright .head,
.focused .dot.bright {
  fill: var(--flow);
}
.lit {
  order: 1;
}
.against .track {
  stroke-dasharray: 5 3;
}
</style>
