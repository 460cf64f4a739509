<script setup lang="ts">
import { namesUsed } from '~~/core/engine/uses.ts';
import { compileNode } from '~~/core/formula/compile.ts';
import { explainWorking } from '~~/core/formula/explain.ts';
import { formula } from '~~/core/formula/formula.ts';
import type { Scope } from '~~/core/formula/scope.ts';
import type { Type } from '~~/core/formula/types.ts';

/* A formula standing in a sentence: shown as text, opened as an editor with F2 or a press. */
const props = defineProps<{
  text: string;
  expected: Type | null;
  label: string;
  scope?: Scope;
  startOpen?: boolean;
  placeholder?: string;
  noResult?: boolean;
  /** where it stands in the form, as `placeKey` has it */
  place?: string;
}>();
const emit = defineEmits<{ change: [text: string] }>();
// conditions of tables are written outside of any form
const draft = inject(draftKey, null);
const open = ref(props.startOpen ?? false);
const scope = computed(() => props.scope ?? draft!.scope.value!);
const broken = computed(() => formula(props.text, scope.value, props.expected).problems.find((p) => p.severity === 'error'));

const result = (text: string): string => resultAs(text, props.expected);
/** Any name or formula now, whatever type this place asks for. */
const valueNow = (text: string): string => resultAs(text, null);
function resultAs(text: string, expected: Type | null): string {
  const plan = draft?.plan.value;
  const env = props.noResult ? null : draft?.environment();
  if (!draft || !plan || !env) return '';
  const f = formula(text, scope.value, expected);
  return f.syntax ? showResult(plan, draft.host.cache(), f.type, compileNode(f.syntax, f)(env)) : '';
}
function working(text: string): { text: string; value: string }[] {
  const plan = draft?.plan.value;
  const env = props.noResult ? null : draft?.environment();
  if (!draft || !plan || !env) return [];
  const f = formula(text, scope.value, props.expected);
  return explainWorking(f, env).map((w) => ({ text: w.text, value: showResult(plan, draft.host.cache(), w.type, w.value) }));
}
const namesOf = (text: string): readonly string[] => namesUsed(draft!.plan.value!, formula(text, scope.value));
function apply(text: string): void {
  open.value = false;
  if (text !== props.text) emit('change', text);
}
</script>

<template>
  <FormulaEditor
    v-if="open"
    :text="text"
    :scope="scope"
    :expected="expected"
    :label="label"
    :placeholder="placeholder"
    :result="result"
    :value-now="draft && !noResult ? valueNow : undefined"
    :working="draft && !noResult ? working : undefined"
    :place="draft ? place : undefined"
    :names-of="draft?.plan.value ? namesOf : undefined"
    @apply="apply"
    @cancel="open = false"
  />
  <span v-else>
    <button
      class="word mono formula"
      :class="{ bad: broken }"
      type="button"
      :aria-label="`${label}: ${text || 'no formula yet'}. Edit`"
      @click="open = true"
      @keydown.f2.stop="open = true"
    >
      {{ text || 'write a formula' }}
    </button>
    <span v-if="broken" class="bad said"> {{ broken.message }}</span>
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
