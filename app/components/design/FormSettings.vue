<script setup lang="ts">
import { addField, changeField } from '~~/core/form/edit.ts';
import { valueSchema } from '~~/core/form/fills/schemas.ts';
import { likelyKnown } from '~~/core/form/known.ts';

/* What belongs to the form as a whole: its name, and the record its entries may be opened under. */
const draft = useDraft();
const form = computed(() => draft.form!);
const parents = computed(() => [
  { value: null, label: 'nothing' },
  ...[...draft.tables.values()].map((t) => ({ value: t.key, label: `a row of ${t.label}` })),
]);
/** What its records may be called by: the columns that are there, and those its fields will make. */
const knownChoices = computed(() => {
  const there = draft.tables.get(form.value.table)?.columns ?? [];
  const saved = Object.values(form.value.fields).flatMap((f) => (f.column ? [{ value: f.column, label: f.label }] : []));
  const columns = there.filter((c) => !saved.some((s) => s.value === c.key)).map((c) => ({ value: c.key, label: c.label }));
  return [...saved, ...columns, { value: TEXT, label: 'a text of several fields…' }];
});
const TEXT = ' text';
const known = computed(() => form.value.known ?? draft.tables.get(form.value.table)?.shown ?? likelyKnown(form.value));
function setKnown(value: string): void {
  if (value !== TEXT) return set({ known: value });
  const last = form.value.pages.at(-1)?.sections.at(-1);
  if (!last) return;
  const named = Object.entries(form.value.fields).filter(([, f]) => f.column && f.type === 'text').slice(0, 2).map(([k]) => `{${k}}`); // prettier-ignore
  const { form: added, key } = addField(form.value, last.id, 'Name of the record', 'text');
  const value_ = valueSchema.parse({ kind: 'calculation', formula: `TEMPLATE("${named.join(' ') || '…'}")` });
  // it is saved and not shown: people see it where the record is named
  draft.change({ ...changeField(added, key, { value: value_, shown: 'FALSE' }), known: key });
  draft.selected = key;
}
const set = (change: Partial<typeof form.value>): void => draft.change({ ...form.value, ...change });
const fieldCount = computed(() => Object.keys(form.value.fields).length);
</script>

<template>
  <div class="pad">
    <label
      ><span class="label">Name of the form</span
      ><TextEdit
        :value="form.label"
        @change="set({ label: ($event.target as HTMLInputElement).value.trim() || form.label })"
        @keydown.enter="($event.target as HTMLInputElement).blur()"
    /></label>
    <p>
      {{ fieldCount }} {{ fieldCount === 1 ? 'field' : 'fields' }}, saved in
      <NuxtLink :to="`/design/tables/${form.table}`">{{ draft.tables.get(form.table)?.label ?? form.table }}</NuxtLink>.
    </p>
    <p class="sentence">
      Its records are called by
      <PickWord :value="known" :options="knownChoices" label="Called by" empty="nothing yet" @pick="setKnown($event ?? '')" />.
    </p>
    <p class="sentence">
      An entry may be opened under <PickWord :value="form.parent" :options="parents" label="Parent" @pick="set({ parent: $event })" />.
      <span v-if="form.parent" class="muted"
        >Formulas then read it as <code>parent</code>, such as <code>parent.{{ draft.tables.get(form.parent)?.shown ?? 'name' }}</code
        >.</span
      >
    </p>
    <section>
      <h3>Checks of the whole form</h3>
      <CheckList :checks="form.checks" place="@" :label="form.label" @change="set({ checks: $event })" />
    </section>
    <FormRightsPart />
    <OwnersPart />
    <ValueMaps />
    <slot />
  </div>
</template>

<style scoped>
.pad {
  padding: 16px 18px;
  display: grid;
  gap: 12px;
}
</style>
