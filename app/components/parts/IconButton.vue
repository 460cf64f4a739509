<script setup lang="ts">
/* A press that is only a sign, among others in a line or above a panel: what it does is said by its aria-label. */
defineProps<{ icon: string }>();
</script>

<template>
  <Button text severity="secondary" size="small" :icon="icon" />
</template>
