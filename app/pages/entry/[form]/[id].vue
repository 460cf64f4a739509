<script setup lang="ts">
const route = useRoute();
const id = computed(() => Number(route.params.id));
</script>

<template><EntryScreen :key="`${String(route.params.form)} ${id}`" :form="String(route.params.form)" :record="id" /></template>
