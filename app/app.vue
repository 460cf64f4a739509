<script setup lang="ts">
useScheme();
const { wanted, stands } = useOverAll();
</script>

<template>
  <NuxtLayout>
    <NuxtPage />
  </NuxtLayout>
  <LazyOverAll v-if="wanted" @stands="stands" />
</template>
