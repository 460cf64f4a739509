<script setup lang="ts">
import { GoTo, HelpDrawer } from '~/components/lateParts';
import { useEventListener } from '@vueuse/core';

/* The keys that mean the same on every screen: Ctrl+K goes anywhere, `?` helps, as F1 does where one types. What they open is read when it is first asked for. */
const going = ref(false);
const helping = ref(false);
const used = reactive({ goTo: false, help: false });
// what is typed at once after Ctrl+K is for the field that comes: nobody waits for a dialog
const early = useEarlyKeys(
  () => going.value,
  () => {
    const { activeElement } = document;
    return activeElement instanceof HTMLInputElement && activeElement.closest('[role="dialog"]') !== null;
  },
);
useEventListener(document, 'keydown', (event: KeyboardEvent) => {
  const ctrl = event.ctrlKey || event.metaKey;
  const typing = (event.target as HTMLElement).closest('input, textarea, select, .cm-editor') !== null;
  if (ctrl && !event.shiftKey && !event.altKey && event.key.toLowerCase() === 'k') used.goTo = going.value = true;
  else if (!ctrl && !event.altKey && (event.key === 'F1' || (event.key === '?' && !typing))) {
    used.help = true;
    helping.value = !helping.value;
  } else return;
  event.preventDefault();
});
</script>

<template>
  <div>
    <GoTo v-if="used.goTo" v-model:visible="going" :early="early" />
    <HelpDrawer v-if="used.help" v-model:visible="helping" />
  </div>
</template>
