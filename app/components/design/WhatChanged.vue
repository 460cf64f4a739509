<script setup lang="ts">
import type { Difference } from '~~/core/review/differences.ts';

/* What differs between two versions of a form: of what, which part, what stood there and what stands there. */
const props = defineProps<{ differences: readonly Difference[] }>();
/** what belongs to one field, rule or step stands together */
const groups = computed(() => {
  const found: { of: string; parts: Difference[] }[] = [];
  for (const d of props.differences) {
    const last = found.at(-1);
    if (last && last.of === d.of && d.of !== '') last.parts.push(d);
    else found.push({ of: d.of, parts: [d] });
  }
  return found;
});
</script>

<template>
  <ul class="changed" aria-label="What is different">
    <li v-for="(g, i) in groups" :key="i">
      <b v-if="g.of">{{ g.of }}</b>
      <div v-for="(p, j) in g.parts" :key="j" class="part">
        <span v-if="!p.changes.length" :class="{ strong: !g.of }">{{ p.what }}</span>
        <div v-for="(c, k) in p.changes" :key="k" class="change">
          <span :class="{ strong: !g.of && k === 0 }">{{ c.at ? `${p.what}, ${c.at}` : p.what }}</span>
          <template v-if="c.before !== null || c.after !== null">
            <del v-if="c.before !== null"><span class="sr">before: </span>{{ c.before }}</del>
            <span v-else class="muted">nothing before</span>
            <ins v-if="c.after !== null"><span class="sr">now: </span>{{ c.after }}</ins>
            <span v-else class="muted">now nothing</span>
          </template>
        </div>
      </div>
    </li>
  </ul>
</template>

<style scoped>
.changed {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 12px;
}
.changed > li {
  border-left: 3px solid var(--flow);
  padding: 1px 0 1px 12px;
  min-width: 0;
}
.part {
  color: var(--ink-2);
}
.strong {
  font-weight: 700;
  color: var(--ink);
}
.change {
  display: grid;
  overflow-wrap: anywhere;
}
del {
  color: var(--ink-2);
}
ins {
  color: var(--ink);
  text-decoration: none;
  font-weight: 600;
}
</style>
