<script setup lang="ts">
/* Where one is, in the bar on top: the places above as links, then the place itself; what belongs to it stands behind. */
interface Place {
  readonly label: string;
  readonly to?: string;
}
const { above, here } = defineProps<{ above: readonly Place[]; here: string }>();
const places = computed(() => [...above, { label: here }]);
</script>

<template>
  <Teleport to="#bar-place">
    <Breadcrumb class="trail" :model="places" aria-label="Where you are">
      <template #item="{ item }"
        ><NuxtLink v-if="item.to" :to="item.to">{{ item.label }}</NuxtLink
        ><span v-else-if="item.label === here" class="here" aria-current="page">{{ item.label }}</span
        ><span v-else class="muted">{{ item.label }}</span></template
      >
      <template #separator><span class="muted" aria-hidden="true">›</span></template>
    </Breadcrumb>
    <slot />
  </Teleport>
</template>

<style scoped>
.here {
  font-weight: 700;
}
.trail {
  min-width: 0;
}
</style>
