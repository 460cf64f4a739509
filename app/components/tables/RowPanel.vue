<script setup lang="ts">
import { useQuery } from '@pinia/colada';
import { linkTarget } from '~~/core/model/tables.ts';

/* A row looked at closely, and from it, step by step, the rows it links to and the rows that link to it. */
const props = defineProps<{ table: string; id: number }>();
/** the way here: the row first looked at, and those gone on to */
const path = ref<readonly { table: string; id: number; text: string }[]>([]);
const at = computed(() => path.value.at(-1) ?? { table: props.table, id: props.id, text: '' });
const asked = useQuery({
  key: () => ['row', at.value.table, at.value.id],
  query: () => api.tables.look({ key: at.value.table, id: at.value.id }),
});
watch(
  () => [props.table, props.id] as const,
  ([table, id]) => (path.value = [{ table, id, text: '' }]),
  { immediate: true },
);
// a step of the way is known by the row's text, once that is read
watch(asked.data, (answer) => {
  if (answer)
    path.value = path.value.map((p) => (p.table === answer.table.key && p.id === answer.row.id ? { ...p, text: answer.text } : p));
});
function read(table: string, id: number): void {
  const before = path.value.findIndex((p) => p.table === table && p.id === id);
  path.value = before >= 0 ? path.value.slice(0, before + 1) : [...path.value, { table, id, text: '' }];
}
</script>

<template>
  <div class="panel">
    <Asked v-slot="{ data: seen }" :query="asked">
      <nav v-if="path.length > 1" class="crumbs" aria-label="Path">
        <template v-for="(p, i) in path" :key="i"
          >{{ i ? ' › ' : ''
          }}<Button link severity="secondary" :disabled="i === path.length - 1" @click="read(p.table, p.id)">
            {{ p.text }}
          </Button></template
        >
      </nav>
      <h2>
        {{ seen.text }} <span class="muted kind">a row of {{ seen.table.label }}, number {{ seen.row.id }}</span>
      </h2>
      <dl class="pairs columns">
        <template v-for="c in seen.table.columns" :key="c.key">
          <dt class="muted">{{ c.label }}</dt>
          <dd>
            <Button
              v-if="linkTarget(c) && seen.row[c.key] !== null"
              link
              :label="cellText(c, seen.row[c.key] ?? null, seen.linked)"
              @click="read(linkTarget(c)!, seen.row[c.key] as number)"
            />
            <template v-else-if="seen.row[c.key] !== null">{{ cellText(c, seen.row[c.key] ?? null, seen.linked) }}</template>
            <span v-else class="muted">empty</span>
          </dd>
        </template>
      </dl>
      <section v-for="k in seen.children" :key="k.table + k.column">
        <h3>{{ k.label }}, by {{ k.columnLabel }}: {{ k.count.toLocaleString(LOCALE) }}</h3>
        <p class="children">
          <Button v-for="r in k.rows" :key="r.id" size="small" severity="secondary" @click="read(k.table, r.id)">{{ r.text }}</Button><span
            v-if="k.count > k.rows.length"
            class="muted"
            >and {{ (k.count - k.rows.length).toLocaleString(LOCALE) }} more</span
          >
        </p>
      </section>
      <p v-if="!seen.children.length" class="muted">Nothing links to this row.</p>
    </Asked>
  </div>
</template>

<style scoped>
.panel {
  display: grid;
  gap: 10px;
}
.kind {
  font-weight: 400;
  font-size: 13px;
}
.children {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
  padding-top: 4px;
  max-height: 160px;
  overflow: auto;
}
</style>
