<script setup lang="ts">
import { fieldAt } from '~~/core/form/definition.ts';
import { changeField } from '~~/core/form/edit.ts';
import type { Field } from '~~/core/form/definition.ts';
import { YESNO } from '~~/core/formula/types.ts';

/* Conditions with a message: warnings may go on, errors may not. */
const props = defineProps<{ name: string }>();
const draft = useTheDraft();
const field = computed(() => fieldAt(draft.form.value!, props.name)!);
type Check = Field['checks'][number];
const SEVERITY = [
  { value: 'warning', label: 'Warn' },
  { value: 'error', label: 'Refuse' },
] as const;
const set = (checks: readonly Check[]): void => draft.change(changeField(draft.form.value!, props.name, { checks: [...checks] }));
const put = (i: number, change: Partial<Check>): void => set(field.value.checks.map((c, j) => (i === j ? { ...c, ...change } : c)));
const added = ref(-1);
function add(): void {
  added.value = field.value.checks.length;
  set([...field.value.checks, { when: '', message: `${field.value.label} needs another look.`, severity: 'warning' }]);
}
</script>

<template>
  <div v-for="(c, i) in field.checks" :key="i" class="check">
    <PickWord :value="c.severity" :options="SEVERITY" label="Severity" @pick="put(i, { severity: $event })" />
    “<TextEdit
      class="message"
      :value="c.message"
      :size="Math.max(12, c.message.length)"
      aria-label="Message"
      @change="put(i, { message: ($event.target as HTMLInputElement).value.trim() || c.message })"
    />” when
    <FormulaWord
      :key="`${name} ${i}`"
      :text="c.when"
      :expected="YESNO"
      label="Check"
      :place="`${name} checks.${i}`"
      :start-open="added === i"
      @change="put(i, { when: $event })"
    />.
    <button class="word light" type="button" @click="set(field.checks.filter((_, j) => j !== i))">remove</button>
  </div>
  <button class="word" type="button" @click="add">Add a check</button>
</template>

<style scoped>
.check {
  padding-bottom: 4px;
}
.message {
  border: 0;
  border-bottom: 1px dotted var(--ink-2);
  background: none;
  padding: 0;
  font-weight: 700;
  max-width: 100%;
}
</style>
