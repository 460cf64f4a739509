<script setup lang="ts">
/* Somebody else saved first: what they saved is read, and what was changed last has to be made again. */
defineProps<{ what: string }>();
defineEmits<{ read: [] }>();
</script>

<template>
  <StayDialog visible modal :closable="false" header="Changed by somebody else" :style="{ width: '440px' }">
    <p>Somebody else saved this {{ what }} after you opened it. Load their version, then make your last changes again.</p>
    <template #footer><Button label="Load their version" @click="$emit('read')" /></template>
  </StayDialog>
</template>
