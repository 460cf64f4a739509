<script setup lang="ts">
import { type Field, fieldAt } from '~~/core/form/definition.ts';
import { changeField } from '~~/core/form/edit.ts';

/* When a field is shown, required, read-only; and what it has from its section, its page and rules. */
const props = defineProps<{ name: string }>();
const draft = useDraft();
const field = computed(() => fieldAt(draft.form!, props.name)!);
const set = (change: Partial<Field>): void => draft.change(changeField(draft.form!, props.name, change));
const HIDDEN = [
  { value: 'keep', label: 'kept' },
  { value: 'clear', label: 'emptied' },
] as const;
const STATES = { shown: 'shown', required: 'required', locked: 'read-only' } as const;
/** Who else has a say, and in what. */
const inherited = computed(() => {
  const plan = draft.plan?.fields[draft.plan.slots.get(props.name) ?? -1];
  const found = new Map<string, { kind: string; id: string; label: string; states: Set<string> }>();
  for (const [state, word] of Object.entries(STATES))
    for (const { of } of !plan ? [] : state === 'shown' ? [...plan.shown, ...plan.showing] : plan[state as 'required' | 'locked']) {
      if (of.kind === 'field' || (of.kind === 'access' && of.id === props.name)) continue;
      const key = `${of.kind} ${of.id}`;
      const one = found.get(key) ?? { kind: of.kind, id: of.id, label: of.label, states: new Set() };
      found.set(key, one);
      one.states.add(word);
    }
  return [...found.values()];
});
</script>

<template>
  <StateSentence :states="field" :place="name" :hidden="HIDDEN" @change="set" />
  <AccessSentence v-if="draft.form!.steps?.field !== name" :place="name" />
  <p v-else class="small">
    It holds the step: records are <NuxtLink :to="`/design/forms/${draft.formKey}/steps`">moved from step to step</NuxtLink>, and nobody
    types it.
  </p>
  <p v-for="o in inherited" :key="`${o.kind} ${o.id}`" class="muted small">
    {{ [...o.states].join(', ').replace(/^./, (c) => c.toUpperCase()) }} also by
    <NuxtLink v-if="o.kind === 'rule'" :to="`/design/forms/${draft.formKey}/rules?rule=${o.id}`">the rule “{{ o.label }}”</NuxtLink
    ><template v-else-if="o.kind === 'access'">who sees and fills its section or page</template
    ><template v-else>its {{ o.kind }}{{ o.label ? ` ${o.label}` : '' }}</template
    >.
  </p>
</template>

<style scoped>
.small {
  font-size: 13px;
}
</style>
