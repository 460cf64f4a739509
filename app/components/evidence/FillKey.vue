<script setup lang="ts">
import { OUTCOMES } from '~~/core/evidence/fills.ts';
import { OUTCOME_WORDS } from './fillWords';

/* What the colours of the bars mean. */
</script>

<template>
  <ul class="key" aria-label="What the colours mean">
    <li v-for="o in OUTCOMES" :key="o"><i :class="`out-${o}`" /> {{ OUTCOME_WORDS[o] }}</li>
  </ul>
</template>

<style scoped>
.key {
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin: 0;
  padding: 4px 0;
  font-size: 13px;
}
.key i {
  display: inline-block;
  width: 12px;
  height: 12px;
  border-radius: 3px;
  vertical-align: -1px;
  border: 1px solid var(--line-strong);
}
</style>
