<script setup lang="ts">
import { useEventListener } from '@vueuse/core';

/* The keys that mean the same on every screen: Ctrl+K goes anywhere, `?` helps. What they open is read when it is first asked for. */
const going = ref(false);
const helping = ref(false);
const used = reactive({ goTo: false, help: false });
useEventListener(document, 'keydown', (event: KeyboardEvent) => {
  const ctrl = event.ctrlKey || event.metaKey;
  const typing = (event.target as HTMLElement).closest('input, textarea, select, .cm-editor') !== null;
  if (ctrl && !event.shiftKey && !event.altKey && event.key.toLowerCase() === 'k') used.goTo = going.value = true;
  else if (event.key === '?' && !typing && !ctrl && !event.altKey) {
    used.help = true;
    helping.value = !helping.value;
  } else return;
  event.preventDefault();
});
</script>

<template>
  <div>
    <LazyGoTo v-if="used.goTo" v-model:visible="going" />
    <LazyHelpDrawer v-if="used.help" v-model:visible="helping" />
  </div>
</template>
