<script setup lang="ts">
import { SELF } from '~~/core/exchange/match.ts';
import { COLUMN_TYPES, COLUMN_TYPE_LABELS, type ColumnType, keyFromLabel, namesTable } from '~~/core/model/tables.ts';
import type { TableSummary } from '~/stores/model';

/* A table made by hand: its name, its columns with their types and links, and what its rows are called by. */
const { tables } = defineProps<{ tables: readonly TableSummary[] }>();
const visible = defineModel<boolean>('visible', { required: true });
interface Sketch {
  label: string;
  type: ColumnType;
  target: string | null;
}
const fresh = (label = ''): Sketch => ({ label, type: 'text', target: null });
const label = ref('');
const columns = ref<Sketch[]>([fresh('Name'), fresh()]);
const called = ref<string | null>('name');
const problem = ref('');
const busy = ref(false);

/** A column without a label is none yet. */
const named = computed(() => columns.value.filter((c) => c.label.trim() !== ''));
const keys = computed(() => {
  const made: string[] = [];
  for (const c of named.value) made.push(keyFromLabel(c.label, made));
  return made;
});
const names = computed(() => named.value.map((c, i) => ({ value: keys.value[i] as string | null, label: c.label.trim() })));
const missing = computed(() => named.value.find((c) => namesTable(c.type) && c.target === null));
const ready = computed(() => label.value.trim() !== '' && named.value.length > 0 && !missing.value);
const TYPES = COLUMN_TYPES.map((value) => ({ value, label: COLUMN_TYPE_LABELS[value] }));
const targets = computed(() => [
  { value: SELF as string | null, label: 'of this table itself' },
  ...tables.map((t) => ({ value: t.key as string | null, label: `of ${t.label}` })),
]);
function remove(at: number): void {
  columns.value.splice(at, 1);
}
const list = ref<HTMLElement>();
async function add(): Promise<void> {
  columns.value.push(fresh());
  await nextTick();
  [...(list.value?.querySelectorAll<HTMLInputElement>('input.label-of') ?? [])].at(-1)?.focus();
}
async function make(): Promise<void> {
  problem.value = '';
  busy.value = true;
  const sent = named.value.map((c, i) => ({
    key: keys.value[i] as string,
    label: c.label.trim(),
    type: c.type,
    target: namesTable(c.type) ? c.target : null,
  }));
  const shown = names.value.some((n) => n.value === called.value) ? called.value : (keys.value[0] ?? null);
  try {
    const { key } = await api.tables.make({ label: label.value.trim(), shown, columns: sent });
    await navigateTo(`/design/tables/${key}`);
  } catch (e) {
    problem.value = messageOf(e);
  } finally {
    busy.value = false;
  }
}
</script>

<template>
  <StayDialog v-model:visible="visible" modal header="New table" :style="{ width: '640px' }">
    <form class="fields" @submit.prevent="ready && make()">
      <label><span class="label">What is it called?</span><InputText v-model="label" autofocus required placeholder="Instruments" /></label>
      <div ref="list" class="columns" role="group" aria-label="Columns">
        <span class="label" aria-hidden="true">Columns</span>
        <div v-for="(c, i) in columns" :key="i" class="column">
          <InputText v-model="c.label" class="label-of" :aria-label="`Label of column ${i + 1}`" placeholder="Label" />
          <PickOne v-model="c.type" :label="`Type of column ${i + 1}`" :options="TYPES" />
          <PickOne
            v-if="namesTable(c.type)"
            v-model="c.target"
            :label="`Table that column ${i + 1} links to`"
            placeholder="of which table?"
            :invalid="c === missing"
            :options="targets"
          /><span v-else />
          <IconButton icon="pi pi-times" :aria-label="`Remove column ${i + 1}`" :disabled="columns.length === 1" @click="remove(i)" />
        </div>
        <Button link @click="add">Add a column</Button>
      </div>
      <div>
        <span class="label" aria-hidden="true">Its rows are called by</span>
        <PickOne v-model="called" label="Its rows are called by" :options="names" placeholder="choose a column" />
      </div>
      <Note v-if="problem" kind="bad">{{ problem }}</Note>
      <p v-else-if="missing" class="muted">Say which table {{ missing.label }} links to.</p>
      <Button type="submit" :disabled="!ready || busy">Create the table</Button>
    </form>
  </StayDialog>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 14px;
}
.fields > .p-button {
  justify-self: start;
}
.columns {
  padding: 0;
  margin: 0;
  display: grid;
  gap: 6px;
  justify-items: start;
}
.column {
  display: grid;
  grid-template-columns: 1fr 150px 170px auto;
  gap: 8px;
  align-items: center;
  width: 100%;
}
</style>
