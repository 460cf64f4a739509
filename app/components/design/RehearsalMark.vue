<script setup lang="ts">
import type { RehearsalState } from '~/composables/rehearsals';

/* How a rehearsal, or one of its steps, came out: a sign and a word. */
defineProps<{ state: RehearsalState }>();
const SIGN: Readonly<Record<RehearsalState, string>> = { green: 'pi-check', red: 'pi-times', none: 'pi-circle' };
const WORDS: Readonly<Record<RehearsalState, string>> = { green: 'as expected', red: 'fails', none: 'not run' };
</script>

<template>
  <i role="img" class="pi" :class="[SIGN[state], state]" :aria-label="WORDS[state]" />
</template>

<style scoped>
.pi {
  font-size: 12px;
  color: var(--ink-2);
}
.green {
  color: var(--act);
}
.red {
  color: var(--bad);
}
</style>
