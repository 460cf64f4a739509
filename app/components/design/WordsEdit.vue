<script setup lang="ts">
import type { Words } from '~~/core/form/definition.ts';

/* What is said at a field: a text as one types it, with holes for values, or a formula. */
const props = defineProps<{
  words: Words | null;
  label: string;
  place: string;
  placeholder?: string;
  required?: boolean;
  wide?: boolean;
}>();
const emit = defineEmits<{ change: [words: Words | null] }>();
const text = computed(() => (typeof props.words === 'string' ? props.words : ''));
const fresh = ref(false);
function typed(event: Event): void {
  const now = (event.target as HTMLInputElement).value.trim();
  if (now === text.value || (props.required && now === '')) return;
  emit('change', now === '' ? null : now);
}
/** The text goes on as a formula that gives it. */
function asFormula(): void {
  const literal = `"${text.value.replaceAll('"', '""')}"`;
  fresh.value = true;
  emit('change', { formula: text.value.includes('{') ? `SAY(${literal})` : literal });
}
function applied(formula: string): void {
  fresh.value = false;
  emit('change', formula.trim() === '' ? (props.required ? props.words : null) : { formula });
}
</script>

<template>
  <span v-if="words !== null && typeof words !== 'string'" class="sentence"
    ><FormulaWord
      :key="words.formula"
      :text="words.formula"
      :expected="null"
      :label="label"
      :place="place"
      :start-open="fresh"
      @change="applied"
    />{{ ' '
    }}<Button link severity="secondary" :aria-label="`${label}: a text instead`" @click="emit('change', required ? label : null)"
      >a text instead</Button
    ></span
  ><span v-else class="words"
    ><TextEdit
      :value="text"
      :placeholder="placeholder"
      :aria-label="label"
      @change="typed"
      @keydown.enter="($event.target as HTMLInputElement).blur()"
    /><Button
      v-tooltip.left="'Values are written into it in braces, as {species.name}'"
      link
      severity="secondary"
      :aria-label="`${label}: by a formula`"
      @click="asFormula"
      >by formula</Button
    ></span
  >
</template>

<style scoped>
.words {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
.words > :first-child {
  flex: 1;
  min-width: 0;
}
.words :deep(.p-button-link) {
  font-size: 13px;
}
</style>
