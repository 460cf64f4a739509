<script setup lang="ts">
import { fieldOrder } from '~~/core/form/definition.ts';
import { newEffect } from '~~/core/form/editRules.ts';
import { isLockedByFill } from '~~/core/form/fills/index.ts';
import type { RuleEffect } from '~~/core/form/rules.ts';

/* What a rule does in one of its branches, one sentence each, in order. */
const props = defineProps<{ effects: readonly RuleEffect[]; place: string; branch: 'then' | 'otherwise' }>();
const emit = defineEmits<{ change: [effects: RuleEffect[]] }>();
const draft = useDraft();
const form = computed(() => draft.form!);
const KINDS = computed<readonly { value: RuleEffect['kind']; label: string; note?: string }[]>(() => [
  { value: 'show', label: 'show', note: 'follows the condition' },
  { value: 'hide', label: 'hide', note: 'follows the condition' },
  { value: 'require', label: 'require', note: 'follows the condition' },
  { value: 'lock', label: 'make read-only', note: 'follows the condition' },
  { value: 'message', label: 'say', note: 'follows the condition' },
  { value: 'set', label: 'set', note: 'at its moments' },
  { value: 'clear', label: 'clear', note: 'at its moments' },
  ...(form.value.steps || props.effects.some((e) => e.kind === 'step') ? [{ value: 'step' as const, label: 'move to the step', note: 'at its moments' }] : []), // prettier-ignore
  { value: 'addLine', label: 'add a line to', note: 'at its moments' },
]);
const steps = computed(() => form.value.steps?.list.map(({ value, label }) => ({ value, label })) ?? []);
/** What an effect is about, where that is a field. */
const aboutOf = (e: RuleEffect): string | null => (e.kind === 'addLine' || e.kind === 'step' ? null : e.field);
const inLines = computed(() =>
  Object.entries(form.value.lines).flatMap(([key, l]) => l.columns.map((c) => ({ value: `${key}.${c}`, label: `${l.label} › ${l.fields[c]?.label ?? c}` }))),
); // prettier-ignore
const lines = computed(() => Object.entries(form.value.lines).map(([value, l]) => ({ value, label: l.label })));
const fields = computed(() => fieldOrder(form.value).map((value) => ({ value, label: form.value.fields[value]!.label })));
const sections = computed(() =>
  form.value.pages.flatMap((p) => p.sections.map((s) => ({ value: `@${s.id}`, label: `the section ${s.label || s.id}` }))),
);
/** What can be shown, hidden, required, locked, spoken of. */
const places = computed(() => [...fields.value, ...lines.value, ...inLines.value, ...sections.value]);
const messagePlaces = computed(() => [{ value: '', label: 'the whole form' }, ...fields.value, ...inLines.value, ...sections.value]);
/** What a rule can set: not what its formula alone fills. */
const settable = computed(() => fields.value.filter((f) => !isLockedByFill(form.value.fields[f.value]!)));
type Placed = Extract<RuleEffect, { section: string | null }>;
const placeOf = (e: Placed): string => e.field ?? (e.section === null ? '' : `@${e.section}`);
const withPlace = <E extends Placed>(e: E, value: string): E => ({
  ...e,
  field: value === '' || value.startsWith('@') ? null : value,
  section: value.startsWith('@') ? value.slice(1) : null,
});
const put = (i: number, effect: RuleEffect): void =>
  emit(
    'change',
    props.effects.map((e, j) => (i === j ? effect : e)),
  );
const drop = (i: number): void => emit('change', props.effects.filter((_, j) => j !== i)); // prettier-ignore
/** Another kind of effect about the same thing. */
function setKind(i: number, effect: RuleEffect, kind: RuleEffect['kind']): void {
  const about = aboutOf(effect);
  const field = kind === 'set' || kind === 'clear' ? (settable.value.find((f) => f.value === about) ?? settable.value[0])?.value : about;
  const made = newEffect(kind, field ?? null, lines.value[0]?.value ?? null);
  put(i, 'section' in effect && 'section' in made ? { ...made, section: effect.section } : made);
  if (kind === 'set') opened.value = i;
}
const list = ref<HTMLElement>();
const opened = ref(-1);
watch(() => props.place, () => (opened.value = -1)); // prettier-ignore
function add(): void {
  const used = new Set(props.effects.map(aboutOf));
  const first = fields.value.find((f) => !used.has(f.value)) ?? fields.value[0];
  emit('change', [...props.effects, newEffect(props.branch === 'then' ? 'show' : 'hide', first?.value ?? null, null)]);
  // the keys go on where it is said what it does
  void nextTick(() => [...(list.value?.querySelectorAll<HTMLElement>('.effect') ?? [])].at(-1)?.querySelector('button')?.focus());
}
const HIDDEN = [
  { value: 'own', label: 'its value as the field says' },
  { value: 'keep', label: 'its value kept' },
  { value: 'clear', label: 'its value emptied' },
] as const;
const SEVERITY = [
  { value: 'warning', label: 'as a warning' },
  { value: 'error', label: 'and refuse to save' },
] as const;
const ONCE = [
  { value: 'each', label: 'each time' },
  { value: 'once', label: 'only while it is empty' },
] as const;
const typeOf = (key: string) => draft.scope!.bindings.get(key)?.type ?? null;
const lineFields = (key: string) => Object.entries(form.value.lines[key]?.fields ?? {}).filter(([, f]) => !isLockedByFill(f)).map(([value, f]) => ({ value, label: f.label })); // prettier-ignore
const lineType = (key: string, field: string) => draft.plan?.fields[draft.plan.slots.get(`${key}.${field}`) ?? -1]?.type ?? null;
</script>

