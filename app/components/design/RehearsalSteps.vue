<script setup lang="ts">
import { fieldAt, placedOrder } from '~~/core/form/definition.ts';
import { type Rehearsal, type RehearsalStep, isExpectation, stepParts, stepWords } from '~~/core/form/rehearsal.ts';
import type { KeptRehearsal, RanRehearsal } from '~/composables/rehearsals';

/* The steps of a rehearsal as sentences, each with what came of it; what was found is expected by one press. */
const props = defineProps<{ kept: KeptRehearsal; ran: RanRehearsal | null }>();
const emit = defineEmits<{ change: [rehearsal: Rehearsal] }>();
const draft = useDraft();
const form = computed(() => draft.form!);
const rehearsal = computed(() => props.kept.rehearsal as Rehearsal);
const steps = computed(() => rehearsal.value.steps);
const setSteps = (to: readonly RehearsalStep[]): void => emit('change', { ...rehearsal.value, steps: [...to] });
const replace = (at: number, step: RehearsalStep): void => setSteps(steps.value.map((s, i) => (i === at ? step : s)));
const remove = (at: number): void => setSteps(steps.value.filter((_, i) => i !== at));
function nudge(at: number, by: -1 | 1): void {
  const to = [...steps.value];
  const [step] = to.splice(at, 1);
  to.splice(at + by, 0, step!);
  setSteps(to);
}
const resultOf = (at: number) => props.ran?.steps.find((s) => s.step === at) ?? null;
/** What of a step can be typed over; null where nothing can. */
function valueOf(step: RehearsalStep): string | null {
  if ('do' in step) return step.do === 'set' ? writtenValue(step.to) : null;
  switch (step.expect) {
    case 'value':
      return writtenValue(step.is);
    case 'offers':
    case 'lines':
      return String(step.count);
    case 'offered':
      return step.choice;
    case 'says':
      return step.message;
    case 'saving':
      return step.refused.join('; ');
    default:
      return null;
  }
}
function withValue(step: RehearsalStep, text: string): RehearsalStep {
  const count = Math.max(0, Math.round(Number(text) || 0));
  if ('do' in step) return step.do === 'set' ? { ...step, to: typedValue(form.value, step.field, text) } : step;
  switch (step.expect) {
    case 'value':
      return { ...step, is: typedValue(form.value, step.field, text) };
    case 'offers':
    case 'lines':
      return { ...step, count };
    case 'offered':
      return { ...step, choice: text };
    case 'says':
      return { ...step, message: text };
    case 'saving':
      return { ...step, refused: text.split(';').map((t) => t.trim()).filter(Boolean) }; // prettier-ignore
    default:
      return step;
  }
}
const headOf = (step: RehearsalStep): string => stepParts(form.value, step).head;

// ---- a step more ----
const paths = computed(() => [
  ...placedOrder(form.value).filter((k) => form.value.fields[k]).map((k) => ({ value: k, label: form.value.fields[k]!.label })),
  ...Object.entries(form.value.lines).flatMap(([g, l]) => l.columns.map((c) => ({ value: `${g}.${c}`, label: `${l.label}: ${l.fields[c]?.label ?? c}` }))),
]); // prettier-ignore
const lines = computed(() => Object.entries(form.value.lines).map(([value, l]) => ({ value, label: l.label })));
const moves = computed(() => (form.value.steps?.moves ?? []).map((m) => ({ value: m.id, label: m.label })));
const KINDS = [
  { value: 'set', label: 'enter or choose', note: 'a value' },
  { value: 'clear', label: 'empty', note: 'a field' },
  { value: 'move', label: 'make a move', note: 'to another step' },
  { value: 'addLine', label: 'add a line' },
  { value: 'value', label: 'expect a value' },
  { value: 'offers', label: 'expect so many choices' },
  { value: 'offered', label: 'expect a choice to be offered' },
  { value: 'notOffered', label: 'expect a choice not to be offered' },
  { value: 'shown', label: 'expect a field to be shown' },
  { value: 'hidden', label: 'expect a field to be hidden' },
  { value: 'required', label: 'expect a field to be required' },
  { value: 'locked', label: 'expect a field to be read-only' },
  { value: 'says', label: 'expect a message' },
  { value: 'saving', label: 'expect of saving' },
] as const;
type Kind = (typeof KINDS)[number]['value'];
const kind = ref<Kind>('set');
const kinds = computed(() =>
  KINDS.filter((k) => (k.value !== 'move' || moves.value.length > 0) && (k.value !== 'addLine' || lines.value.length > 0)),
);
const field = ref<string | null>(null);
const group = ref<string | null>(null);
const move = ref<string | null>(null);
const value = ref('');
const needsField = computed(() => !['move', 'addLine', 'saving'].includes(kind.value));
const needsValue = computed(() => ['set', 'value', 'offers', 'offered', 'notOffered', 'says', 'saving'].includes(kind.value));
const made = computed((): RehearsalStep | null => {
  const at = { field: field.value ?? '' };
  if (kind.value === 'move') return move.value ? { do: 'move', move: move.value } : null;
  if (kind.value === 'addLine') return group.value ? { do: 'addLine', lines: group.value } : null;
  if (kind.value === 'saving') return withValue({ expect: 'saving', refused: [] }, value.value);
  if (!field.value) return null;
  switch (kind.value) {
    case 'set':
      return withValue({ do: 'set', ...at, to: null }, value.value);
    case 'clear':
      return { do: 'clear', ...at };
    case 'value':
      return withValue({ expect: 'value', ...at, is: null }, value.value);
    case 'offers':
      return withValue({ expect: 'offers', ...at, count: 0 }, value.value);
    case 'offered':
    case 'notOffered':
      return value.value.trim() ? { expect: 'offered', ...at, choice: value.value.trim(), is: kind.value === 'offered' } : null;
    case 'hidden':
      return { expect: 'state', ...at, state: 'shown', is: false };
    case 'says':
      return value.value.trim() ? { expect: 'says', ...at, message: value.value.trim() } : null;
    default:
      return { expect: 'state', ...at, state: kind.value, is: true };
  }
});
function add(): void {
  if (!made.value) return;
  setSteps([...steps.value, made.value]);
  value.value = '';
}
const isOther = (step: RehearsalStep): boolean => 'field' in step && !fieldAt(form.value, step.field) && !form.value.lines[step.field];
</script>

