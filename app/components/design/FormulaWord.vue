<script setup lang="ts">
import { FormulaEditor } from '~/components/lateParts';
import { readsOf } from '~~/core/formula/reads.ts';
import { formula } from '~~/core/formula/formula.ts';
import type { Scope } from '~~/core/formula/scope.ts';
import type { Type } from '~~/core/values/typing.ts';

/* A formula standing in a sentence: shown as text, opened as an editor with F2 or a press. */
const props = defineProps<{
  text: string;
  expected: Type | null;
  label: string;
  scope?: Scope;
  startOpen?: boolean;
  placeholder?: string;
  noResult?: boolean;
  /** outside of any form, as conditions of tables are written */
  alone?: boolean;
  /** where it stands in the form, as `placeKey` has it */
  place?: string;
}>();
const emit = defineEmits<{ change: [text: string] }>();
const draft = useDraft();
/** What was being written here when the editor was left for another field: it is taken up again. */
const keptAt = computed(() => (props.place && !props.alone ? `${draft.formKey} ${props.place}` : null));
const kept = keptAt.value === null ? undefined : draft.unapplied.get(keptAt.value);
const open = ref((props.startOpen ?? false) || kept !== undefined);
useOpening((place) => !props.alone && place === props.place, () => (open.value = true)); // prettier-ignore
/** The editor is read when it is first opened: what is typed until then is for it. */
const isThere = ref(false);
const early = useEarlyKeys(
  () => open.value && !isThere.value && kept === undefined,
  () => isTypedInto(document.activeElement),
  (more) => apply((props.text + more).trim()),
);
watch(open, () => (isThere.value = false));
const scope = computed(() => props.scope ?? draft.scope!);
const broken = computed(() => formula(props.text, scope.value, props.expected).problems.find((p) => p.severity === 'error'));

const { resultAs, workingOf, namesOf } = useFormulaNow(
  () => scope.value,
  () => (props.noResult ?? false) || (props.alone ?? false),
);
const result = (text: string): string => resultAs(text, props.expected);
/** Any name or formula now, whatever type this place asks for. */
const valueNow = (text: string): string => resultAs(text, null);
const working = (text: string): { text: string; value: string }[] => workingOf(text, props.expected);
/** Tables it reads whose rows belong to people or teams. */
const ofOwners = computed(() => {
  if (props.alone || !draft.owned.size) return [];
  const tables = readsOf(formula(props.text, scope.value, props.expected), () => null).columns.map((c) => c.split('.')[0] ?? '');
  return [...new Set(tables)].filter((t) => draft.owned.has(t)).map((t) => draft.tables.get(t)?.label ?? t);
});
const word = ref<{ $el: HTMLElement }>();
// applied or given up, the keys go on from where the formula stands
watch(open, (now) => void (!now && nextTick(() => word.value?.$el.focus())));
function leave(text: string | null): void {
  if (keptAt.value === null) return;
  if (text === null) draft.unapplied.delete(keptAt.value);
  else draft.unapplied.set(keptAt.value, text);
}
function apply(text: string): void {
  open.value = false;
  if (text !== props.text) emit('change', text);
}
</script>

<template>
  <FormulaEditor
    v-if="open"
    :text="text"
    :kept="kept"
    :early="early"
    :scope="scope"
    :expected="expected"
    :label="label"
    :placeholder="placeholder"
    :result="result"
    :value-now="!noResult && !alone ? valueNow : undefined"
    :working="!noResult && !alone ? working : undefined"
    :place="alone ? undefined : place"
    :names-of="!alone && draft.plan ? namesOf : undefined"
    @ready="isThere = true"
    @apply="apply"
    @cancel="open = false"
    @leave="leave"
  />
  <span v-else>
    <Button
      ref="word"
      link
      class="mono formula"
      :class="{ bad: broken }"
      :aria-label="`${label}: ${text || 'no formula yet'}. Edit`"
      @click="open = true"
      @keydown.f2.stop="open = true"
    >
      {{ text || 'write a formula' }}
    </Button>
    <span v-if="broken" class="bad said"> {{ broken.message }}</span>
    <span v-for="table in ofOwners" :key="table" class="muted said"> {{ table }}: read with the rights of whoever fills in the form.</span>
  </span>
</template>

<style scoped>
.formula {
  font-weight: 400;
  overflow-wrap: anywhere;
}
.said {
  font-size: 13px;
}
</style>
