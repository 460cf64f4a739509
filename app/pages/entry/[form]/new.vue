<script setup lang="ts">
const route = useRoute();
</script>

<template><EntryScreen :key="String(route.params.form)" :form="String(route.params.form)" :record="null" /></template>
