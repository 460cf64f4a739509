<script setup lang="ts">
import { addLineField, changeLines, removeField } from '~~/core/form/edit.ts';
import { type Lines } from '~~/core/form/definition.ts';
import { COLUMN_TYPE_LABELS, type ColumnType } from '~~/core/model/tables.ts';

/* The wiring of lines as a whole: where they are kept, their fields from left to right, when they are shown. */
const props = defineProps<{ name: string }>();
const draft = useDraft();
const form = computed(() => draft.form!);
const lines = computed(() => form.value.lines[props.name]!);
const set = (change: Partial<Lines>): void => draft.change(changeLines(form.value, props.name, change));
const problems = computed(() => draft.problems.filter((p) => p.field === props.name));
const table = computed(() => draft.tables.get(lines.value.table));
const numbers = computed(() => [
  ...(table.value?.columns ?? []).filter((c) => c.type === 'number').map((c) => ({ value: c.key, label: c.label.toLowerCase() })),
  { value: '', label: 'when each was added' },
]);
const STARTS = [0, 1, 2, 3, 5, 10].map((n) => ({ value: n, label: n === 0 ? 'no line' : n === 1 ? 'one blank line' : `${n} blank lines` }));
const { nameProblem, renameTo, NAME_NOTE } = useFieldName(() => props.name);
function add(label: string, type: ColumnType): void {
  const { form: next, path } = addLineField(form.value, props.name, label, type);
  draft.change(next);
  draft.selected = path;
}
const HIDDEN = [
  { value: 'keep', label: 'kept' },
  { value: 'clear', label: 'counted and saved as none' },
] as const;
const whole = computed(() => Object.keys(lines.value.fields).map((k) => `${props.name}.${k}`));
</script>

<template>
  <div class="wiring">
    <header>
      <TextEdit
        class="bare title"
        :value="lines.label"
        aria-label="Label of the lines"
        @change="set({ label: ($event.target as HTMLInputElement).value.trim() || lines.label })"
      />
      <p class="muted">
        <NameWord :name="name" of="the lines" :note="NAME_NOTE" :problem="nameProblem" :rename="renameTo" /> are lines saved in
        <b>{{ table?.label ?? lines.table }}</b>, each linked to its record by <b>{{ lines.link }}</b>, in the order of
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
          <Button link @click="draft.selected = `${name}.${k}`">{{ lines.fields[k]?.label }}</Button>
          <span class="muted"> {{ COLUMN_TYPE_LABELS[lines.fields[k]!.type].toLowerCase() }}</span>
        </li>
      </ul>
      <NewField class="adder" of=" of lines" type="number" @add="add" />
      <p class="muted small">
        A formula of a line names its own fields first, then those of the form. The form reads all lines at once:
        <code>SUM({{ whole[0] ?? `${name}.…` }})</code>.
      </p>
    </section>
    <section>
      <h3>State</h3>
      <StateSentence :states="lines" :place="name" :hidden="HIDDEN" :words="{ required: 'At least one line is required' }" @change="set" />
      <AccessSentence :place="name" />
    </section>
    <footer>
      <Button severity="danger" size="small" @click="(draft.change(removeField(form, name)), (draft.selected = null))">
        <i class="pi pi-trash" aria-hidden="true" /> Remove these lines
      </Button>
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
