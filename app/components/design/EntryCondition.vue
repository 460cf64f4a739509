<script setup lang="ts">
import { ENTRY_TABLE, asChoice, entryScope, fromChoice } from '~~/core/choices/entrySentence.ts';
import { type SentencePart, columnFormula } from '~~/core/choices/sentence.ts';
import { formula } from '~~/core/formula/formula.ts';
import { YESNO } from '~~/core/values/typing.ts';
import { operatorsFor } from './conditionChoices';
import { useConditionRoot } from './conditionRoot';

/* A condition over the entry as sentences: “species › protected is yes and quantity is over 5”. A view of the formula. */
const props = defineProps<{ when: string | null; place: string; label: string }>();
const emit = defineEmits<{ change: [when: string | null] }>();
const draft = useDraft();
const whole = ref(false);
watch(() => props.place, () => (whole.value = false)); // prettier-ignore
useOpening((place) => place === props.place, () => (whole.value = true), false); // prettier-ignore
const scope = computed(() => entryScope(draft.scope!));
const where = computed(() => props.when && asChoice(props.when, scope.value));
const compiled = computed(() => formula(where.value ?? '', scope.value, YESNO));
const broken = computed(() => compiled.value.problems.some((p) => p.severity === 'error'));
const { root, write, unfinished } = useConditionRoot({
  place: () => `${draft.formKey} ${props.place}`,
  where: () => where.value,
  compiled: () => compiled.value,
  change: (text) => emit('change', text === null ? null : fromChoice(text)),
});
/** A name begins a condition on it: how it is compared is asked for next. */
function take(column: string): void {
  const { operator, not } = operatorsFor(formula(columnFormula(column, 'choice'), scope.value).type)[0]!;
  const begun: SentencePart = { kind: 'simple', column, operator, not, values: [] };
  const { any, parts } = root.value;
  write({ any, parts: [...parts, begun] });
}
const { resultAs } = useFormulaNow(() => draft.scope!, () => false); // prettier-ignore
/** Whether it holds in the entry that is tried. */
const now = computed(() => (props.when ? resultAs(props.when, YESNO) : ''));
</script>

<template>
  <template v-if="whole || broken">
    <FormulaWord
      :key="`${place} ${when}`"
      :text="when ?? ''"
      :expected="YESNO"
      :label="label"
      :place="place"
      :start-open="whole && !broken"
      @change="emit('change', $event || null)"
    />{{ ' ' }}<Button v-if="!broken" link severity="secondary" class="small" @click="whole = false">as sentences</Button>
  </template>
  <template v-else>
    <b v-if="!root.parts.length">always</b>
    <ConditionGroup
      :parts="root.parts"
      :any="root.any"
      :scope="scope"
      :table="ENTRY_TABLE"
      own=""
      :depth="0"
      @change="write({ ...root, parts: $event })"
      @join="write({ ...root, any: $event })"
    />{{ ' ' }}<Button link severity="secondary" class="small" @click="whole = true">as formula</Button
    ><ConditionHand
      :scope="draft.scope!"
      :text="when ?? ''"
      :place="place"
      does="A press begins a condition on it."
      @take="take"
      @whole="emit('change', $event)"
    /><span v-if="now" class="small muted">
      now: <b>{{ now }}</b></span
    >
    <p v-if="unfinished" class="small flow" role="status">What is not finished does not apply yet.</p>
  </template>
</template>

<style scoped>
.small {
  font-size: 13px;
}
.flow {
  color: var(--flow-ink);
}
</style>
