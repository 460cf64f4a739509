<script setup lang="ts">
import type { ViewColour } from '~~/core/choices/views.ts';

/* The colour of a record in a view, with its sign and its word. */
defineProps<{ colour: Pick<ViewColour, 'colour' | 'sign' | 'word'>; bare?: boolean }>();
</script>

<template>
  <span class="viewMark"
    ><span class="swatch" :class="`c-${colour.colour}`" aria-hidden="true">{{ colour.sign }}</span
    ><template v-if="!bare"> {{ colour.word }}</template></span
  >
</template>

<style scoped>
.viewMark {
  white-space: nowrap;
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
</style>
