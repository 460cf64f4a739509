<script setup lang="ts">
/*
 * A text that is edited in place and taken when the field is left or Enter is pressed. What somebody is typing stays as they
 * type it, whatever is drawn or answered meanwhile: the value from outside shows again once the field has been left. `change`
 * carries the event of the control, as that of a plain one would.
 */
const props = defineProps<{
  value: string | number | null | undefined;
  rows?: number;
  /** it was asked for by a press: the keys are in it at once */
  takesFocus?: boolean;
}>();
const emit = defineEmits<{ change: [event: Event] }>();
defineOptions({ inheritAttrs: false });

const draft = ref<string | null>(null);
const focused = ref(false);
const shown = computed(() => draft.value ?? String(props.value ?? ''));
const box = ref<{ $el: HTMLElement }>();
onMounted(() => props.takesFocus && box.value?.$el.focus());
const textIn = (event: Event): string => (event.target as HTMLInputElement).value;

function commit(event: Event): void {
  emit('change', event);
  // what was emptied and not taken shows what stands; anything else stands as typed until the answer has come
  if (textIn(event).trim() === '') void nextTick(() => (draft.value = null));
}
watch(
  () => props.value,
  () => {
    if (!focused.value) draft.value = null;
  },
);
function leave(): void {
  focused.value = false;
  // the value has caught up with what was typed: from now on it shows itself
  if (draft.value?.trim() === String(props.value ?? '')) draft.value = null;
}
</script>

<template>
  <Textarea
    v-if="rows"
    v-bind="$attrs"
    :rows="rows"
    :model-value="shown"
    @input="draft = textIn($event)"
    @change="commit"
    @focus="focused = true"
    @blur="leave"
  />
  <InputText
    v-else
    ref="box"
    v-bind="$attrs"
    :model-value="shown"
    @input="draft = textIn($event)"
    @change="commit"
    @focus="focused = true"
    @blur="leave"
  />
</template>
