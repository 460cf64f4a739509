<script setup lang="ts">
/* What stands over every screen when there is something to say or to ask. */
const emit = defineEmits<{ stands: [] }>();
onMounted(() => emit('stands'));
</script>

<template>
  <SignInAgain />
  <Toast position="bottom-right" />
  <ConfirmDialog :style="{ width: '420px' }" />
</template>
