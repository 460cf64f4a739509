<script setup lang="ts">
import type { FillPart } from './index';

/* How often a prefill fills, and what happens when it is typed over. */
defineProps<FillPart<'prefill'>>();
const emit = defineEmits<{ set: [change: Partial<FillPart<'prefill'>['fill']>] }>();
const TYPED_OVER = [
  { value: 'keep', label: 'keeps what was typed' },
  { value: 'refill', label: 'is filled again when its source changes' },
] as const;
const ONCE = [
  { value: 'always', label: 'whenever its source changes' },
  { value: 'once', label: 'only the first time' },
] as const;
</script>

<template>
  Typed over, it <PickWord :value="fill.typedOver" :options="TYPED_OVER" label="Typed over" @pick="emit('set', { typedOver: $event })" />;
  it fills
  <PickWord :value="fill.once ? 'once' : 'always'" :options="ONCE" label="How often" @pick="emit('set', { once: $event === 'once' })" />.
</template>
