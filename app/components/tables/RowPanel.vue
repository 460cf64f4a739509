<script setup lang="ts">
import type { Column } from '~~/core/form/tables.ts';
import type { Row } from '~~/core/values/types.ts';

/* A row looked at closely, and from it, step by step, the rows it links to and the rows that link to it. */
const props = defineProps<{ table: string; id: number }>();
interface LookedAt {
  readonly table: { readonly key: string; readonly label: string; readonly columns: readonly Column[] };
  readonly text: string;
  readonly row: Row;
  readonly linked: Readonly<Record<string, Readonly<Record<number, string>>>>;
  readonly children: readonly {
    table: string;
    label: string;
    column: string;
    columnLabel: string;
    count: number;
    rows: readonly { id: number; text: string }[];
  }[];
}
const path = ref<readonly { table: string; id: number; text: string }[]>([]);
const seen = shallowRef<LookedAt | null>(null);
const failed = ref('');
async function read(table: string, id: number): Promise<void> {
  failed.value = '';
  try {
    const answer = await api<LookedAt>(`tables/${table}/rows/${id}`);
    seen.value = answer;
    const at = path.value.findIndex((p) => p.table === table && p.id === id);
    path.value = at >= 0 ? path.value.slice(0, at + 1) : [...path.value, { table, id, text: answer.text }];
  } catch (e) {
    failed.value = messageOf(e);
  }
}
watch(
  () => [props.table, props.id] as const,
  ([table, id]) => {
    path.value = [];
    void read(table, id);
  },
  { immediate: true },
);
const targetOf = (c: Column): string | null => (c.type === 'person' ? 'people' : c.type === 'link' ? c.target : null);
</script>

<template>
  <div class="panel">
    <p v-if="failed" class="note bad" role="alert">{{ failed }}</p>
    <div v-else-if="!seen" class="skeleton" style="height: 120px" />
    <template v-else>
      <nav v-if="path.length > 1" class="crumbs" aria-label="The way here">
        <template v-for="(p, i) in path" :key="i"
          >{{ i ? ' › ' : ''
          }}<button class="word light" type="button" :disabled="i === path.length - 1" @click="read(p.table, p.id)">
            {{ p.text }}
          </button></template
        >
      </nav>
      <h2>
        {{ seen.text }} <span class="muted kind">a row of {{ seen.table.label }}, number {{ seen.row.id }}</span>
      </h2>
      <table class="columns">
        <tbody>
          <tr v-for="c in seen.table.columns" :key="c.key">
            <td class="muted">{{ c.label }}</td>
            <td>
              <button
                v-if="targetOf(c) && seen.row[c.key] !== null"
                class="word"
                type="button"
                @click="read(targetOf(c)!, seen.row[c.key] as number)"
              >
                {{ cellText(c, seen.row[c.key] ?? null, seen.linked) }}
              </button>
              <template v-else-if="seen.row[c.key] !== null">{{ cellText(c, seen.row[c.key] ?? null, seen.linked) }}</template>
              <span v-else class="muted">empty</span>
            </td>
          </tr>
        </tbody>
      </table>
      <section v-for="k in seen.children" :key="k.table + k.column">
        <h3>{{ k.label }}, by {{ k.columnLabel }}: {{ k.count.toLocaleString(LOCALE) }}</h3>
        <p class="children">
          <button v-for="r in k.rows" :key="r.id" class="chip" type="button" @click="read(k.table, r.id)">{{ r.text }}</button><span
            v-if="k.count > k.rows.length"
            class="muted"
            >and {{ (k.count - k.rows.length).toLocaleString(LOCALE) }} more</span
          >
        </p>
      </section>
      <p v-if="!seen.children.length" class="muted">Nothing links to this row.</p>
    </template>
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
.columns td {
  padding: 2px 16px 2px 0;
  vertical-align: top;
}
.children {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
  padding-top: 4px;
  max-height: 160px;
  overflow: auto;
}
.chip {
  cursor: pointer;
}
</style>
