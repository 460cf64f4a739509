<script setup lang="ts">
/* A field that is not near the screen: its label and value as plain text, found by a search of the page. */
const { host, name } = defineProps<{ host: EntryHost; name: string }>();
const shown = computed(() => host.show(name));
</script>

<template>
  <div class="still" :data-field="name">
    <span>{{ host.label(name) }}</span><span>{{ shown }}</span>
  </div>
</template>

<style scoped>
.still {
  display: grid;
  grid-template-columns: 152px minmax(0, 304px);
  gap: 10px;
  padding: 10px 8px;
}
</style>
