<script setup lang="ts">
/* What administrators keep: people and their accounts, programs, the workspace. */
const route = useRoute();
const PARTS = [
  { to: '/admin', label: 'People' },
  { to: '/admin/programs', label: 'Programs' },
  { to: '/admin/workspace', label: 'Workspace' },
];
</script>

<template>
  <div class="page">
    <nav class="parts" aria-label="Administration">
      <NuxtLink v-for="p in PARTS" :key="p.to" :to="p.to" :aria-current="route.path === p.to ? 'page' : undefined">{{ p.label }}</NuxtLink>
    </nav>
    <NuxtPage />
  </div>
</template>

<style scoped>
.parts {
  display: flex;
  gap: 20px;
  border-bottom: 1px solid var(--line);
  margin-bottom: 14px;
}
.parts a {
  padding: 6px 0;
  color: var(--ink-2);
  text-decoration: none;
}
.parts a[aria-current] {
  color: var(--ink);
  font-weight: 700;
  box-shadow: inset 0 -2px 0 var(--flow);
}
</style>
