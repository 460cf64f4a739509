<script setup lang="ts">
import type { CheckState } from '~~/core/engine/state.ts';

/* What is said of a section, or of the form as a whole. */
defineProps<{ messages: readonly CheckState[] }>();
</script>

<template>
  <div v-if="messages.length" class="messages">
    <p v-for="m in messages" :key="m.message" class="message" :class="m.severity" :role="m.severity === 'note' ? undefined : 'status'">
      <i
        v-if="m.severity !== 'note'"
        class="pi"
        :class="m.severity === 'error' ? 'pi-times-circle' : 'pi-exclamation-triangle'"
        aria-hidden="true"
      /><span>{{ m.message }}</span>
    </p>
  </div>
</template>

<style scoped>
.messages {
  display: grid;
  gap: 6px;
  margin: 2px 8px 6px;
}
.message {
  padding: 4px 10px;
  border-left: 3px solid var(--flow);
  background: var(--flow-wash);
}
.message .pi {
  margin-right: 6px;
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
