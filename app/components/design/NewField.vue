<script setup lang="ts">
import { COLUMN_TYPES, COLUMN_TYPE_LABELS, type ColumnType } from '~~/core/model/tables.ts';

/* A label and what it holds: all that a new field needs. */
const { of = '', type = 'text', cancels = false } = defineProps<{ of?: string; type?: ColumnType; cancels?: boolean }>();
const emit = defineEmits<{ add: [label: string, type: ColumnType]; cancel: [] }>();
const TYPES = COLUMN_TYPES.map((value) => ({ value, label: COLUMN_TYPE_LABELS[value] }));
const label = ref('');
const chosen = ref<ColumnType>(type);
const input = ref<{ $el: HTMLElement }>();
onMounted(() => cancels && nextTick(() => input.value?.$el.focus()));
function add(): void {
  const text = label.value.trim();
  if (!text) return;
  label.value = '';
  emit('add', text, chosen.value);
}
</script>

<template>
  <form class="adder" @submit.prevent="add">
    <InputText
      ref="input"
      v-model="label"
      placeholder="Label of the field"
      :aria-label="`Label of the new field${of}`"
      @keydown.esc="emit('cancel')"
    />
    <PickOne v-model="chosen" :label="`Type of the new field${of}`" :options="TYPES" />
    <Button size="small" type="submit" label="Add" :disabled="!label.trim()" />
    <Button v-if="cancels" text severity="secondary" size="small" label="Cancel" @click="emit('cancel')" />
  </form>
</template>

<style scoped>
.adder {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 150px auto auto;
  align-items: center;
  gap: 8px;
}
</style>
