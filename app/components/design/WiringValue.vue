<script setup lang="ts">
import { fieldAt } from '~~/core/form/definition.ts';
import { changeField } from '~~/core/form/edit.ts';
import { FILL_NAMES, type FieldValue, type FillName, givesOnce, valueSchema } from '~~/core/form/fills/index.ts';
import { FILL_SCREENS } from './fills';
import { fits } from '~~/core/values/typing.ts';

/* What fills a field: nothing, a default, a prefill or a calculation. */
const props = defineProps<{ name: string }>();
const draft = useDraft();
const field = computed(() => fieldAt(draft.form!, props.name)!);
const planField = computed(() => draft.plan!.fields[draft.plan!.slots.get(props.name) ?? 0]!);
const value = computed(() => field.value.value);
const fresh = ref(false);

const KINDS = [{ value: 'none' as const, label: 'empty', note: 'typed or chosen' }, ...FILL_NAMES.map((value) => ({ value, ...FILL_SCREENS[value] }))]; // prettier-ignore
function setKind(kind: FillName | 'none'): void {
  const formula = value.value?.formula ?? (kind !== 'none' && givesOnce({ value: { kind } }) ? (starters.value[0]?.value ?? '') : '');
  fresh.value = formula === '' && kind !== 'none';
  draft.change(changeField(draft.form!, props.name, { value: kind === 'none' ? null : valueSchema.parse({ kind, formula }) }));
}
const put = (change: Partial<FieldValue>): void => {
  if (value.value) draft.change(changeField(draft.form!, props.name, { value: { ...value.value, ...change } as FieldValue }));
};
/** Formulas to start from: constants of the type for a default, columns of chosen rows for a prefill. */
const starters = computed(() => {
  const { type } = planField.value;
  const list: { value: string; label: string }[] = [];
  if (type.kind === 'date') list.push({ value: 'TODAY()', label: 'today' }, { value: 'TODAY() + 7', label: 'in a week' });
  if (type.kind === 'datetime') list.push({ value: 'NOW()', label: 'now' });
  if (type.kind === 'row' && type.table === 'people') list.push({ value: 'me', label: 'the person signed in' });
  if (type.kind === 'number') list.push({ value: `NEXTNUMBER("${draft.formKey}")`, label: 'the next number of a series' });
  if (field.value.column && givesOnce(field.value) && draft.scope?.bindings.has('last') && !props.name.includes('.'))
    list.push({ value: `last.${field.value.column}`, label: 'what I entered last' });
  if (type.kind === 'text')
    list.push({ value: 'TEMPLATE("… {' + (Object.keys(draft.form!.fields)[0] ?? 'name') + '} …")', label: 'a text with holes' });
  if (type.kind === 'yesno') list.push({ value: 'FALSE', label: 'no' }, { value: 'TRUE', label: 'yes' });
  if (type.kind === 'choice')
    for (const o of (type.options ?? []).slice(0, 6)) list.push({ value: `"${o.replaceAll('"', '""')}"`, label: o });
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
    Starts <PickWord :value="value?.kind ?? 'none'" :options="KINDS" label="How it fills" @pick="setKind" /><template v-if="value"
      >:
      <FormulaWord
        :key="`${name} ${value.kind}`"
        :text="value.formula"
        :expected="planField.type"
        :label="`${field.label}: formula`"
        :place="`${name} value`"
        :start-open="fresh"
        @change="(put({ formula: $event }), (fresh = false))"
      /> </template
    >.
    <component :is="FILL_SCREENS[value.kind].part" v-if="value" :fill="value" @set="put" />
  </p>
  <p v-if="value && !value.formula && starters.length" class="starters">
    <Button v-for="s in starters" :key="s.value" size="small" severity="warn" @click="(put({ formula: s.value }), (fresh = false))">
      {{ s.label }}
    </Button>
  </p>
</template>

<style scoped>
.starters {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  padding-top: 6px;
}
</style>
