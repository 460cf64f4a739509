<script setup lang="ts">
import { addLineField, changeLines, removeField } from '~~/core/form/edit.ts';
import { type Lines } from '~~/core/form/definition.ts';
import { COLUMN_TYPES, COLUMN_TYPE_LABELS, type ColumnType } from '~~/core/form/tables.ts';
import { YESNO } from '~~/core/formula/types.ts';

/* The wiring of lines as a whole: where they are kept, their fields from left to right, when they are shown. */
const props = defineProps<{ name: string }>();
const draft = useTheDraft();
const form = computed(() => draft.form.value!);
const lines = computed(() => form.value.lines[props.name]!);
const set = (change: Partial<Lines>): void => draft.change(changeLines(form.value, props.name, change));
const problems = computed(() => draft.problems.value.filter((p) => p.field === props.name));
const table = computed(() => draft.tables.value.get(lines.value.table));
const numbers = computed(() => [
  ...(table.value?.columns ?? []).filter((c) => c.type === 'number').map((c) => ({ value: c.key, label: c.label.toLowerCase() })),
  { value: '', label: 'when each was added' },
]);
const STARTS = [0, 1, 2, 3, 5, 10].map((n) => ({ value: n, label: n === 0 ? 'no line' : n === 1 ? 'one blank line' : `${n} blank lines` }));
const newLabel = ref('');
const newType = ref<ColumnType>('number');
function add(): void {
  const label = newLabel.value.trim();
  if (!label) return;
  const { form: next, path } = addLineField(form.value, props.name, label, newType.value);
  draft.change(next);
  newLabel.value = '';
  draft.selected.value = path;
}
const whole = computed(() => Object.keys(lines.value.fields).map((k) => `${props.name}.${k}`));
</script>

<template>
  <div class="wiring">
    <header>
      <TextEdit
        class="title"
        :value="lines.label"
        aria-label="Label of the lines"
        @change="set({ label: ($event.target as HTMLInputElement).value.trim() || lines.label })"
      />
      <p class="muted">
        <code>{{ name }}</code> are lines kept in <b>{{ table?.label ?? lines.table }}</b>, each linked to its record by
        <b>{{ lines.link }}</b>, in the order of
        <PickWord :value="lines.order ?? ''" :options="numbers" label="Order" @pick="set({ order: $event || null })" />. A new entry starts
        with <PickWord :value="lines.start" :options="STARTS" label="Lines at the start" @pick="set({ start: $event })" />.
      </p>
    </header>
    <ul v-if="problems.length" class="problems">
      <li v-for="(p, i) in problems" :key="i" class="note" :class="{ bad: p.severity === 'error' }">{{ p.message }}</li>
    </ul>
    <section>
      <h3>Fields, from left to right</h3>
      <ul>
        <li v-for="k in lines.columns" :key="k">
          <button class="word" type="button" @click="draft.selected.value = `${name}.${k}`">{{ lines.fields[k]?.label }}</button>
          <span class="muted"> {{ COLUMN_TYPE_LABELS[lines.fields[k]!.type].toLowerCase() }}</span>
        </li>
      </ul>
      <form class="adder" @submit.prevent="add">
        <input v-model="newLabel" class="in" placeholder="Label of the field" aria-label="Label of the new field of lines" />
        <select v-model="newType" class="in" aria-label="Type of the new field of lines">
          <option v-for="t in COLUMN_TYPES" :key="t" :value="t">{{ COLUMN_TYPE_LABELS[t] }}</option>
        </select>
        <button class="btn act small" type="submit" :disabled="!newLabel.trim()">Add</button>
      </form>
      <p class="muted small">
        A formula of a line names its own fields first, then those of the form. The form reads all lines at once:
        <code>SUM({{ whole[0] ?? `${name}.…` }})</code>.
      </p>
    </section>
    <section>
      <h3>State</h3>
      <p>
        Shown
        <FormulaWord
          :key="name"
          :text="lines.shown ?? ''"
          placeholder="always"
          :expected="YESNO"
          label="Lines shown when"
          :place="`${name} shown`"
          @change="set({ shown: $event || null })"
        />
      </p>
    </section>
    <footer>
      <button class="btn small danger" type="button" @click="(draft.change(removeField(form, name)), (draft.selected.value = null))">
        <i class="pi pi-trash" aria-hidden="true" /> Remove these lines
      </button>
      <span class="muted small">The rows in {{ table?.label ?? lines.table }} stay.</span>
    </footer>
  </div>
</template>

<style scoped>
.wiring {
  padding: 12px 18px 32px;
  font-size: 15px;
  line-height: 1.6;
}
.title {
  width: 100%;
  font-size: 20px;
  font-weight: 700;
  border: 0;
  border-bottom: 1px solid transparent;
  background: none;
  padding: 2px 0;
}
header .muted {
  font-size: 13px;
  line-height: 1.7;
}
section {
  border-top: 1px solid var(--line);
  padding: 9px 0 10px;
}
h3 {
  font-size: 12.5px;
  padding-bottom: 3px;
}
.adder {
  display: grid;
  grid-template-columns: 1fr 130px auto;
  gap: 8px;
  padding: 8px 0;
}
.small {
  font-size: 13px;
}
footer {
  border-top: 1px solid var(--line);
  padding-top: 12px;
  display: flex;
  gap: 10px;
  align-items: center;
}
</style>
