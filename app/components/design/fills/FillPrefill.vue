<script setup lang="ts">
import type { FillPart } from './index';

/* How often a prefill fills, and what happens when it is typed over. */
defineProps<FillPart<'prefill'>>();
const emit = defineEmits<{ set: [change: Partial<FillPart<'prefill'>['fill']>] }>();
const TYPED_OVER = [
  { value: 'keep', label: 'what was typed stays' },
  { value: 'refill', label: 'a change of what it follows fills it again' },
] as const;
const ONCE = [
  { value: 'always', label: 'each time' },
  { value: 'once', label: 'only the first time' },
] as const;
</script>

<template>
  It fills
  <PickWord :value="fill.once ? 'once' : 'always'" :options="ONCE" label="How often" @pick="emit('set', { once: $event === 'once' })" />;
  typed over, <PickWord :value="fill.typedOver" :options="TYPED_OVER" label="Typed over" @pick="emit('set', { typedOver: $event })" />.
</template>
