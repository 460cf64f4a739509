<script setup lang="ts">
import type { CheckState } from '~~/core/engine/state.ts';

/* What is said of a section, or of the form as a whole. */
defineProps<{ messages: readonly CheckState[] }>();
</script>

<template>
  <p v-for="m in messages" :key="m.message" class="message" :class="m.severity" :role="m.severity === 'note' ? undefined : 'status'">
    <i
      v-if="m.severity !== 'note'"
      class="pi"
      :class="m.severity === 'error' ? 'pi-times-circle' : 'pi-exclamation-triangle'"
      aria-hidden="true"
    />
    {{ m.message }}
  </p>
</template>

<style scoped>
.message {
  margin: 2px 8px 6px;
  padding: 4px 10px;
  border-left: 3px solid var(--flow);
  background: var(--flow-wash);
}
.message.error {
  border-left-color: var(--bad);
  color: var(--bad);
}
.message.note {
  border-left-color: var(--act-line);
  background: var(--ground-2);
}
</style>
