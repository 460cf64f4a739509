<script setup lang="ts">
/* How many candidates each condition left, as bars with numbers; under the one that emptied the list, what exists instead. */
defineProps<{ source: string; all: number; parts: readonly ToldPart[] }>();
const width = (n: number | null, all: number): string => `${all > 0 && n ? Math.max(1.5, (100 * n) / all) : 0}%`;
const number = (n: number | null): string => (n === null ? '…' : n.toLocaleString(LOCALE));
</script>

<template>
  <ol class="funnel" aria-label="Candidates left after each condition">
    <li>
      <span>{{ source }}</span>
      <span class="bar"><i :style="{ width: '100%' }" /></span>
      <span class="num">{{ number(all) }}</span>
    </li>
    <li v-for="(p, i) in parts" :key="i" :class="{ none: p.emptied, skipped: p.skipped }">
      <span class="words" :title="p.text">{{ p.words }}</span>
      <span class="bar"><i :style="{ width: width(p.remaining, all) }" /></span>
      <span class="num">{{ p.skipped ? 'not applied' : number(p.remaining) }}</span>
      <span v-if="p.instead" class="instead">{{ p.instead }}</span>
    </li>
  </ol>
</template>

<style scoped>
.funnel {
  margin: 0;
  padding: 0;
  list-style: none;
  font-size: 13px;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 26% 64px;
  align-items: center;
  gap: 8px;
  padding: 2px 0;
}
li > .words {
  overflow-wrap: anywhere;
}
li > .instead {
  grid-column: 1 / -1;
  color: var(--ink);
  font-weight: 400;
}
.bar {
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
