<script setup lang="ts">
import type { FieldFormat } from '~~/core/values/show.ts';
import { useDebounceFn } from '@vueuse/core';
import { addDays } from '~~/core/values/dates.ts';
import { type ColumnType, KINDS, type ValueKind } from '~~/core/values/kinds/index.ts';
import type { Datum } from '~~/core/values/types.ts';

/* A text, number, date or time as people type it: read when the field is left, with a sentence when it cannot be. */
const props = defineProps<{
  type: ColumnType;
  value: Datum;
  id?: string;
  /** for those who do not see it, where no label of the page names it */
  label?: string;
  locked?: boolean;
  required?: boolean;
  invalid?: boolean;
  describedby?: string;
  decimals?: number | null;
  /** how the value is shown while nobody types it */
  format?: FieldFormat | null;
  today?: string;
  placeholder?: string | null;
  /** what stands typed and could not be read, when the control is drawn anew */
  unread?: string | null;
  /** what is typed counts after a short rest already, not only when the field is left */
  live?: boolean;
}>();
const emit = defineEmits<{ change: [value: Datum]; misread: [unreadable: { text: string; message: string } | null] }>();

const draft = ref<string | null>(props.unread ?? null);
const focused = ref(false);
const kind = computed<ValueKind>(() => KINDS[props.type]);
const typing = computed(() => COLUMN_LOOKS[props.type]);
const isLong = computed(() => (typing.value.lines ?? 1) > 1);
// what is shown may differ from what is typed: a date in words, and as ISO
const written = computed(() =>
  focused.value ? kind.value.written(props.value) : showPlain(props.type, props.value, props.decimals ?? null, props.format ?? null),
);
function commit(): void {
  if (draft.value === null) return;
  const result = kind.value.read(draft.value, props.today);
  if (!result.ok) {
    emit('misread', { text: draft.value, message: result.message });
    return;
  }
  emit('misread', null);
  draft.value = null;
  if (result.value !== props.value) emit('change', result.value);
}
/** How long typing rests before it counts, in milliseconds. */
const REST = 450;
const rested = useDebounceFn(() => {
  const text = draft.value;
  if (text === null || !focused.value || !props.live) return;
  // half a date may be another date; what cannot be read yet may only be unfinished
  if (typing.value.calendar && !/\d{4}/.test(text)) return;
  const result = kind.value.read(text, props.today);
  if (result.ok && result.value !== props.value) {
    emit('misread', null);
    emit('change', result.value);
  }
}, REST);
function typed(text: string): void {
  draft.value = text;
  if (props.live) void rested();
}
/** The editable form may differ from the one shown (a date as ISO), so it is selected once it stands there. */
function enter(event: FocusEvent): void {
  focused.value = true;
  void nextTick(() => (event.target as HTMLInputElement).select());
}
function leave(): void {
  focused.value = false;
  commit();
}
const picker = ref<{ open(): void }>();
function key(event: KeyboardEvent): void {
  if (event.altKey && event.key === 'ArrowDown' && calendar.value && !props.locked) {
    event.preventDefault();
    picker.value?.open();
    return;
  }
  if (event.key === 'Enter' && !isLong.value) commit();
  if (typing.value.steps && (event.key === 'ArrowUp' || event.key === 'ArrowDown') && !props.locked) {
    const base = typeof props.value === 'string' ? props.value : props.today;
    const next = base ? addDays(base, props.value === null ? 0 : event.key === 'ArrowUp' ? 1 : -1) : null;
    if (next) {
      emit('misread', null);
      emit('change', next);
    }
    draft.value = null;
    event.preventDefault();
  }
}
// a value that comes from elsewhere never takes the place of what is being typed, nor of what could not be read
watch(
  () => props.value,
  () => {
    if (!focused.value && !props.unread) draft.value = null;
  },
);
const calendar = computed(() => typing.value.calendar ?? null);
function picked(value: string): void {
  draft.value = null;
  emit('misread', null);
  if (value !== props.value) emit('change', value);
}
defineExpose({ commit });
</script>

<template>
  <div class="typed" :class="{ dated: calendar && !locked }">
    <Textarea
      v-if="isLong"
      :id="id"
      :rows="typing.lines"
      :placeholder="locked ? undefined : (placeholder ?? undefined)"
      :class="{ mono: typing.mono }"
      :model-value="draft ?? written"
      :readonly="locked"
      :invalid="invalid"
      :aria-label="label"
      :aria-describedby="describedby"
      :aria-required="required || undefined"
      @update:model-value="typed($event ?? '')"
      @focus="focused = true"
      @blur="leave"
      @keydown="key"
    />
    <InputText
      v-else
      :id="id"
      autocomplete="off"
      :class="{ num: typing.figures }"
      :inputmode="typing.figures ? 'decimal' : undefined"
      :model-value="draft ?? written"
      :readonly="locked"
      :placeholder="locked ? undefined : (placeholder ?? typing.placeholder)"
      :invalid="invalid"
      :aria-label="label"
      :aria-describedby="describedby"
      :aria-required="required || undefined"
      @update:model-value="typed($event ?? '')"
      @focus="enter"
      @blur="leave"
      @keydown="key"
    />
    <CalendarPick
      v-if="calendar && !locked"
      ref="picker"
      :value="typeof value === 'string' ? value : null"
      :kind="calendar"
      :label="label ?? 'the day'"
      @pick="picked"
    />
  </div>
</template>

<style scoped>
.typed {
  position: relative;
}
.dated :deep(.p-inputtext) {
  padding-right: 32px;
}
.typed :deep(.cal) {
  position: absolute;
  right: 2px;
  top: 3px;
  padding: 0 7px;
  color: var(--ink-2);
}
</style>
