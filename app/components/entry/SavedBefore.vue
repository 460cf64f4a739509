<script setup lang="ts">
/* A save had arrived although its answer did not, and more was typed since. */
defineProps<{ form: string; record: number }>();
defineEmits<{ anew: []; close: [] }>();
</script>

<template>
  <StayDialog visible modal header="Saved before" :style="{ width: '440px' }" @update:visible="$emit('close')">
    <p>
      This entry was saved already, as record {{ record }}, but the answer did not arrive. Since then more was typed here. Open that record
      to change it, or save what stands here as a further record.
    </p>
    <template #footer
      ><Button severity="secondary" @click="$emit('anew')">Save a further record</Button
      ><Button as="router-link" :to="`/entry/${form}/${record}`">Open record {{ record }}</Button></template
    >
  </StayDialog>
</template>
