<script setup lang="ts">
import { fieldAt } from '~~/core/form/definition.ts';
import { changeField, changeType, nudgeLineField, removeField } from '~~/core/form/edit.ts';
import type { Field } from '~~/core/form/definition.ts';
import { COLUMN_TYPES, COLUMN_TYPE_LABELS, type ColumnType } from '~~/core/model/tables.ts';
import { type FieldFormat, FORMATS_OF } from '~~/core/values/show.ts';
import { typeInWords } from '~~/core/values/typing.ts';

/* The wiring of one field: what it is, offers, holds and does, as sentences whose words can be exchanged. */
const props = defineProps<{ name: string }>();
const draft = useDraft();
const tryout = useTryout();
const form = computed(() => draft.form!);
const field = computed(() => fieldAt(form.value, props.name) as Field);
const lines = computed(() => (props.name.includes('.') ? form.value.lines[props.name.split('.')[0]!] : undefined));
const tableKey = computed(() => lines.value?.table ?? form.value.table);
const table = computed(() => draft.tables.get(tableKey.value));
const planField = computed(() => draft.plan!.fields[draft.plan!.slots.get(props.name) ?? 0]!);
const hole = computed(() => `{${props.name.split('.').at(-1)}}`);
const SAID = [
  { part: 'called', label: 'Label' },
  { part: 'hint', label: 'Hint' },
  { part: 'placeholder', label: 'In the empty field' },
] as const;
const set = (change: Partial<Field>): void => draft.change(changeField(form.value, props.name, change));

const label = ref('');
watchEffect(() => (label.value = field.value?.label ?? ''));
function rename(): void {
  const text = label.value.trim();
  if (text) set({ label: text });
  else label.value = field.value.label;
}
const own = computed(() => props.name.split('.').at(-1)!);
const { nameProblem, renameTo, NAME_NOTE } = useFieldName(() => props.name);
const types = COLUMN_TYPES.map((value) => ({
  value,
  label: COLUMN_LOOKS[value].called ?? `a ${COLUMN_TYPE_LABELS[value].toLowerCase()}`,
}));
function retype(type: ColumnType): void {
  const column = table.value?.columns.find((c) => c.key === field.value.column);
  draft.change(changeType(form.value, props.name, type, !column || column.type === type));
}
/** Columns this field could be saved in: those of its type that no other field has, a new one, or none. */
const columns = computed(() => {
  const fields = lines.value?.fields ?? form.value.fields;
  const used = new Set([
    ...Object.entries(fields)
      .filter(([k]) => k !== own.value)
      .map(([, f]) => f.column),
    ...(lines.value ? [lines.value.link, lines.value.order] : []),
  ]);
  const fitting = (table.value?.columns ?? []).filter((c) => c.type === field.value.type && !used.has(c.key));
  const list: { value: string | null; label: string; note?: string }[] = fitting.map((c) => ({ value: c.key, label: c.key }));
  const fresh = own.value;
  const known = table.value?.columns.some((c) => c.key === fresh);
  if (!known && !used.has(fresh)) list.push({ value: fresh, label: fresh, note: 'new column' });
  if (field.value.column && !list.some((o) => o.value === field.value.column))
    list.unshift({ value: field.value.column, label: field.value.column });
  list.push({ value: null, label: 'nowhere', note: 'scratch field' });
  return list;
});
const isNew = computed(() => field.value.column !== null && !table.value?.columns.some((c) => c.key === field.value.column));
const offered = computed(() => {
  const { offer } = tryout.viewAt(props.name);
  return offer?.status === 'ready' ? `${offer.total.toLocaleString(LOCALE)}${offer.capped ? '+' : ''} offered now` : '';
});
const problems = computed(() => draft.problems.filter((p) => p.field === props.name));
const chooses = computed(() => COLUMN_LOOKS[field.value.type].control === 'choice');
const FORMAT_WORDS: Readonly<Record<FieldFormat, string>> = {
  long: 'as 1 March 2026',
  weekday: 'as Sun, 1 Mar 2026',
  iso: 'as 2026-03-01',
  seconds: 'with seconds',
  plain: 'without separators: 1234567',
  grouped: 'always in groups: 1,234',
};
const formats = computed(() => [
  { value: null as FieldFormat | null, label: 'as everywhere' },
  ...(FORMATS_OF[field.value.type] ?? []).map((value) => ({ value: value as FieldFormat | null, label: FORMAT_WORDS[value] })),
]);
const WIDTHS = [
  { value: 'narrow', label: 'narrow' },
  { value: 'usual', label: 'of usual width' },
  { value: 'wide', label: 'as wide as there is room' },
] as const;
const decimals = [{ value: -1, label: 'any number of' }, ...[0, 1, 2, 3, 4, 5, 6].map((n) => ({ value: n, label: String(n) }))];
const dependents = computed(() => {
  const plan = draft.plan!;
  return plan.fields.filter((f) => plan.drivers[f.slot]?.some((d) => d.slot === planField.value.slot)).map((f) => f.definition.label);
});
/** What removing the field touches, once it was asked; it is told before it is done. */
const removing = ref<{ filled: number } | null>(null);
async function remove(): Promise<void> {
  if (!removing.value) {
    const { column } = field.value;
    const held = column !== null && !isNew.value ? await api.tables.filled({ key: tableKey.value, column }).catch(() => null) : null;
    const asked = { filled: held?.filled ?? 0 };
    if (dependents.value.length || asked.filled) {
      removing.value = asked;
      return;
    }
  }
  draft.change(removeField(form.value, props.name));
  draft.selected = null;
}
watch(() => props.name, () => (removing.value = null)); // prettier-ignore
</script>

