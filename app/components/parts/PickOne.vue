<script setup lang="ts" generic="V extends string | number | boolean | null">
import StaySelect from './StaySelect.ts';

/* One of a short list. Values may be anything, also nothing: the list goes by place. */
interface Option {
  readonly value: V;
  readonly label: string;
  readonly disabled?: boolean;
}
const props = defineProps<{
  options: readonly Option[];
  /** what is chosen here, for those who do not see it */
  label: string;
  placeholder?: string;
  size?: 'small';
  disabled?: boolean;
  invalid?: boolean;
}>();
const value = defineModel<V>();
const places = computed(() => props.options.map((o, place) => ({ ...o, place })));
const place = computed(() => {
  const at = props.options.findIndex((o) => o.value === value.value);
  return at < 0 ? null : at;
});
/** as many as one sees at a glance need no search */
const GLANCE = 14;
</script>

<template>
  <StaySelect
    :model-value="place"
    :options="places"
    option-label="label"
    option-value="place"
    option-disabled="disabled"
    :aria-label="label"
    :placeholder="placeholder"
    :size="size"
    :disabled="disabled"
    :invalid="invalid"
    :filter="options.length > GLANCE"
    auto-filter-focus
    scroll-height="280px"
    @update:model-value="(at: number) => (value = options[at]!.value)"
  />
</template>
