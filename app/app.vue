<script setup lang="ts">
import { OverAll } from '~/components/lateParts';
useScheme();
const { wanted, stands } = useOverAll();
</script>

<template>
  <NuxtLayout>
    <NuxtPage />
  </NuxtLayout>
  <OverAll v-if="wanted" @stands="stands" />
</template>
