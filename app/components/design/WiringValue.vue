<script setup lang="ts">
import { fieldAt } from '~~/core/form/definition.ts';
import { changeField } from '~~/core/form/edit.ts';
import { FILL_NAMES, type FieldValue, type FillName, givesOnce } from '~~/core/form/fills/index.ts';
import { valueSchema } from '~~/core/form/fills/schemas.ts';
import { constantIn } from './conditionChoices';
import { FILL_SCREENS } from './fills';
import { quoted, useFixedChoices } from './fixedChoices';
import { inQuotes } from '~~/core/values/text.ts';
import { fits } from '~~/core/values/typing.ts';

/* What fills a field: nothing, a default, a prefill or a calculation. */
const props = defineProps<{ name: string }>();
const draft = useDraft();
const field = computed(() => fieldAt(draft.form!, props.name)!);
const planField = computed(() => draft.plan!.fields[draft.plan!.slots.get(props.name) ?? 0]!);
const value = computed(() => field.value.value);
const fresh = ref(false);

const KINDS = [{ value: 'none' as const, label: 'is left empty', note: 'to be typed or chosen' }, ...FILL_NAMES.map((value) => ({ value, ...FILL_SCREENS[value] }))]; // prettier-ignore
function setKind(kind: FillName | 'none'): void {
  const formula = value.value?.formula ?? (kind !== 'none' && givesOnce({ value: { kind } }) ? likeliest.value : '');
  fresh.value = formula === '' && kind !== 'none';
  draft.change(changeField(draft.form!, props.name, { value: kind === 'none' ? null : valueSchema.parse({ kind, formula }) }));
}
const put = (change: Partial<FieldValue>): void => {
  if (value.value) draft.change(changeField(draft.form!, props.name, { value: { ...value.value, ...change } as FieldValue }));
};
/** What a default begins with; a text with holes is only a sketch, and no default. */
const likeliest = computed(() => starters.value.find((s) => !s.value.startsWith('TEMPLATE('))?.value ?? '');
/** A list of this many is offered whole. */
const FEW = 4;
const fixed = useFixedChoices(() => props.name);
const { options } = fixed;
const fixedColumn = fixed.column;
/** Suggestions stand there until something else was written: nothing yet, or one of them. */
const suggests = computed(() => {
  const now = value.value?.formula ?? '';
  return now === '' || (givesOnce(field.value) && starters.value.some((s) => s.value === now));
});
const choosing = ref(false);
watch(() => [props.name, value.value?.kind], () => (choosing.value = false)); // prettier-ignore
function takeFixed(text: string): void {
  choosing.value = false;
  take(fixed.formulaOf(text));
}
/** How often a formula was taken instead of written: the editor that stood open for it goes. */
const taken = ref(0);
function take(formula: string): void {
  fresh.value = false;
  taken.value++;
  put({ formula });
}
/** The fixed value that stands here, when the field’s list does not have it. */
const misses = computed(() => {
  const constant = /^\s*"/.test(value.value?.formula ?? '') ? constantIn(value.value?.formula ?? '') : null;
  return constant !== null && options.value && !options.value.some((o) => o.value === constant) ? constant : null;
});
/** The fixed text that stands here, or that a row is picked by: it is looked up in its column. */
const fixedText = computed(() => {
  const formula = value.value?.formula ?? '';
  const text = /^\s*"/.test(formula) ? formula : /^PICK\(\w+, choice\.\w+ = ("(?:[^"]|"")*")\)$/.exec(formula)?.[1];
  return text && !options.value ? constantIn(text) : null;
});
/** Formulas to start from: constants of the type for a default, columns of chosen rows for a prefill. */
const starters = computed(() => {
  const { type } = planField.value;
  const list: { value: string; label: string }[] = [];
  if (type.kind === 'date') list.push({ value: 'TODAY()', label: 'today' }, { value: 'TODAY() + 7', label: 'in a week' });
  if (type.kind === 'datetime') list.push({ value: 'NOW()', label: 'now' });
  if (type.kind === 'row' && type.table === 'people') list.push({ value: 'me', label: 'the person signed in' });
  if (type.kind === 'number') list.push({ value: `NEXTNUMBER("${draft.formKey}")`, label: 'the next number of a series' });
  // what will only be a column once the form is published has no last value
  const saved = draft.tables.get(draft.form!.table)?.columns.some((c) => c.key === field.value.column);
  if (saved && givesOnce(field.value) && draft.scope?.bindings.has('last') && !props.name.includes('.'))
    list.push({ value: `last.${field.value.column}`, label: 'what I entered last' });
  if (type.kind === 'text')
    list.push({ value: 'TEMPLATE("… {' + (Object.keys(draft.form!.fields)[0] ?? 'name') + '} …")', label: 'a text with holes' });
  if (type.kind === 'yesno') list.push({ value: 'FALSE', label: 'no' }, { value: 'TRUE', label: 'yes' });
  // a few are offered at once; of many, one is looked for
  if (type.kind === 'choice' && options.value && options.value.length <= FEW)
    for (const o of options.value) list.push({ value: quoted(o.value), label: o.label });
  for (const [key, binding] of draft.scope!.bindings) {
    if (binding.type.kind !== 'row' || key === props.name || binding.source.kind !== 'slot') continue;
    for (const c of draft.scope!.tables.get(binding.type.table)?.columns.values() ?? []) {
      const alike = c.key === props.name || c.label.toLowerCase() === field.value.label.toLowerCase();
      if (c.key !== 'id' && fits(type, c.type) && (alike || type.kind !== 'text'))
        list.push({ value: `${key}.${c.key}`, label: `${binding.label}’s ${c.label.toLowerCase()}` });
    }
  }
  const likely = (o: { value: string }): number => (o.value.endsWith(`.${props.name}`) ? 0 : 1);
  return list.sort((a, b) => likely(a) - likely(b)).slice(0, 8);
});
</script>

