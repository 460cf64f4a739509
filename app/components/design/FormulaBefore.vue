<script setup lang="ts">
import { formulaAt } from '~~/core/form/formulas.ts';
import { useQuery } from '@pinia/colada';

/* What stood here before: in this session, and in every published version. A press puts it into the editor. */
const props = defineProps<{ place: string; text: string }>();
defineEmits<{ take: [text: string] }>();
const draft = useDraft();
const asked = useQuery({ key: () => ['versions', draft.formKey], query: () => api.forms.versions({ key: draft.formKey }) });
const versions = computed(() => asked.data.value ?? null);
/** Newest first; what stood unchanged over several steps stands once, by the first that had it. */
const lines = computed(() => {
  const steps: { text: string; said: string }[] = [];
  const put = (text: string | null, said: string): void => {
    if (text === null) return;
    const last = steps.at(-1);
    if (last?.text === text) last.said = said;
    else steps.push({ text, said });
  };
  for (const form of [...draft.past].reverse()) put(formulaAt(form, props.place), 'earlier in this session');
  for (const v of versions.value ?? []) put(formulaAt(v.form, props.place), `version ${v.version}, ${showMoment(v.at)}, ${v.by}`);
  return steps.filter((s) => s.text !== props.text);
});
</script>

<template>
  <Asked :query="asked" height="40px"
    ><ul class="before">
      <li v-for="l in lines" :key="l.said + l.text">
        <Button link severity="secondary" class="mono" :aria-label="`Use ${l.text}`" @click="$emit('take', l.text)">{{ l.text }}</Button>
        <span class="muted">{{ l.said }}</span>
      </li>
      <li v-if="versions && !lines.length" class="muted">There is no earlier formula here.</li>
    </ul></Asked
  >
</template>

<style scoped>
.before {
  font-size: 13px;
  max-height: 190px;
  overflow: auto;
  display: grid;
  gap: 4px;
}
.mono {
  font-family: var(--mono);
  justify-self: start;
}
li {
  display: grid;
  gap: 1px;
}
</style>
