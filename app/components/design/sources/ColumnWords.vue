<script setup lang="ts">
/* A list of columns as words of a sentence: each can be exchanged or left out, and one more added. */
const props = defineProps<{
  taken: readonly string[];
  columns: readonly { readonly value: string; readonly label: string }[];
  /** what stands between two, with its spaces */
  between: string;
  /** what stands there while there is none */
  none: string;
  label: string;
  /** what adding one is called */
  more: string;
}>();
const emit = defineEmits<{ change: [taken: string[]] }>();
const others = (own: string | null) => [
  ...props.columns.filter((c) => c.value === own || !props.taken.includes(c.value)),
  ...(own === null ? [] : [{ value: '', label: 'leave it out' }]),
];
function setAt(at: number, value: string): void {
  const { taken } = props;
  if (value === '')
    emit('change', taken.filter((_, i) => i !== at)); // prettier-ignore
  else emit('change', at === taken.length ? [...taken, value] : taken.map((c, i) => (i === at ? value : c)));
}
</script>

<template>
  <template v-for="(c, i) in taken" :key="c"
    ><template v-if="i">{{ between }}</template
    ><PickWord :value="c" :options="others(c)" :label="label" @pick="setAt(i, $event)" /></template
  ><template v-if="taken.length">{{ ' ' }}</template
  ><PickWord :value="''" :text="taken.length ? '+' : none" :options="others(null)" :label="more" @pick="setAt(taken.length, $event)" />
</template>
