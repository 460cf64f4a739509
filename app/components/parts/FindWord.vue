<script setup lang="ts">
import type { ComponentPublicInstance } from 'vue';
import StayPopover from './StayPopover.ts';

/* A row as a word of a sentence: pressed, another is found by what people know it by, or none is taken. */
defineProps<{ table: string; text: string; label: string; none?: string }>();
const emit = defineEmits<{ pick: [row: { id: number; text: string } | null] }>();
const button = ref<ComponentPublicInstance>();
const popover = ref<{ toggle(event: Event): void; hide(): void }>();
const used = ref(false);
const open = ref(false);
async function press(event: Event): Promise<void> {
  const target = event.currentTarget;
  used.value = true;
  await nextTick();
  popover.value?.toggle({ ...event, currentTarget: target } as Event);
}
function take(row: { id: number; text: string } | null): void {
  popover.value?.hide();
  (button.value?.$el as HTMLElement | undefined)?.focus();
  emit('pick', row);
}
</script>

<template>
  <span
    ><Button ref="button" link aria-haspopup="dialog" :aria-expanded="open" :aria-label="`${label}: ${text}`" @click="press">{{
      text
    }}</Button
    ><StayPopover v-if="used" ref="popover" :pt="{ root: { 'aria-label': label } }" @show="open = true" @hide="open = false"
      ><div class="find">
        <Button v-if="none" link severity="secondary" @click="take(null)">{{ none }}</Button>
        <!-- its list opens below it, over whatever stood there -->
        <FindRow :table="table" :label="label" autofocus @pick="take" /></div></StayPopover
  ></span>
</template>

<style scoped>
.find {
  display: grid;
  gap: 8px;
  justify-items: start;
  padding: 4px;
  min-width: 260px;
}
</style>
