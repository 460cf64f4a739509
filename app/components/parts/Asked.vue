<script setup lang="ts" generic="T">
import type { UseQueryReturn } from '@pinia/colada';

/*
 * Something that is fetched: a place for it while it is read, what happened when it could not be, with a way to try again, and
 * itself; what was read before stays in sight while it is read again, and is said to be old where that failed.
 */
const { query, height = '120px' } = defineProps<{
  query: Pick<UseQueryReturn<T>, 'data' | 'error' | 'refetch'>;
  /** the height of the place kept for it */
  height?: string;
}>();
const data = computed(() => query.data.value as T | undefined);
const failed = computed(() => (query.error.value ? messageOf(query.error.value) : ''));
</script>

<template>
  <Note v-if="failed && data === undefined" kind="bad" :retry="() => query.refetch()">{{ failed }}</Note>
  <Skeleton v-else-if="data === undefined" :height="height" />
  <template v-else>
    <Note v-if="failed" :retry="() => query.refetch()">This may be out of date. {{ failed }}</Note>
    <slot :data="data" />
  </template>
</template>
