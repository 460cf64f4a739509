<script setup lang="ts">
import type { ImportCheck, Repair, Repairs } from './importTypes';

/* Texts of the file that name no row: what each of them means, decided one by one or all at once. */
const {
  unmatched,
  label,
  target: targetLabel,
} = defineProps<{
  unmatched: ImportCheck['unmatched'];
  label: (column: string) => string;
  /** the label of the table that a column links to */
  target: (column: string) => string;
}>();
const open = defineModel<number>('open', { required: true });
const repairs = defineModel<Repairs>('repairs', { required: true });

/** Unmatched values stay where they are when repaired, so that the eye keeps its place. */
const count = computed(() => Object.values(unmatched).reduce((n, list) => n + list.length, 0));
const repairOf = (column: string, value: string): string => {
  const r = repairs.value[column]?.[value];
  return !r ? '' : 'to' in r ? String(r.to) : 'empty' in r ? 'empty' : 'add';
};
const stillOpen = computed(() =>
  Object.entries(unmatched).reduce((n, [column, list]) => n + list.filter((u) => !repairOf(column, u.value)).length, 0),
);
watchEffect(() => (open.value = stillOpen.value));
const decision = (choice: string): Repair =>
  choice === 'empty' ? { empty: true } : choice === 'add' ? { add: true } : { to: Number(choice) };
function repair(column: string, value: string, choice: string): void {
  const { [value]: _, ...others } = repairs.value[column] ?? {};
  repairs.value = { ...repairs.value, [column]: choice === '' ? others : { ...others, [value]: decision(choice) } };
}
/** Decides for all that are still open, at once; without a choice, by the nearest spelling. */
function repairAll(choice: string | null): void {
  const next: Repairs = {};
  for (const [column, list] of Object.entries(unmatched)) {
    next[column] = { ...repairs.value[column] };
    for (const u of list) {
      const to = choice ?? (u.near[0] ? String(u.near[0].id) : null);
      if (!repairOf(column, u.value) && to !== null) next[column][u.value] = decision(to);
    }
  }
  repairs.value = { ...repairs.value, ...next };
}
</script>

<template>
  <section v-if="count" class="block">
    <div class="row spread">
      <h2>{{ count }} {{ count === 1 ? 'value names' : 'values name' }} no row, {{ stillOpen }} still open</h2>
      <span class="row">
        <button class="btn small" type="button" :disabled="!stillOpen" @click="repairAll(null)">Take the nearest spelling for all</button>
        <button class="btn small" type="button" :disabled="!stillOpen" @click="repairAll('add')">Add all as new rows</button>
        <button class="btn small" type="button" :disabled="!stillOpen" @click="repairAll('empty')">Leave all empty</button>
      </span>
    </div>
    <template v-for="(list, column) in unmatched" :key="column">
      <table v-if="list.length" class="plainTable">
        <thead>
          <tr>
            <th>{{ label(String(column)) }} in the file</th>
            <th class="num">Lines</th>
            <th>Means</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="u in list.slice(0, 200)" :key="u.value" :class="{ mended: repairOf(String(column), u.value) }">
            <td>
              <code class="value">{{ u.value }}</code> <span class="muted">line {{ u.firstLine + 1 }}</span>
            </td>
            <td class="num">{{ u.count.toLocaleString(LOCALE) }}</td>
            <td class="means">
              <button
                v-if="u.near[0] && !repairOf(String(column), u.value)"
                class="word"
                type="button"
                @click="repair(String(column), u.value, String(u.near[0].id))"
              >
                {{ u.near[0].text }}?
              </button>
              <select
                class="in"
                :value="repairOf(String(column), u.value)"
                :aria-label="`What “${u.value}” means`"
                @change="repair(String(column), u.value, ($event.target as HTMLSelectElement).value)"
              >
                <option value="">choose…</option>
                <option v-for="n in u.near" :key="n.id" :value="String(n.id)">{{ n.text }}</option>
                <option value="empty">leave it empty</option>
                <option value="add">a new row of {{ targetLabel(String(column)) }}</option>
              </select>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="list.length > 200" class="muted">
        and {{ (list.length - 200).toLocaleString(LOCALE) }} more. Decide for all of them with the buttons above.
      </p>
    </template>
  </section>
</template>

<style scoped>
.block {
  padding: 18px 0 0;
}
.means {
  display: grid;
  grid-template-columns: 180px 1fr;
  gap: 12px;
  align-items: center;
}
.means select {
  grid-column: 2;
}
.value {
  white-space: pre;
  background: var(--ground-3);
  padding: 1px 4px;
}
.mended {
  background: var(--act-wash);
}
</style>
