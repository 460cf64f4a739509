<script setup lang="ts">
import { readDate, readDateTime, readNumber, readTime } from '~~/core/values/read.ts';
import { inputNumber, showDate, showDateTime, showTime } from '~~/core/values/show.ts';
import { addDays } from '~~/core/values/dates.ts';
import type { ColumnType } from '~~/core/form/tables.ts';
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
  today?: string;
  /** what stands typed and could not be read, when the control is drawn anew */
  unread?: string | null;
}>();
const emit = defineEmits<{ change: [value: Datum]; misread: [unreadable: { text: string; message: string } | null] }>();

const isLong = computed(() => props.type === 'longtext' || props.type === 'json');
const draft = ref<string | null>(props.unread ?? null);
const focused = ref(false);
const written = computed(() => {
  const v = props.value;
  if (v === null || v === undefined) return '';
  if (typeof v === 'number') return focused.value ? inputNumber(v) : showPlain('number', v, props.decimals ?? null);
  const s = String(v);
  if (props.type === 'date') return focused.value ? s : showDate(s, { locale: LOCALE });
  if (props.type === 'datetime') return focused.value ? s.replace('T', ' ') : showDateTime(s, { locale: LOCALE });
  return props.type === 'time' ? showTime(s) : s;
});
function read(text: string): { ok: true; value: Datum } | { ok: false; message: string } {
  switch (props.type) {
    case 'number':
      return readNumber(text);
    case 'date':
      return /^t(oday)?$/i.test(text.trim()) && props.today ? { ok: true, value: props.today } : readDate(text);
    case 'time':
      return readTime(text);
    case 'datetime':
      return readDateTime(text);
    case 'json':
      try {
        if (text.trim() !== '') JSON.parse(text);
        return { ok: true, value: text.trim() === '' ? null : text };
      } catch (e) {
        return { ok: false, message: `This is no JSON: ${messageOf(e)}.` };
      }
    default:
      return { ok: true, value: text.trim() === '' ? null : text };
  }
}
function commit(): void {
  if (draft.value === null) return;
  const result = read(draft.value);
  if (!result.ok) {
    emit('misread', { text: draft.value, message: result.message });
    return;
  }
  emit('misread', null);
  draft.value = null;
  if (result.value !== props.value) emit('change', result.value);
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
function key(event: KeyboardEvent): void {
  if (event.key === 'Enter' && !isLong.value) commit();
  if (event.key === 'Escape' && draft.value !== null) {
    draft.value = null;
    emit('misread', null);
    event.stopPropagation();
  }
  if (props.type === 'date' && (event.key === 'ArrowUp' || event.key === 'ArrowDown') && !props.locked) {
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
const calendar = computed(() => (props.type === 'date' || props.type === 'datetime' || props.type === 'time' ? props.type : null));
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
      :rows="type === 'json' ? 4 : 2"
      :class="{ mono: type === 'json' }"
      :model-value="draft ?? written"
      :readonly="locked"
      :invalid="invalid"
      :aria-label="label"
      :aria-describedby="describedby"
      :aria-required="required || undefined"
      @update:model-value="draft = $event ?? ''"
      @focus="focused = true"
      @blur="leave"
      @keydown="key"
    />
    <InputText
      v-else
      :id="id"
      autocomplete="off"
      :class="{ num: type === 'number' }"
      :inputmode="type === 'number' ? 'decimal' : undefined"
      :model-value="draft ?? written"
      :readonly="locked"
      :placeholder="type === 'date' && !locked ? 'day.month.year' : undefined"
      :invalid="invalid"
      :aria-label="label"
      :aria-describedby="describedby"
      :aria-required="required || undefined"
      @update:model-value="draft = $event ?? ''"
      @focus="enter"
      @blur="leave"
      @keydown="key"
    />
    <CalendarPick
      v-if="calendar && !locked"
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