<template>
  <ol class="steps" aria-label="Steps">
    <li v-for="(s, i) in steps" :key="`${i} ${JSON.stringify(s)}`" :class="{ expects: isExpectation(s), red: resultOf(i)?.ok === false }">
      <RehearsalMark :state="resultOf(i) === null ? 'none' : resultOf(i)?.ok ? 'green' : 'red'" />
      <span class="words"
        >{{ headOf(s) }}
        <TextEdit
          v-if="valueOf(s) !== null"
          class="value"
          :class="{ long: 'expect' in s && (s.expect === 'saving' || s.expect === 'says') }"
          size="small"
          :value="valueOf(s) ?? ''"
          :placeholder="'expect' in s && s.expect === 'saving' ? 'nothing stands against it' : 'nothing'"
          :aria-label="`Value of step ${i + 1}: ${headOf(s)}`"
          @change="replace(i, withValue(s, ($event.target as HTMLInputElement).value))"
          @keydown.enter="($event.target as HTMLInputElement).blur()"
        />
        <span v-if="isOther(s)" class="bad">the form has no such field now</span></span
      >
      <span class="came" role="status">
        <template v-if="resultOf(i)?.problem">{{ resultOf(i)?.problem }}</template>
        <template v-else-if="resultOf(i)?.ok === false && resultOf(i)?.found"
          >found: <b>{{ stepWords(form, resultOf(i)!.found as RehearsalStep) }}</b>
          <Button link severity="secondary" label="Expect that" @click="replace(i, resultOf(i)!.found as RehearsalStep)"
        /></template>
      </span>
      <span class="acts"
        ><IconButton icon="pi pi-arrow-up" :aria-label="`Move step ${i + 1} up`" :disabled="i === 0" @click="nudge(i, -1)" /><IconButton
          icon="pi pi-arrow-down"
          :aria-label="`Move step ${i + 1} down`"
          :disabled="i === steps.length - 1"
          @click="nudge(i, 1)" /><IconButton icon="pi pi-trash" :aria-label="`Remove step ${i + 1}`" @click="remove(i)"
      /></span>
    </li>
  </ol>
  <form class="row more" aria-label="A step more" @submit.prevent="add">
    then <PickWord :value="kind" :options="kinds" label="What is done or expected" @pick="kind = $event" />
    <PickOne v-if="needsField" v-model="field" size="small" label="Field" placeholder="which field" :options="paths" />
    <PickOne v-if="kind === 'move'" v-model="move" size="small" label="Move" placeholder="which move" :options="moves" />
    <PickOne v-if="kind === 'addLine'" v-model="group" size="small" label="Lines" placeholder="to which lines" :options="lines" />
    <InputText
      v-if="needsValue"
      v-model="value"
      size="small"
      aria-label="Value"
      :placeholder="kind === 'saving' ? 'what stands against it; nothing: it may be saved' : 'value'"
    />
    <Button type="submit" size="small" severity="secondary" label="Add" :disabled="!made" />
  </form>
</template>

<style scoped>
.steps {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 18px minmax(0, 1.3fr) minmax(0, 1fr) auto;
  gap: 8px;
  align-items: center;
  padding: 2px 0;
  border-bottom: 1px solid var(--line);
  min-height: 34px;
}
.expects .words {
  padding-left: 16px;
}
.words {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 8px;
}
.value {
  width: 200px;
}
.value.long {
  flex: 1;
  min-width: 300px;
}
.more .p-inputtext {
  width: 240px;
}
.red .came {
  color: var(--bad);
}
.acts {
  display: flex;
}
.more {
  flex-wrap: wrap;
  padding: 12px 0;
}
</style>
