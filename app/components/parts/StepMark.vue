<script setup lang="ts">
import type { Step } from '~~/core/form/steps.ts';

/* A step: its sign and its word in its colour. */
defineProps<{ step: Pick<Step, 'label' | 'sign' | 'tone'>; quiet?: boolean }>();
</script>

<template>
  <span class="mark" :style="quiet ? undefined : { color: toneColor(step.tone) }"
    ><i class="pi" :class="SIGN_ICONS[step.sign]" aria-hidden="true" /> {{ step.label }}</span
  >
</template>

<style scoped>
.mark {
  white-space: nowrap;
}
.pi {
  font-size: 0.85em;
}
</style>