<template>
  <p>
    {{ field.label }} <PickWord :value="value?.kind ?? 'none'" :options="KINDS" label="How it fills" @pick="setKind" /><template
      v-if="value"
      >{{ ' ' }}
      <FormulaWord
        :key="`${name} ${value.kind} ${taken}`"
        :text="value.formula"
        :expected="planField.type"
        :label="`${field.label}: formula`"
        :place="`${name} value`"
        :start-open="fresh"
        @change="(put({ formula: $event }), (fresh = false))"
      /> </template
    >.
    <FixedMark v-if="fixedText !== null && fixedColumn" :text="fixedText" :column="fixedColumn" />
    <component :is="FILL_SCREENS[value.kind].part" v-if="value" :fill="value" @set="put" />
    <template v-if="value">{{ ' ' }}<KeptMark :field="name" /></template>
  </p>
  <p v-if="misses !== null" class="bad small" role="note">
    {{ inQuotes(misses) }} is not in the list of {{ field.label }}, so it would be refused.
  </p>
  <p v-if="choosing">
    <FixedValue
      value=""
      :options="options"
      :column="fixedColumn"
      :label="`Fixed value of ${field.label}`"
      @take="takeFixed"
      @cancel="choosing = false"
    />
  </p>
  <p v-else-if="value && suggests && (starters.length || fixedColumn || options)" class="starters">
    <Button v-for="s in starters" :key="s.value" size="small" severity="warn" @click="take(s.value)">
      {{ s.label }}
    </Button>
    <Button
      v-if="fixedColumn || (options && options.length > FEW)"
      size="small"
      severity="warn"
      @click="((choosing = true), (fresh = false))"
    >
      one of its choices…
    </Button>
  </p>
</template>

<style scoped>
.small {
  font-size: 13px;
}
.starters {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  padding-top: 6px;
}
</style>
