<script setup lang="ts">
import { namesAtHand } from '~~/core/formula/atHand.ts';
import type { Scope } from '~~/core/formula/scope.ts';

/* Every name a formula may use here, with its type and its value now; a press puts it into the formula, or it is dragged there. */
const props = defineProps<{ scope: Scope; valueNow?: (path: string) => string }>();
defineEmits<{ take: [path: string] }>();
const sought = ref('');
const MOST = 80;
const names = computed(() => namesAtHand(props.scope, sought.value));
const shown = computed(() => names.value.slice(0, MOST));
</script>

<template>
  <div class="hand" role="group" aria-label="Fields and names">
    <InputText v-model="sought" size="small" type="search" placeholder="Find a name" aria-label="Find a name" />
    <ul>
      <li v-for="n in shown" :key="n.path" :class="{ inner: n.inner }">
        <Button
          v-tooltip.left="`${n.label}: ${n.words}`"
          link
          severity="secondary"
          class="mono"
          draggable="true"
          @click="$emit('take', n.path)"
          @dragstart="$event.dataTransfer?.setData('text/plain', n.path)"
        >
          {{ n.path }}
        </Button>
        <span class="muted type">{{ n.words }}</span>
        <b v-if="valueNow" class="now">{{ valueNow(n.path) }}</b>
      </li>
      <li v-if="!shown.length" class="muted">No name fits.</li>
      <li v-if="names.length > shown.length" class="muted">and {{ names.length - shown.length }} more: type to find them</li>
    </ul>
  </div>
</template>

<style scoped>
.hand {
  display: grid;
  gap: 4px;
}
ul {
  max-height: 190px;
  overflow: auto;
  font-size: 13px;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1.2fr) minmax(0, 1fr) minmax(0, 1fr);
  gap: 10px;
  padding: 1px 2px;
}
.inner {
  padding-left: 14px;
}
li :deep(.p-button) {
  text-align: left;
  overflow: hidden;
  text-overflow: ellipsis;
}
.type,
.now {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
