<script setup lang="ts">
/* How many candidates each condition left, as bars with numbers. */
interface Part {
  readonly text: string;
  readonly remaining: number | null;
  readonly skipped: boolean;
  readonly emptied: boolean;
}
defineProps<{ source: string; all: number; parts: readonly Part[] }>();
const width = (n: number | null, all: number): string => `${all > 0 && n ? Math.max(1.5, (100 * n) / all) : 0}%`;
const number = (n: number | null): string => (n === null ? '…' : n.toLocaleString(LOCALE));
</script>

<template>
  <table class="funnel">
    <caption class="sr">
      Candidates left after each condition
    </caption>
    <tbody>
      <tr>
        <td>{{ source }}</td>
        <td class="bar">
          <span><i :style="{ width: '100%' }" /></span>
        </td>
        <td class="num">{{ number(all) }}</td>
      </tr>
      <tr v-for="(p, i) in parts" :key="i" :class="{ none: p.emptied, skipped: p.skipped }">
        <td class="mono">{{ p.text }}</td>
        <td class="bar">
          <span><i :style="{ width: width(p.remaining, all) }" /></span>
        </td>
        <td class="num">{{ p.skipped ? 'not asked' : number(p.remaining) }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.funnel {
  width: 100%;
  font-size: 13px;
  table-layout: fixed;
}
td {
  padding: 2px 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
td.mono {
  font-size: 12px;
}
.bar {
  width: 34%;
  padding: 0 8px;
}
.num {
  width: 64px;
}
.bar span {
  display: block;
  height: 8px;
  background: var(--ground-3);
  border-radius: 2px;
}
.bar i {
  display: block;
  height: 100%;
  background: var(--act);
  border-radius: 2px;
}
.none {
  color: var(--bad);
  font-weight: 700;
}
.skipped {
  color: var(--ink-2);
}
</style>
