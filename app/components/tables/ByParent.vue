<script setup lang="ts">
import type { TableSummary } from '~/composables/useTables';

/* A table's rows by their parent: every parent with the number of its children, those with none and with one. */
const props = defineProps<{ table: TableSummary; tables: readonly TableSummary[] }>();
interface Answer {
  readonly parent: { readonly key: string; readonly label: string };
  readonly rows: readonly { readonly id: number; readonly text: string | null; readonly children: number }[];
  readonly total: number;
  readonly orphans: number;
}
const links = computed(() => props.table.columns.filter((c) => c.type === 'link' || c.type === 'person'));
const column = ref(links.value[0]?.key ?? null);
const only = ref<'all' | 'gaps' | 'singles'>('all');
const answer = shallowRef<Answer | null>(null);
const failed = ref('');
const looking = ref<number | null>(null);
const LIMIT = 200;
const limit = ref(LIMIT);
async function load(): Promise<void> {
  if (!column.value) return;
  try {
    answer.value = await api<Answer>(`tables/${props.table.key}/columns/${column.value}/parents`, {
      query: { only: only.value, limit: limit.value },
    });
    failed.value = '';
  } catch (e) {
    failed.value = messageOf(e);
  }
}
watch([column, only, limit], load, { immediate: true });
const most = computed(() => Math.max(1, ...(answer.value?.rows ?? []).map((r) => r.children)));
</script>

<template>
  <div class="by">
    <p class="row">
      <label v-if="links.length > 1"
        >By
        <select v-model="column" class="in small" aria-label="Link">
          <option v-for="c in links" :key="c.key" :value="c.key">{{ c.label }}</option>
        </select></label
      >
      <span v-else-if="links[0]" class="muted">By {{ links[0].label }}</span>
      <label
        v-for="o in [
          ['all', 'all parents'],
          ['gaps', 'without children'],
          ['singles', 'with one child'],
        ] as const"
        :key="o[0]"
        ><input v-model="only" type="radio" name="only" :value="o[0]" /> {{ o[1] }}</label
      >
      <span v-if="answer" class="muted"
        >{{ answer.total.toLocaleString(LOCALE) }} of {{ answer.parent.label
        }}{{ answer.orphans ? `; ${answer.orphans.toLocaleString(LOCALE)} rows have no parent` : '' }}</span
      >
    </p>
    <p v-if="!links.length" class="note">{{ table.label }} links to no other table, so its rows have no parents.</p>
    <p v-else-if="failed" class="note bad" role="alert">{{ failed }} <button class="word" type="button" @click="load">Try again</button></p>
    <div v-else-if="!answer" class="skeleton" style="height: 200px" />
    <p v-else-if="!answer.rows.length" class="note">There is none.</p>
    <table v-else class="plainTable">
      <thead>
        <tr>
          <th>{{ answer.parent.label }}</th>
          <th class="num">Children</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in answer.rows" :key="r.id">
          <td>
            <button class="word" type="button" @click="looking = r.id">{{ r.text ?? `row ${r.id}` }}</button>
          </td>
          <td class="num">{{ r.children ? r.children.toLocaleString(LOCALE) : 'none' }}</td>
          <td class="bar"><span :style="{ width: `${(r.children / most) * 100}%` }" /></td>
        </tr>
      </tbody>
    </table>
    <button
      v-if="answer && answer.total > answer.rows.length"
      class="btn small"
      type="button"
      @click="limit = Math.min(500, limit + LIMIT)"
    >
      Show more
    </button>
    <Dialog :visible="looking !== null" modal header="A row, closely" :style="{ width: '640px' }" @update:visible="looking = null"
      ><RowPanel v-if="looking !== null && answer" :id="looking" :table="answer.parent.key"
    /></Dialog>
  </div>
</template>

<style scoped>
.by {
  padding: 4px 16px 20px;
  overflow: auto;
}
.by > p {
  padding-bottom: 8px;
  gap: 16px;
}
table {
  max-width: 720px;
}
.bar {
  width: 260px;
}
.bar span {
  display: block;
  height: 10px;
  background: var(--act);
}
</style>
