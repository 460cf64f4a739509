<script setup lang="ts">
/* How the draft stands, at the end of the bar: saved or not, undo and redo. */
const draft = useDraft();
</script>

<template>
  <Teleport to="#bar-end">
    <span class="muted saving" role="status">{{
      draft.saving === 'saved' ? 'saved' : draft.saving === 'failed' ? 'not saved' : 'saving…'
    }}</span>
    <IconButton v-tooltip.bottom="'Undo (Ctrl+Z)'" icon="pi pi-undo" aria-label="Undo" :disabled="!draft.canUndo" @click="draft.undo()" />
    <IconButton
      v-tooltip.bottom="'Redo (Ctrl+Shift+Z)'"
      icon="pi pi-refresh"
      aria-label="Redo"
      :disabled="!draft.canRedo"
      @click="draft.redo()"
    />
    <slot />
  </Teleport>
</template>

<style scoped>
.saving {
  font-size: 13px;
}
</style>
