<script setup lang="ts">
import type { Check, Words } from '~~/core/form/definition.ts';
import { YESNO } from '~~/core/values/typing.ts';

/* Conditions with a message: warnings may be saved over, errors may not. Of a field, a section or the whole form. */
const props = defineProps<{ checks: readonly Check[]; place: string; label: string }>();
const emit = defineEmits<{ change: [checks: Check[]] }>();
const SEVERITY = [
  { value: 'warning', label: 'Warn', note: 'may be saved all the same, which is kept in the history' },
  { value: 'error', label: 'Refuse', note: 'is not saved while it holds' },
] as const;
const put = (i: number, change: Partial<Check>): void =>
  emit(
    'change',
    props.checks.map((c, j) => (i === j ? { ...c, ...change } : c)),
  );
const said = (words: Words | null): Check['message'] => (words === null || words === '' ? `${props.label} needs another look.` : words);
const added = ref(-1);
watch(() => props.place, () => (added.value = -1)); // prettier-ignore
function add(): void {
  added.value = props.checks.length;
  emit('change', [...props.checks, { when: '', message: `${props.label} needs another look.`, severity: 'warning' }]);
}
</script>

<template>
  <div v-for="(c, i) in checks" :key="i" class="check">
    <PickWord :value="c.severity" :options="SEVERITY" label="Severity" @pick="put(i, { severity: $event })" />
    <WordsEdit
      :words="c.message"
      label="Message"
      required
      :place="`${place} checks.${i}.message`"
      @change="put(i, { message: said($event) })"
    />
    when
    <FormulaWord
      :key="`${place} ${i}`"
      :text="c.when"
      :expected="YESNO"
      label="Check"
      :place="`${place} checks.${i}`"
      :start-open="added === i"
      @change="put(i, { when: $event })"
    />.
    <Button
      link
      severity="secondary"
      @click="
        emit(
          'change',
          checks.filter((_, j) => j !== i),
        )
      "
      >remove</Button
    >
  </div>
  <Button link @click="add">+ check</Button>
</template>

<style scoped>
.check {
  padding-bottom: 4px;
}
</style>
