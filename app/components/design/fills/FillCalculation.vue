<script setup lang="ts">
import type { FillPart } from './index';

/* What becomes of a calculation's value when a record is opened again. */
defineProps<FillPart<'calculation'>>();
const emit = defineEmits<{ set: [change: Partial<FillPart<'calculation'>['fill']>] }>();
const ALWAYS = [
  { value: 'stored', label: 'the saved result stays until something it uses changes' },
  { value: 'always', label: 'it is always recalculated' },
] as const;
</script>

<template>
  On edit,
  <PickWord
    :value="fill.always ? 'always' : 'stored'"
    :options="ALWAYS"
    label="On edit"
    @pick="emit('set', { always: $event === 'always' })"
  />.
</template>
