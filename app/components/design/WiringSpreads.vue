<script setup lang="ts">
import { isLockedByFill } from '~~/core/form/fills/index.ts';
import { type Field, fieldAt } from '~~/core/form/definition.ts';
import { changeField } from '~~/core/form/edit.ts';
import { YESNO } from '~~/core/values/typing.ts';
import { useFixedChoices } from './fixedChoices';

/* What a change of this field, made by hand, sets or clears in others; and whether the next entry starts with it. */
const props = defineProps<{ name: string }>();
const draft = useDraft();
const field = computed(() => fieldAt(draft.form!, props.name)!);
type Spread = Field['spreads'][number];
const set = (spreads: readonly Spread[]): void => draft.change(changeField(draft.form!, props.name, { spreads: [...spreads] }));
const put = (i: number, change: Partial<Spread>): void => set(field.value.spreads.map((s, j) => (i === j ? { ...s, ...change } : s)));

const own = computed(() => props.name.split('.').at(-1)!);
/** The fields beside this one that a person fills: in the form, or in the same line. */
const targets = computed(() => {
  const [lines = '', inner] = props.name.split('.');
  const fields = inner === undefined ? draft.form!.fields : (draft.form!.lines[lines]?.fields ?? {});
  return Object.entries(fields)
    .filter(([k, f]) => k !== own.value && !isLockedByFill(f))
    .map(([value, f]) => ({ value, label: f.label }));
});
const typeOf = (key: string) => draft.scope!.bindings.get(key)?.type ?? null;
const DOES = [
  { value: 'clear', label: 'clears' },
  { value: 'set', label: 'sets' },
] as const;
const WHEN = [
  { value: 'always', label: 'always' },
  { value: 'when', label: 'only when' },
] as const;
const opened = ref(-1);
function does(i: number, what: 'clear' | 'set'): void {
  opened.value = what === 'set' ? i : -1;
  put(i, { formula: what === 'clear' ? null : own.value });
}
/** the one whose fixed value is being chosen */
const choosing = ref(-1);
watch(() => props.name, () => (choosing.value = -1)); // prettier-ignore
/** Beside it in the form, or in the same line. */
const besides = (key: string): string => [...props.name.split('.').slice(0, -1), key].join('.');
const fixed = useFixedChoices(() => besides(field.value.spreads[choosing.value]?.field ?? own.value));
const hasChoices = (key: string): boolean => fieldAt(draft.form!, besides(key))?.source !== null;
function takeFixed(i: number, text: string): void {
  const formula = fixed.formulaOf(text);
  choosing.value = -1;
  opened.value = -1;
  put(i, { formula });
}
function add(): void {
  const first = targets.value.find((t) => !field.value.spreads.some((s) => s.field === t.value)) ?? targets.value[0];
  if (first) set([...field.value.spreads, { field: first.value, formula: null, when: null }]);
}
const CARRY = [
  { value: false, label: 'starts afresh' },
  { value: true, label: 'keeps this value' },
] as const;
const carry = CARRY.map((c) => ({ value: String(c.value), label: c.label }));
</script>

<template>
  <div v-for="(s, i) in field.spreads" :key="i">
    When somebody changes it, it
    <PickWord :value="s.formula === null ? 'clear' : 'set'" :options="DOES" label="Does" @pick="does(i, $event)" />{{ ' ' }}
    <PickWord :value="s.field" :options="targets" label="Field" @pick="put(i, { field: $event })" /><template v-if="s.formula !== null">
      to
      <FormulaWord
        :key="`${name} ${i} ${s.field} ${s.formula}`"
        :text="s.formula"
        :expected="typeOf(s.field)"
        label="Set to"
        :place="`${name} spreads.${i}`"
        :start-open="opened === i"
        @change="(put(i, { formula: $event }), (opened = -1))"
      /><template v-if="hasChoices(s.field)"
        >{{ ' '
        }}<FixedValue
          v-if="choosing === i"
          value=""
          :options="fixed.options.value"
          :column="fixed.column.value"
          :label="`Fixed value of ${targets.find((t) => t.value === s.field)?.label ?? s.field}`"
          @take="takeFixed(i, $event)"
          @cancel="choosing = -1"
        /><Button v-else link severity="secondary" @click="((choosing = i), (opened = -1))">one of its choices…</Button></template
      ></template
    >,
    <PickWord
      :value="s.when === null ? 'always' : 'when'"
      :options="WHEN"
      label="When"
      @pick="put(i, { when: $event === 'always' ? null : 'TRUE' })"
    /><template v-if="s.when !== null"
      >{{ ' '
      }}<FormulaWord
        :key="`${name} ${i} when`"
        :text="s.when"
        :expected="YESNO"
        label="Condition"
        :place="`${name} spreads.${i}.when`"
        @change="put(i, { when: $event })" /></template
    >.
    <Button link severity="secondary" @click="set(field.spreads.filter((_, j) => j !== i))">remove</Button>
  </div>
  <Button v-if="targets.length" link @click="add">+ set or clear another field</Button>
  <p v-if="field.column && !isLockedByFill(field) && !name.includes('.')">
    After “Save and next” it
    <PickWord
      :value="String(field.carry)"
      :options="carry"
      label="Next entry"
      @pick="draft.change(changeField(draft.form!, name, { carry: $event === 'true' }))"
    />.
  </p>
</template>
