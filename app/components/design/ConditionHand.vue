<script setup lang="ts">
import type { Scope } from '~~/core/formula/scope.ts';

/* What is at hand beside a condition that stands as sentences: the names with their values now, and formulas that use the same. */
const props = defineProps<{
  scope: Scope;
  /** the condition as a formula in that scope */
  text: string;
  /** where it stands in the form, as `placeKey` has it */
  place?: string;
  /** what a press on a name does, in a few words */
  does: string;
}>();
const emit = defineEmits<{ take: [path: string]; whole: [text: string] }>();
const { resultAs, namesOf } = useFormulaNow(
  () => props.scope,
  () => false,
);
const below = ref<'names' | 'elsewhere' | null>(null);
const toggle = (to: 'names' | 'elsewhere'): void => void (below.value = below.value === to ? null : to);
</script>

<template>
  <span class="hand">
    <Button link severity="secondary" :aria-expanded="below === 'names'" @click="toggle('names')">values at hand</Button>
    <Button link severity="secondary" :aria-expanded="below === 'elsewhere'" @click="toggle('elsewhere')">similar formulas</Button>
    <span v-if="below === 'names'" class="block">
      <span class="muted">{{ does }}</span>
      <NamesAtHand :scope="scope" :value-now="(path) => resultAs(path, null)" @take="emit('take', $event)" />
    </span>
    <FormulaElsewhere v-else-if="below === 'elsewhere'" class="block" :names="namesOf(text)" :place="place" @take="emit('whole', $event)" />
  </span>
</template>

<style scoped>
.hand {
  font-size: 13px;
}
.hand > :deep(.p-button) {
  font-size: 13px;
  margin-left: 10px;
}
.block {
  display: block;
  padding: 6px 0 4px;
}
</style>
