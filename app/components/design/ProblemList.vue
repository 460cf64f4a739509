<script setup lang="ts">
/* Everything found wrong without running the form; pressing a line goes to the field. */
const draft = useDraft();
const tryout = useTryout();
const emit = defineEmits<{ go: [field: string] }>();
const label = (key: string | null): string => (key ? tryout.host.label(key) : 'The form');
</script>

<template>
  <ul class="list">
    <li v-for="(p, i) in draft.problems" :key="i">
      <Button text severity="secondary" size="small" class="item" @click="p.field && emit('go', p.field)">
        <i class="pi" :class="p.severity === 'error' ? 'pi-times-circle bad' : 'pi-exclamation-triangle'" :aria-label="p.severity" />
        <span
          ><b>{{ label(p.field) }}</b> {{ p.message }}</span
        >
      </Button>
    </li>
    <li v-if="!draft.problems.length" class="muted">No problems.</li>
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
  justify-content: flex-start;
  align-items: flex-start;
  gap: 10px;
  width: 100%;
  padding: 6px 8px;
  text-align: left;
  white-space: normal;
  font-weight: 400;
}
.item:hover {
  background: var(--flow-wash);
}
.pi {
  padding-top: 3px;
}
</style>
