<script setup lang="ts">
import { useQuery } from '@pinia/colada';

/* What belongs to a record: lists of the rows that link to it, each opened or looked at, and a new one under it. */
const props = defineProps<{ form: string; record: number }>();
const asked = useQuery({
  key: () => ['related', props.form, props.record],
  query: () => api.entries.related({ key: props.form, id: props.record }),
});
const looking = ref<{ table: string; id: number } | null>(null);
/** A new child, with this record filled in; saved, it leads back here. */
const childAddress = (f: { form: string; field: string | null }) => ({
  path: `/entry/${f.form}/new`,
  query: { parent: String(props.record), ...(f.field ? { [f.field]: String(props.record) } : {}) },
  state: { returnTo: `/entry/${props.form}/${props.record}` },
});
</script>

<template>
  <section class="related" aria-label="Related rows">
    <Asked v-slot="{ data: related }" :query="asked">
      <nav class="row steps" aria-label="Other records">
        <NuxtLink v-if="related.before !== null" class="word" :to="`/entry/${form}/${related.before}`"
          >‹ record {{ related.before }}</NuxtLink
        >
        <NuxtLink v-if="related.after !== null" class="word" :to="`/entry/${form}/${related.after}`">record {{ related.after }} ›</NuxtLink>
      </nav>
      <div v-for="g in related.groups" :key="g.table + g.column" class="group">
        <div class="row spread">
          <h2>
            {{ g.label }} <span class="muted">by {{ g.columnLabel }}: {{ g.count.toLocaleString(LOCALE) }}</span>
          </h2>
          <span class="row">
            <Button v-for="f in g.forms" :key="f.form" as="router-link" severity="secondary" size="small" :to="childAddress(f)"
              ><i class="pi pi-plus" aria-hidden="true" /> New {{ f.label.toLowerCase() }}</Button
            >
          </span>
        </div>
        <p v-if="!g.rows.length" class="muted">None yet.</p>
        <ul v-else>
          <li v-for="r in g.rows" :key="r.id">
            <NuxtLink v-if="g.forms[0]" :to="`/entry/${g.forms[0].form}/${r.id}`">{{ r.text }}</NuxtLink>
            <template v-else>{{ r.text }}</template>
            <Button link severity="secondary" :aria-label="`Details of ${r.text}`" @click="looking = { table: g.table, id: r.id }">
              details
            </Button>
          </li>
          <li v-if="g.count > g.rows.length" class="muted">and {{ (g.count - g.rows.length).toLocaleString(LOCALE) }} more</li>
        </ul>
      </div>
    </Asked>
    <StayDialog :visible="looking !== null" modal header="Details" :style="{ width: '640px' }" @update:visible="looking = null"
      ><RowPanel v-if="looking" :id="looking.id" :table="looking.table"
    /></StayDialog>
  </section>
</template>

<style scoped>
.related {
  padding: 12px 8px 0;
}
.steps {
  gap: 18px;
  padding-bottom: 6px;
}
.group {
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
h2 .muted {
  font-weight: 400;
  font-size: 13px;
}
ul {
  columns: 3 180px;
  padding: 4px 0;
}
li {
  break-inside: avoid;
  padding: 1px 0;
}
</style>