<template>
  <ul ref="list" class="effects">
    <li v-for="(e, i) in effects" :key="i" class="effect">
      <PickWord :value="e.kind" :options="KINDS" label="Effect" @pick="setKind(i, e, $event)" />{{ ' '
      }}<template v-if="e.kind === 'show' || e.kind === 'hide' || e.kind === 'require' || e.kind === 'lock'"
        ><PickWord :value="placeOf(e)" :options="places" label="Of" empty="choose a field" @pick="put(i, withPlace(e, $event))" /><template
          v-if="e.kind === 'hide'"
          >,
          <PickWord :value="e.hiddenValue" :options="HIDDEN" label="When hidden" @pick="put(i, { ...e, hiddenValue: $event })" /></template
      ></template>
      <template v-else-if="e.kind === 'message'"
        ><WordsEdit
          :words="e.message"
          label="Message"
          required
          :place="`${place} ${branch}.${i}`"
          @change="$event !== null && $event !== '' && put(i, { ...e, message: $event })" />at
        <PickWord :value="placeOf(e)" :options="messagePlaces" label="At" @pick="put(i, withPlace(e, $event))" />{{ ' '
        }}<PickWord :value="e.severity" :options="SEVERITY" label="Severity" @pick="put(i, { ...e, severity: $event })"
      /></template>
      <template v-else-if="e.kind === 'set'"
        ><PickWord :value="e.field" :options="settable" label="Field" @pick="put(i, { ...e, field: $event })" /> to
        <FormulaWord
          :key="`${place} ${branch} ${i} ${e.field}`"
          :text="e.formula"
          :expected="typeOf(e.field)"
          label="Set to"
          :place="`${place} ${branch}.${i}`"
          :start-open="opened === i"
          @change="(put(i, { ...e, formula: $event }), (opened = -1))" />,
        <PickWord :value="e.once ? 'once' : 'each'" :options="ONCE" label="How often" @pick="put(i, { ...e, once: $event === 'once' })"
      /></template>
      <PickWord v-else-if="e.kind === 'clear'" :value="e.field" :options="settable" label="Field" @pick="put(i, { ...e, field: $event })" />
      <PickWord
        v-else-if="e.kind === 'step'"
        :value="e.to"
        :options="steps"
        label="Step"
        empty="choose a step"
        @pick="put(i, { ...e, to: $event })"
      />
      <template v-else
        ><PickWord
          :value="e.lines"
          :options="lines"
          label="Lines"
          empty="no lines yet"
          @pick="put(i, { ...e, lines: $event, values: {} })" /><template v-for="(text, key) in e.values" :key="key"
          >, {{ form.lines[e.lines]?.fields[key]?.label ?? key }}
          <FormulaWord
            :text="text"
            :expected="lineType(e.lines, String(key))"
            :label="`Value of ${key}`"
            :place="`${place} ${branch}.${i}.${key}`"
            @change="put(i, { ...e, values: { ...e.values, [key]: $event } })" /></template
        >{{ ' '
        }}<PickWord
          :value="''"
          text="+ value"
          :options="lineFields(e.lines)"
          label="Fill in the line"
          @pick="put(i, { ...e, values: { ...e.values, [$event]: '' } })" /></template
      >. <Button link severity="secondary" :aria-label="`Remove effect ${i + 1}`" @click="drop(i)">remove</Button>
    </li>
    <li><Button link severity="secondary" @click="add">+ effect</Button></li>
  </ul>
</template>

<style scoped>
.effects {
  display: grid;
  gap: 4px;
}
</style>
