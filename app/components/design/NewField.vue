<script setup lang="ts">
import { tableOfOne } from '~~/core/model/singular.ts';
import { COLUMN_TYPES, COLUMN_TYPE_LABELS, type ColumnType } from '~~/core/model/tables.ts';

/* A label and what it holds: all that a new field needs. */
const { of = '', type = 'text', cancels = false } = defineProps<{ of?: string; type?: ColumnType; cancels?: boolean }>();
/** `table`: the one whose rows it most likely holds. */
const emit = defineEmits<{ add: [label: string, type: ColumnType, table: string | null]; cancel: [] }>();
const draft = useDraft();
const TYPES = COLUMN_TYPES.map((value) => ({ value, label: COLUMN_TYPE_LABELS[value] }));
const label = ref('');
/** what somebody chose; until then a field that is called like one of a table’s rows is a link to it */
const picked = ref<ColumnType | null>(null);
const table = computed(() => tableOfOne(label.value, draft.tables.values()));
const chosen = computed<ColumnType>({
  get: () => picked.value ?? (table.value ? 'link' : type),
  set: (to) => (picked.value = to),
});
const input = ref<{ $el: HTMLElement }>();
onMounted(() => cancels && nextTick(() => input.value?.$el.focus()));
function add(): void {
  const text = label.value.trim();
  if (!text) return;
  const kind = chosen.value;
  const of = kind === 'link' ? (table.value?.key ?? null) : null;
  label.value = '';
  picked.value = null;
  emit('add', text, kind, of);
}
</script>

<template>
  <form class="adder" @submit.prevent="add">
    <InputText
      ref="input"
      v-model="label"
      placeholder="Label of the field"
      :aria-label="`Label of the new field${of}`"
      @keydown.esc="label.trim() || emit('cancel')"
    />
    <PickOne v-model="chosen" :label="`Type of the new field${of}`" :options="TYPES" />
    <span v-if="table && chosen === 'link'" class="muted of">of {{ table.label }}</span>
    <Button size="small" type="submit" label="Add" :disabled="!label.trim()" />
    <Button v-if="cancels" text severity="secondary" size="small" label="Cancel" @click="emit('cancel')" />
  </form>
</template>

<style scoped>
.adder {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 150px repeat(3, auto);
  align-items: center;
  gap: 8px;
}
</style>
