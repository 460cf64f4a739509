<script setup lang="ts">
useScheme();
</script>

<template>
  <NuxtLayout>
    <NuxtPage />
  </NuxtLayout>
  <Toast position="bottom-right" />
  <ConfirmDialog :style="{ width: '420px' }" />
</template>
