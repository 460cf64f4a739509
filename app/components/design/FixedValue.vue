<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core';
import { useConditionValues } from './conditionValues';
import type { Fixed } from './fixedChoices';
import { inQuotes } from '~~/core/values/text.ts';

/*
 * A fixed value of a condition or a default: chosen from what stands in the column it belongs to, or from its list; a value that
 * does not (yet) exist there may be typed, and is marked.
 */
const props = defineProps<{
  value: string;
  label: string;
  /** the column whose values are offered … */
  column?: { readonly table: string; readonly key: string } | null;
  /** … or the values of its list */
  options?: readonly Fixed[] | null;
}>();
const emit = defineEmits<{ take: [text: string]; cancel: [] }>();
const values = useConditionValues();
const MOST = 60;
const box = ref<{ $el: HTMLElement; show(): void; hide(): void }>();
const text = ref(props.options?.find((o) => o.value === props.value)?.label ?? props.value);
const changed = ref(false);
const read = shallowRef<readonly Fixed[]>(props.options ?? []);
const more = ref(false);
const failed = ref('');
const typed = computed(() => text.value.trim());
const shown = computed(() => {
  if (!props.options) return [...read.value];
  const sought = changed.value ? typed.value.toLowerCase() : '';
  return props.options.filter((o) => o.label.toLowerCase().includes(sought) || o.value.toLowerCase().includes(sought));
});
const sameAs = (all: readonly Fixed[]): Fixed | undefined =>
  all.find((o) => [o.label, o.value].some((t) => t.toLowerCase() === typed.value.toLowerCase()));
const exact = computed(() => sameAs(read.value));
/** Nothing that is there begins with what is typed; until that is read, what was there before is still shown. */
const unknown = computed(() => changed.value && typed.value !== '' && !shown.value.length && !more.value && !failed.value);

let asked = 0;
/** Reads what begins with a text; gives it, though something newer may be shown by then. */
async function look(search: string): Promise<readonly Fixed[]> {
  const { column } = props;
  if (!column || props.options) return read.value;
  const mine = ++asked;
  try {
    const answer = await values.read(column, { search, limit: MOST });
    const found = answer.values.map((value) => ({ value, label: value }));
    if (mine !== asked) return found;
    failed.value = '';
    more.value = answer.more;
    return (read.value = found);
  } catch (e) {
    if (mine === asked) failed.value = messageOf(e);
    return [];
  }
}
const lookSoon = useDebounceFn(() => look(typed.value), 150);
onMounted(async () => {
  await look('');
  const input = box.value?.$el.querySelector('input');
  input?.focus();
  input?.select();
  box.value?.show();
});
function written(event: Event): void {
  text.value = (event.target as HTMLInputElement).value;
  changed.value = true;
  void lookSoon();
}
let over = false;
function take(value: string): void {
  if (over) return;
  over = true;
  emit('take', value);
}
/** Ended by Enter: what is typed counts, in the spelling that exists. */
async function commit(): Promise<void> {
  if (over) return;
  // what is there may not have been read for what is typed
  const there = exact.value ?? (changed.value && typed.value !== '' ? sameAs(await look(typed.value)) : undefined);
  if (changed.value && typed.value !== '') take(there?.value ?? typed.value);
  else if (!over) {
    over = true;
    emit('cancel');
  }
}
/**
 * Left with something typed, that counts at once: what is looked at next may be another field, of which this value is none. In the
 * spelling that exists, as far as that was read by then. Left as it was, it waits: what was open before may only have given the focus back.
 */
function left(): void {
  if (changed.value && typed.value !== '') take(exact.value?.value ?? typed.value);
}
/** Who presses what is offered has not left. */
const stays = (event: MouseEvent): void => event.preventDefault();
function open(): void {
  if (!changed.value) box.value?.show();
}
function key(event: KeyboardEvent): void {
  if (event.key === 'Enter') setTimeout(() => void commit());
  // what is typed is not thrown away by it
  else if (event.key === 'Escape' && !(changed.value && typed.value !== '')) void commit();
  if (event.key === 'Escape') event.stopPropagation();
}
</script>

<template>
  <span class="fixed">
    <StayAutoComplete
      ref="box"
      :model-value="text"
      :suggestions="shown"
      option-label="label"
      :typeahead="false"
      :show-empty-message="false"
      size="small"
      dropdown
      scroll-height="240px"
      :pt="{
        pcInputText: { root: { 'aria-label': label, spellcheck: false } },
        dropdown: { tabindex: -1, 'aria-label': 'What there is', onMousedown: stays },
        overlay: { onMousedown: stays },
      }"
      @input="written"
      @option-select="take($event.value.value)"
      @complete="look(typed)"
      @keydown="key"
      @focus="open"
      @blur="left"
    />
    <span v-if="failed" class="bad small">{{ failed }}</span>
    <span v-else-if="unknown" class="bad small" role="status">Nothing there is {{ inQuotes(typed) }}.</span>
  </span>
</template>

<style scoped>
.fixed {
  display: inline-flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  max-width: 100%;
}
.fixed :deep(.p-autocomplete) {
  width: 210px;
}
.small {
  font-size: 13px;
}
</style>
