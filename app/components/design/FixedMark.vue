<script setup lang="ts">
import { useConditionValues } from './conditionValues';

/* Says beside a fixed text that nothing in its column is called so; nothing, while that is not known. */
const props = defineProps<{ text: string; column: { readonly table: string; readonly key: string } }>();
const fixed = useConditionValues();
const MOST = 60;
const isMissing = ref(false);
let asked = 0;
watch(
  () => [props.column.table, props.column.key, props.text] as const,
  async ([table, column, text]) => {
    const mine = ++asked;
    isMissing.value = false;
    if (text.trim() === '') return;
    const same = (value: string): boolean => value.trim().toLowerCase() === text.trim().toLowerCase();
    try {
      const { values, more } = await fixed.read({ table, key: column }, { search: text.trim(), limit: MOST });
      if (mine === asked) isMissing.value = !more && !values.some(same);
    } catch {
      // what cannot be looked up is not called a mistake
    }
  },
  { immediate: true },
);
</script>

<template>
  <span v-if="isMissing" class="bad small" role="note"> (nothing there is called so)</span>
</template>

<style scoped>
.small {
  font-size: 13px;
}
</style>
