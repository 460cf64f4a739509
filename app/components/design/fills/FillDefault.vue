<script setup lang="ts">
import type { FillPart } from './index';

/* What is said of a default behind its formula. */
defineProps<FillPart<'default'>>();
</script>

<template>On edit, the saved value stays.</template>
