<script setup lang="ts">
/* Some steps of the form: each can be taken out, and more put in. None named is every step. */
const props = defineProps<{ steps: readonly string[]; label: string; none: string }>();
const emit = defineEmits<{ change: [steps: string[]] }>();
const draft = useDraft();
const list = computed(() => draft.form?.steps?.list ?? []);
const labelOf = (value: string): string => list.value.find((s) => s.value === value)?.label ?? `“${value}”, which is no step`;
const options = computed(() => list.value.filter((s) => !props.steps.includes(s.value)).map(({ value, label }) => ({ value, label })));
</script>

<template>
  <span
    ><template v-for="(s, i) in steps" :key="s"
      ><template v-if="i"> or </template><b>{{ labelOf(s) }}</b
      ><IconButton
        icon="pi pi-times"
        :aria-label="`Without ${labelOf(s)}`"
        @click="
          emit(
            'change',
            steps.filter((x) => x !== s),
          )
        " /></template
    ><PickWord
      v-if="options.length"
      :value="''"
      :text="steps.length ? ' or…' : none"
      :options="options"
      :label="label"
      @pick="emit('change', [...steps, $event])"
  /></span>
</template>
