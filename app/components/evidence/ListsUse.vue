<script setup lang="ts">
import { type FillsUse, share } from './fillWords';

/* How clerks choose from the lists of a form, and how long an entry takes: counted at entry, without who entered. */
const props = defineProps<{ entered: FillsUse['entered'] }>();
const n = (x: number): string => x.toLocaleString(LOCALE);
const lists = computed(() => [...props.entered.lists]);
type Texts = FillsUse['entered']['lists'][number]['searched'];
const texts = (all: Texts): string => all.map((t) => `${t.text} (${n(t.count)})`).join(', ');
const seconds = (s: number): string => (s < 90 ? `${Math.round(s)} s` : `${Math.round(s / 60)} min`);
const times = computed(() => [...props.entered.times].reverse().slice(0, 5));
</script>

<template>
  <section v-if="lists.length || times.length" aria-label="How it is entered">
    <h2>How it is entered</h2>
    <p v-if="times.length">
      From opening to saving, half of the entries take at most
      <template v-for="(t, i) in times" :key="t.version"
        >{{ i ? '; ' : '' }}<b>{{ seconds(t.seconds) }}</b> by version {{ t.version }}
        <span class="muted small">({{ n(t.entries) }} {{ t.entries === 1 ? 'entry' : 'entries' }})</span></template
      >.
    </p>
    <DataTable
      v-if="lists.length"
      :value="lists"
      data-key="field"
      size="small"
      :table-props="{ 'aria-label': 'How lists are chosen from' }"
    >
      <Column header="List" field="label" />
      <Column header="Chosen" class="num"
        ><template #body="{ data: l }">{{ n(l.chosen) }}</template></Column
      >
      <Column header="Offered" class="num"
        ><template #body="{ data: l }">{{ l.offered === null ? '–' : n(l.offered) }}</template></Column
      >
      <Column header="Stood at" class="num"
        ><template #body="{ data: l }"
          >{{ l.chosen ? n(l.place) : '–' }} <span class="muted small">first in {{ share(l.first, l.chosen) }}</span></template
        ></Column
      >
      <Column header="Searched by"
        ><template #body="{ data: l }"
          ><template v-if="l.searched.length">{{ texts(l.searched) }}</template
          ><span v-if="l.unsearched" class="muted small"> {{ share(l.unsearched, l.chosen) }} without searching</span></template
        ></Column
      >
      <Column header="Not found"
        ><template #body="{ data: l }"
          ><template v-if="l.nothing"
            ><b>{{ n(l.nothing) }}</b
            >{{ l.sought.length ? `: ${texts(l.sought)}` : '' }}</template
          ><template v-else>–</template></template
        ></Column
      >
    </DataTable>
    <p class="muted small">
      Offered and stood at: the middle of all choices. Counted at entry by version, without who entered or when: the time and the step
      chosen above do not narrow it.
    </p>
  </section>
</template>

<style scoped>
section {
  padding-top: 12px;
  display: grid;
  gap: 6px;
}
.small {
  font-size: 12.5px;
  white-space: nowrap;
}
p.small {
  white-space: normal;
}
</style>
