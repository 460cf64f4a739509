<script setup lang="ts">
import type { Row } from '~~/core/values/types.ts';

/* The colour of an option with its sign, and the word "retired" where it is offered no more. */
const { row } = defineProps<{ row: Row }>();
</script>

<template>
  <span v-if="row.colour || row.mark || row.retired" class="marks"
    ><span v-if="row.colour || row.mark" class="swatch" :class="`c-${row.colour ?? 'none'}`" aria-hidden="true">{{
      row.mark ?? String(row.label ?? '').charAt(0)
    }}</span
    ><Tag v-if="row.retired" severity="secondary" value="retired"
  /></span>
</template>
