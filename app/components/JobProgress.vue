<script setup lang="ts">
/* How far long work is, and the way to stop it. */
defineProps<{ progress: number; doing: string }>();
defineEmits<{ cancel: [] }>();
</script>

<template>
  <p class="row job" role="status">
    <progress :value="progress" max="1" :aria-label="doing || 'Working'" />
    <span class="muted">{{ doing || 'working' }}… {{ Math.round(progress * 100) }} %</span>
    <button class="btn small" type="button" @click="$emit('cancel')">Stop</button>
  </p>
</template>

<style scoped>
progress {
  width: 220px;
  height: 8px;
  accent-color: var(--act);
}
</style>
