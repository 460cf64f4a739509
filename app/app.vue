<script setup lang="ts">
useScheme();
</script>

<template>
  <NuxtLayout>
    <NuxtPage />
  </NuxtLayout>
  <SignInAgain />
  <Toast position="bottom-right" />
  <ConfirmDialog :style="{ width: '420px' }" />
</template>
