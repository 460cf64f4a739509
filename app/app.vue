<script setup lang="ts">
const session = useSession();
await session.load();
useScheme();
</script>

<template>
  <NuxtLayout>
    <NuxtPage />
  </NuxtLayout>
  <Toast position="bottom-right" />
</template>
