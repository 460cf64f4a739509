<script setup lang="ts">
import { accessAt, setAccess } from '~~/core/form/editSteps.ts';

/* Who sees and who fills a field, lines, a section or a page, and at which steps. The server asks the same. */
const props = defineProps<{ place: string }>();
const draft = useDraft();
const access = computed(() => accessAt(draft.form!, props.place));
const set = (change: Parameters<typeof setAccess>[2]): void => draft.change(setAccess(draft.form!, props.place, change));
</script>

<template>
  <div class="access">
    <p>Seen by <GrantsWords :grants="access.seen" label="Seen" @change="set({ seen: $event })" /></p>
    <p>Filled by <GrantsWords :grants="access.filled" label="Filled" @change="set({ filled: $event })" /></p>
  </div>
</template>

<style scoped>
.access {
  line-height: 1.7;
}
</style>
