<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core';
import { inQuotes } from '~~/core/values/text.ts';

/* Any row of a table, found by typing a part of what people know it by. */
interface Found {
  readonly id: number;
  readonly text: string;
}
const props = defineProps<{ table: string; label: string; placeholder?: string; autofocus?: boolean }>();
const emit = defineEmits<{ pick: [row: Found] }>();
const text = ref('');
const found = shallowRef<Found[]>([]);
const failed = ref('');
const total = ref(0);
const box = ref<{ $el: HTMLElement; show(): void }>();
let asked = 0;
async function look(): Promise<void> {
  const mine = ++asked;
  try {
    const answer = await api.tables.find({ key: props.table }, { search: text.value.trim() });
    if (mine !== asked) return;
    found.value = answer.rows;
    total.value = answer.total;
    failed.value = '';
  } catch (e) {
    if (mine === asked) failed.value = messageOf(e);
  }
}
const lookSoon = useDebounceFn(look, 150);
function typed(event: Event): void {
  text.value = (event.target as HTMLInputElement).value;
  void lookSoon();
}
async function open(): Promise<void> {
  await look();
  box.value?.show();
}
function take(row: Found): void {
  text.value = row.text;
  emit('pick', row);
}
onMounted(() => props.autofocus && box.value?.$el.querySelector('input')?.focus());
</script>

<template>
  <span class="find">
    <StayAutoComplete
      ref="box"
      :model-value="text"
      :suggestions="found"
      option-label="text"
      data-key="id"
      :typeahead="false"
      :show-empty-message="false"
      dropdown
      size="small"
      :placeholder="placeholder ?? 'Type to find a row'"
      scroll-height="240px"
      :pt="{ pcInputText: { root: { 'aria-label': label, spellcheck: false } }, dropdown: { tabindex: -1, 'aria-label': 'Rows' } }"
      @input="typed"
      @focus="open"
      @complete="open"
      @option-select="take($event.value)"
    >
      <template #footer>
        <p v-if="failed" class="bad say">{{ failed }}</p>
        <p v-else-if="!found.length" class="say">No row has {{ inQuotes(text) }} in it.</p>
        <p v-else-if="total > found.length" class="muted say">
          {{ (total - found.length).toLocaleString(LOCALE) }} more: type on to find them
        </p>
      </template>
    </StayAutoComplete>
  </span>
</template>

<style scoped>
.say {
  padding: 5px 10px;
  font-size: 13px;
}
</style>
