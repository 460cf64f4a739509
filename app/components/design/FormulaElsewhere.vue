<script setup lang="ts">
import { useQuery } from '@pinia/colada';
import type { contract } from '~~/core/contract/index.ts';
import { partInWords, placeKey } from '~~/core/form/formulas.ts';

/* Other formulas, of this form and of others, that use what this one uses. A press puts one into the editor. */
const props = defineProps<{ names: readonly string[]; place?: string }>();
defineEmits<{ take: [text: string] }>();
const draft = useDraft();
type Use = Answer<typeof contract.forms.formulas>[number];
const asked = useQuery({
  key: () => ['formulas', [...props.names].sort().join(',')],
  query: async () => (props.names.length ? await api.forms.formulas({ names: props.names.join(',') }) : []),
});
const uses = computed(() => asked.data.value ?? null);
/** Those that have most in common first; the formula itself is none of them. */
const shown = computed(() =>
  (uses.value ?? [])
    .filter((u) => u.form !== draft.formKey || placeKey(u) !== props.place)
    .sort((a, b) => b.names.length - a.names.length)
    .slice(0, 40),
);
/** What both use: fields of this form by their names, then functions and columns. */
function words(u: Use): string {
  const own = u.names.filter((n) => n.startsWith('@')).map((n) => n.replace(/^@[^/]*\//, ''));
  const rest = u.names.filter((n) => !n.startsWith('@') && !own.includes(n.split('.').at(-1) ?? ''));
  return [...own, ...rest].slice(0, 4).join(', ');
}
</script>

<template>
  <Asked :query="asked" height="40px"
    ><ul class="elsewhere" aria-label="Formulas that use the same">
      <li v-for="u in shown" :key="u.form + placeKey(u)">
        <span>
          <NuxtLink :to="`/design/forms/${u.form}?field=${u.path}`">{{ u.formLabel }}: {{ u.label }}</NuxtLink>
          <span class="muted">{{ ` ${partInWords(u.part)}; also uses ${words(u)}` }}</span>
        </span>
        <Button link severity="secondary" class="mono" :aria-label="`Use ${u.text}`" @click="$emit('take', u.text)">{{ u.text }}</Button>
      </li>
      <li v-if="!names.length" class="muted">This formula uses no field and no function yet.</li>
      <li v-else-if="uses && !shown.length" class="muted">No other formula uses what this one uses.</li>
    </ul></Asked
  >
</template>

<style scoped>
.elsewhere {
  font-size: 13px;
  max-height: 210px;
  overflow: auto;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
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
