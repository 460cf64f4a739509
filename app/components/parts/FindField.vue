<script setup lang="ts">
/* A text to find something by, among what stands below it. */
defineProps<{ label: string }>();
const sought = defineModel<string>({ required: true });
</script>

<template>
  <InputText v-model="sought" class="sought" type="search" :placeholder="label" :aria-label="label" />
</template>

<style scoped>
.sought {
  width: 20rem;
  max-width: 100%;
  margin-block: 0 0.75rem;
}
</style>
