<script setup lang="ts">
/* Everything found wrong without running the form; pressing a line goes to the field. */
const draft = useTheDraft();
const emit = defineEmits<{ go: [field: string] }>();
const label = (key: string | null): string => (key ? draft.host.label(key) : 'The form');
</script>

<template>
  <ul class="list">
    <li v-for="(p, i) in draft.problems.value" :key="i">
      <button class="item" type="button" @click="p.field && emit('go', p.field)">
        <i class="pi" :class="p.severity === 'error' ? 'pi-times-circle bad' : 'pi-exclamation-triangle'" :aria-label="p.severity" />
        <span
          ><b>{{ label(p.field) }}</b> {{ p.message }}</span
        >
      </button>
    </li>
    <li v-if="!draft.problems.value.length" class="muted">No problems.</li>
  </ul>
</template>

<style scoped>
.list {
  display: grid;
  gap: 2px;
  max-height: 360px;
  overflow: auto;
}
.item {
  display: flex;
  gap: 10px;
  border: 0;
  background: none;
  text-align: left;
  padding: 6px 8px;
  cursor: pointer;
  width: 100%;
  border-radius: var(--r);
}
.item:hover {
  background: var(--flow-wash);
}
.pi {
  padding-top: 3px;
}
</style>