<template>
  <div v-if="field" class="wiring">
    <header>
      <InputText
        v-model="label"
        class="bare title"
        aria-label="Label of the field"
        @change="rename"
        @keydown.enter="($event.target as HTMLInputElement).blur()"
      />
      <p class="muted">
        <NameWord :name="own" of="the field" :note="NAME_NOTE" :problem="nameProblem" :rename="renameTo" /> holds
        <PickWord :value="field.type" :options="types" label="Type" @pick="retype" />, saved in
        <PickWord
          :value="field.column"
          :options="columns"
          label="Column"
          :text="field.column ? `${tableKey}.${field.column}` : undefined"
          @pick="set({ column: $event })"
        />
        <Tag v-if="isNew" severity="warn">new on publishing</Tag
        ><template v-if="lines">
          of a line of <Button link @click="draft.selected = name.split('.')[0]!">{{ lines.label }}</Button>
          <IconButton
            aria-label="Move the column to the left"
            icon="pi pi-arrow-left"
            @click="draft.change(nudgeLineField(form, name, -1))" /><IconButton
            aria-label="Move the column to the right"
            icon="pi pi-arrow-right"
            @click="draft.change(nudgeLineField(form, name, 1))" /></template
        ><template v-if="offered"> · {{ offered }}</template>
        <template v-if="field.type === 'number'">
          with
          <PickWord
            :value="field.decimals ?? -1"
            :options="decimals"
            label="Decimals"
            @pick="set({ decimals: $event < 0 ? null : $event })"
          />
          decimals</template
        ><template v-if="COLUMN_LOOKS[field.type].control === 'file'"
          >, accepts
          <TextEdit
            class="accept"
            size="small"
            :value="field.accept.join(', ')"
            placeholder="every kind"
            aria-label="Kinds accepted, as endings"
            @change="
              set({
                accept: ($event.target as HTMLInputElement).value
                  .toLowerCase()
                  .split(/[\s,.;]+/)
                  .filter((k) => /^[a-z0-9]{1,8}$/.test(k)),
              })
            " /></template
        ><template v-if="field.type === 'files'">, <FilesLimits :files="field.files" @change="set({ files: $event })" /></template
        ><template v-if="formats.length > 1"
          >, shown <PickWord :value="field.format" :options="formats" label="Shown" @pick="set({ format: $event })" /></template
        >; at entry
        <PickWord :value="field.width" :options="WIDTHS" label="Width" @pick="set({ width: $event })" />
      </p>
    </header>
    <ul v-if="problems.length" class="problems">
      <li v-for="(p, i) in problems" :key="i" class="note" :class="{ bad: p.severity === 'error' }">{{ p.message }}</li>
    </ul>
    <WiringChoices v-if="chooses" :name="name" />
    <section>
      <h3>Value</h3>
      <WiringValue :name="name" />
    </section>
    <section>
      <h3>When it changes</h3>
      <WiringSpreads :name="name" />
    </section>
    <section>
      <h3>State</h3>
      <WiringState :name="name" />
    </section>
    <section>
      <h3>Checks</h3>
      <WiringChecks :name="name" />
    </section>
    <section>
      <h3>What it says at entry</h3>
      <div v-for="w in SAID" :key="w.part" class="said">
        <span>{{ w.label }}</span>
        <WordsEdit
          :words="field[w.part]"
          :label="w.label"
          :place="`${name} ${w.part}`"
          :placeholder="w.part === 'called' ? field.label : 'None'"
          @change="set({ [w.part]: $event })"
        />
      </div>
      <p class="muted small">
        Values are written into a text in braces: <code>{{ hole }}</code>.
      </p>
    </section>
    <footer>
      <Note v-if="removing" kind="bad">
        <template v-if="dependents.length"
          >{{ dependents.join(', ') }} {{ dependents.length === 1 ? 'uses' : 'use' }} this field and would then have a problem.
        </template>
        <template v-if="removing.filled"
          >{{ removing.filled.toLocaleString(LOCALE) }} {{ removing.filled === 1 ? 'record has' : 'records have' }} a value in it. They keep
          it, but the form no longer shows it.
        </template>
        Ctrl+Z brings the field back.
      </Note>
      <Button severity="danger" size="small" @click="remove">
        <i class="pi pi-trash" aria-hidden="true" /> {{ removing ? 'Remove it anyway' : 'Remove this field' }}
      </Button>
      <span class="muted"
        >{{ typeInWords(planField.type, (k) => draft.tables.get(k)?.label ?? k)
        }}{{ dependents.length ? `; used by ${dependents.join(', ')}` : '; used by no other field' }}</span
      >
    </footer>
  </div>
</template>

<style scoped>
.said {
  display: grid;
  grid-template-columns: 128px minmax(0, 1fr);
  align-items: baseline;
  gap: 8px;
  padding-bottom: 4px;
}
.wiring {
  padding: 12px 18px 32px;
  font-size: 15px;
  line-height: 1.6;
}
.accept {
  width: 130px;
}
header .muted {
  font-size: 13px;
  line-height: 1.7;
}
.problems {
  display: grid;
  gap: 6px;
  padding: 8px 0;
  font-size: 13.5px;
}
.wiring :deep(section) {
  border-top: 1px solid var(--line);
  padding: 9px 0 10px;
}
.wiring :deep(h3) {
  font-size: 12.5px;
  padding-bottom: 3px;
}
footer {
  border-top: 1px solid var(--line);
  padding-top: 12px;
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
  font-size: 13px;
}
</style>
