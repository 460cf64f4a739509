<script setup lang="ts">
import { type Subset, type Table, keyFromLabel, shapesOf } from '~~/core/model/tables.ts';
import type { TableSummary } from '~/stores/model';

/* Subsets of a table: named conditions that any form can use as a source. */
const props = defineProps<{ table: TableSummary; tables: readonly TableSummary[]; reload: () => Promise<void> }>();
const subsets = ref<Subset[]>((props.table.subsets ?? []).map((s) => ({ ...s })));
const label = ref('');
const problem = ref('');
const saved = ref(false);
const base = computed(() => ({ bindings: new Map(), tables: shapesOf(new Map(props.tables.map((t) => [t.key, t as Table]))) }));
async function save(next: Subset[]): Promise<void> {
  problem.value = '';
  saved.value = false;
  try {
    await api.tables.subsets({ key: props.table.key }, { subsets: next });
    subsets.value = next;
    saved.value = true;
    await props.reload();
  } catch (e) {
    problem.value = messageOf(e);
  }
}
function add(): void {
  const text = label.value.trim();
  if (!text) return;
  const yesno = props.table.columns.find((c) => c.type === 'yesno');
  const first = yesno ? `choice.${yesno.key}` : `NOT(ISBLANK(choice.${props.table.columns[0]?.key ?? 'id'}))`;
  void save([...subsets.value, { key: keyFromLabel(text, subsets.value.map((s) => s.key)), label: text, condition: first }]); // prettier-ignore
  label.value = '';
}
const change = (at: number, part: Partial<Subset>): Promise<void> => save(subsets.value.map((s, i) => (i === at ? { ...s, ...part } : s)));
/** the subset that was deleted last, with where it stood */
const removed = shallowRef<{ subset: Subset; at: number } | null>(null);
async function remove(at: number): Promise<void> {
  const subset = subsets.value[at];
  await save(subsets.value.filter((_, i) => i !== at));
  removed.value = subset && !subsets.value.includes(subset) ? { subset, at } : null;
}
async function putBack(): Promise<void> {
  const gone = removed.value;
  if (!gone) return;
  await save([...subsets.value.slice(0, gone.at), gone.subset, ...subsets.value.slice(gone.at)]);
  if (!problem.value) removed.value = null;
}
</script>

<template>
  <p class="muted">
    A subset is a named condition over {{ table.label }}. Every form can take its choices from it, apart from what the form itself narrows.
  </p>
  <ul class="subsets">
    <li v-for="(s, i) in subsets" :key="s.key">
      <div class="row">
        <TextEdit
          :value="s.label"
          :aria-label="`Name of the subset ${s.label}`"
          @change="change(i, { label: ($event.target as HTMLInputElement).value.trim() || s.label })"
        />
        <IconButton :aria-label="`Delete the subset ${s.label}`" icon="pi pi-trash" @click="remove(i)" />
      </div>
      <ConditionList
        :name="s.key"
        :where="s.condition"
        :table="table"
        :base="base"
        verb="A row is in it"
        of-subset
        @change="$event && change(i, { condition: $event })"
      />
    </li>
  </ul>
  <Note v-if="!subsets.length" kind="quiet">No subsets yet. One might hold only what is active, or only one kind.</Note>
  <form class="row" @submit.prevent="add">
    <InputText v-model="label" placeholder="Name of a new subset" aria-label="Name of a new subset" />
    <Button type="submit" :disabled="!label.trim()">Add</Button>
  </form>
  <Note v-if="problem" kind="bad">{{ problem }}</Note>
  <p v-else-if="removed" class="muted" role="status">
    {{ removed.subset.label }} was deleted. <Button link label="Undo" @click="putBack" />
  </p>
  <p v-else-if="saved" class="muted" role="status">Saved.</p>
</template>

<style scoped>
.subsets {
  display: grid;
  gap: 12px;
  padding: 10px 0;
}
.subsets li {
  border-top: 1px solid var(--line);
  padding-top: 8px;
  font-size: 15px;
}
</style>
