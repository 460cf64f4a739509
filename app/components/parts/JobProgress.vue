<script setup lang="ts">
/* How far long work is, and the way to stop it. */
defineProps<{ progress: number; doing: string }>();
defineEmits<{ cancel: [] }>();
</script>

<template>
  <p class="row job" role="status">
    <ProgressBar class="bar" :value="Math.round(progress * 100)" :show-value="false" :aria-label="doing || 'Working'" />
    <span class="muted">{{ doing || 'working' }}… {{ Math.round(progress * 100) }} %</span>
    <Button severity="secondary" size="small" label="Cancel" @click="$emit('cancel')" />
  </p>
</template>

<style scoped>
.bar {
  width: 220px;
}
</style>
