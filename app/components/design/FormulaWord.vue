<script setup lang="ts">
import { compileNode } from '~~/core/formula/compile.ts';
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
}>();
const emit = defineEmits<{ change: [text: string] }>();
const draft = useTheDraft();
const open = ref(props.startOpen ?? false);
const scope = computed(() => props.scope ?? draft.plan.value!.scope);
const broken = computed(() => formula(props.text, scope.value, props.expected).problems.find((p) => p.severity === 'error'));

function result(text: string): string {
  const entry = draft.host.entry.value;
  const plan = draft.plan.value;
  if (!entry || !plan || props.noResult) return '';
  const f = formula(text, scope.value, props.expected);
  return f.syntax ? showResult(plan, draft.host.cache(), f.type, compileNode(f.syntax, f)(entry.environment)) : '';
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
    :scope="scope"
    :expected="expected"
    :label="label"
    :placeholder="placeholder"
    :result="result"
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
