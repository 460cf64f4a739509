<script setup lang="ts">
import type { ImportCheck, Repair, Repairs, UnmatchedText } from './importTypes';

/* Texts of the file that name no row: what each of them means, decided one by one or all at once. */
const {
  unmatched,
  label,
  target: targetLabel,
  table,
} = defineProps<{
  unmatched: ImportCheck['unmatched'];
  label: (column: string) => string;
  /** the label of the table that a column links to */
  target: (column: string) => string;
  /** that table itself; null while it is only being made */
  table: (column: string) => string | null;
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
/** Decides for all of one column that are still open, at once; without a choice, by the nearest row where that is beyond doubt. */
function repairAll(column: string, choice: string | null): void {
  const next = { ...repairs.value[column] };
  for (const u of unmatched[column] ?? []) {
    const to = choice ?? (u.sure && u.near[0] ? String(u.near[0].id) : null);
    if (!repairOf(column, u.value) && to !== null) next[u.value] = decision(to);
  }
  repairs.value = { ...repairs.value, [column]: next };
}
const openIn = (column: string): UnmatchedText[] => (unmatched[column] ?? []).filter((u) => !repairOf(column, u.value));
const sureIn = (column: string): number => openIn(column).filter((u) => u.sure && u.near.length).length;
const doubtfulIn = (column: string): number => openIn(column).filter((u) => !u.sure && u.near.length).length;
/** Those that still need somebody stand first, where they were when the file was read; what was decided keeps its place. */
const shownIn = (column: string): UnmatchedText[] => (unmatched[column] ?? []).slice(0, 200);
</script>

<template>
  <section v-if="count" class="block">
    <h2>{{ count }} {{ count === 1 ? 'value names' : 'values name' }} no row, {{ stillOpen }} still open</h2>
    <template v-for="(list, column) in unmatched" :key="column">
      <template v-if="list.length">
        <div class="row all">
          <b>{{ label(String(column)) }}</b>
          <Button severity="secondary" size="small" :disabled="!sureIn(String(column))" @click="repairAll(String(column), null)">
            Take the nearest for {{ sureIn(String(column)) }}
          </Button>
          <Button
            v-if="table(String(column))"
            severity="secondary"
            size="small"
            :disabled="!openIn(String(column)).length"
            @click="repairAll(String(column), 'add')"
          >
            Add all as new rows
          </Button>
          <Button severity="secondary" size="small" :disabled="!openIn(String(column)).length" @click="repairAll(String(column), 'empty')">
            Leave all empty
          </Button>
          <span v-if="doubtfulIn(String(column))" class="muted">
            {{ doubtfulIn(String(column)) }} {{ doubtfulIn(String(column)) === 1 ? 'is' : 'are' }} doubtful and left to you.
          </span>
        </div>
        <ImportMeanings
          :texts="shownIn(String(column))"
          :header="`${label(String(column))} in the file`"
          :target="targetLabel(String(column))"
          :table="table(String(column))"
          :decided="(value) => repairOf(String(column), value)"
          @decide="(value, choice) => repair(String(column), value, choice)"
        />
        <p v-if="list.length > 200" class="muted">
          and {{ (list.length - 200).toLocaleString(LOCALE) }} more. Decide for all of them with the buttons above.
        </p>
      </template>
    </template>
  </section>
</template>

<style scoped>
.block {
  padding: 18px 0 0;
}
.all {
  padding: 8px 0 4px;
  flex-wrap: wrap;
}
</style>
