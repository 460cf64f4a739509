<script setup lang="ts">
import { useQuery } from '@pinia/colada';
import { share } from './fillWords';

/* How often what a field is given is kept, beside its fill; it leads to what the records say. */
const props = defineProps<{ field: string }>();
const draft = useDraft();
const { data } = useQuery({
  key: () => ['kept', draft.formKey, draft.version ?? 0],
  query: () => api.evidence.kept({ key: draft.formKey }),
  enabled: () => draft.version !== null,
  // a glance: what was saved in the last minutes does not matter
  staleTime: 300_000,
});
const kept = computed(() => {
  const { kept: n, of } = data.value?.[props.field] ?? { kept: 0, of: 0 };
  return of ? `kept in ${share(n, of)} of ${of.toLocaleString(LOCALE)}` : null;
});
</script>

<template>
  <NuxtLink
    v-if="kept !== null"
    class="word small"
    :to="`/design/forms/${draft.formKey}/records-say?field=${field}`"
    title="What the records say"
    >{{ kept }}</NuxtLink
  >
</template>

<style scoped>
.small {
  font-size: 13px;
}
</style>
