<script setup lang="ts">
import { formulaAt } from '~~/core/form/formulas.ts';
import type { Form } from '~~/core/form/definition.ts';

/* What stood here before: in this session, and in every published version. A press puts it into the editor. */
const props = defineProps<{ place: string; text: string }>();
defineEmits<{ take: [text: string] }>();
const draft = useTheDraft();
interface Version {
  readonly version: number;
  readonly at: string;
  readonly by: string;
  readonly form: Form;
}
const versions = shallowRef<readonly Version[] | null>(null);
const failed = ref('');
async function read(): Promise<void> {
  try {
    versions.value = await api<Version[]>(`forms/${draft.formKey}/versions`);
    failed.value = '';
  } catch (e) {
    failed.value = messageOf(e);
  }
}
void read();
const when = (at: string): string => showTyped(undefined as never, undefined as never, { kind: 'datetime' }, at);
/** Newest first; what stood unchanged over several steps stands once, by the first that had it. */
const lines = computed(() => {
  const steps: { text: string; said: string }[] = [];
  const put = (text: string | null, said: string): void => {
    if (text === null) return;
    const last = steps.at(-1);
    if (last?.text === text) last.said = said;
    else steps.push({ text, said });
  };
  for (const form of [...draft.undoStack.value].reverse()) put(formulaAt(form, props.place), 'earlier in this session');
  for (const v of versions.value ?? []) put(formulaAt(v.form, props.place), `version ${v.version}, ${when(v.at)}, ${v.by}`);
  return steps.filter((s) => s.text !== props.text);
});
</script>

<template>
  <p v-if="failed" class="bad">{{ failed }} <button class="word" type="button" @click="read">Try again</button></p>
  <ul v-else class="before">
    <li v-for="l in lines" :key="l.said + l.text">
      <button class="word light mono" type="button" :aria-label="`Take ${l.text}`" @click="$emit('take', l.text)">{{ l.text }}</button>
      <span class="muted">{{ l.said }}</span>
    </li>
    <li v-if="versions && !lines.length" class="muted">Nothing else has stood here.</li>
  </ul>
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
