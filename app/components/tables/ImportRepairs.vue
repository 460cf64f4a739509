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
        <Button severity="secondary" size="small" :disabled="!stillOpen" @click="repairAll(null)">Take the nearest spelling for all</Button>
        <Button severity="secondary" size="small" :disabled="!stillOpen" @click="repairAll('add')">Add all as new rows</Button>
        <Button severity="secondary" size="small" :disabled="!stillOpen" @click="repairAll('empty')">Leave all empty</Button>
      </span>
    </div>
    <template v-for="(list, column) in unmatched" :key="column">
      <ImportMeanings
        v-if="list.length"
        :texts="list.slice(0, 200)"
        :header="`${label(String(column))} in the file`"
        :target="targetLabel(String(column))"
        :decided="(value) => repairOf(String(column), value)"
        @decide="(value, choice) => repair(String(column), value, choice)"
      />
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
</style>
