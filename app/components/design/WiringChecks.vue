<script setup lang="ts">
import { fieldAt } from '~~/core/form/definition.ts';
import { changeField } from '~~/core/form/edit.ts';
import type { Field } from '~~/core/form/definition.ts';
import { YESNO } from '~~/core/values/typing.ts';

/* Conditions with a message: warnings may go on, errors may not. */
const props = defineProps<{ name: string }>();
const draft = useDraft();
const field = computed(() => fieldAt(draft.form!, props.name)!);
type Check = Field['checks'][number];
const SEVERITY = [
  { value: 'warning', label: 'Warn' },
  { value: 'error', label: 'Refuse' },
] as const;
const set = (checks: readonly Check[]): void => draft.change(changeField(draft.form!, props.name, { checks: [...checks] }));
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
      class="bare message"
      :value="c.message"
      :style="{ width: `${Math.max(14, c.message.length + 2)}ch` }"
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
    <Button link severity="secondary" @click="set(field.checks.filter((_, j) => j !== i))">remove</Button>
  </div>
  <Button link @click="add">+ check</Button>
</template>

<style scoped>
.check {
  padding-bottom: 4px;
}
.message {
  font-weight: 700;
  max-width: 100%;
}
</style>
