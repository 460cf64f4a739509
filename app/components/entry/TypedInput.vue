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
  id: string;
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
  if (typeof v === 'number')
    return focused.value
      ? inputNumber(v)
      : showTyped(undefined as never, undefined as never, { kind: 'number' }, v, props.decimals ?? null);
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
const picker = ref<HTMLInputElement>();
defineExpose({ commit });
</script>

<template>
  <div class="typed">
    <textarea
      v-if="isLong"
      :id="id"
      class="in"
      :rows="type === 'json' ? 4 : 2"
      :class="{ mono: type === 'json' }"
      :value="draft ?? written"
      :readonly="locked"
      :aria-invalid="invalid || undefined"
      :aria-describedby="describedby"
      :aria-required="required || undefined"
      @input="draft = ($event.target as HTMLTextAreaElement).value"
      @focus="focused = true"
      @blur="leave"
      @keydown="key"
    />
    <input
      v-else
      :id="id"
      class="in"
      type="text"
      autocomplete="off"
      :class="{ num: type === 'number' }"
      :inputmode="type === 'number' ? 'decimal' : undefined"
      :value="draft ?? written"
      :readonly="locked"
      :placeholder="type === 'date' && !locked ? 'day.month.year' : undefined"
      :aria-invalid="invalid || undefined"
      :aria-describedby="describedby"
      :aria-required="required || undefined"
      @input="draft = ($event.target as HTMLInputElement).value"
      @focus="enter"
      @blur="leave"
      @keydown="key"
    />
    <template v-if="type === 'date' && !locked">
      <button class="btn plain small cal" type="button" tabindex="-1" aria-label="Pick from a calendar" @click="picker?.showPicker()">
        <i class="pi pi-calendar" />
      </button>
      <input
        ref="picker"
        class="native"
        type="date"
        tabindex="-1"
        aria-hidden="true"
        :value="value"
        @change="emit('change', ($event.target as HTMLInputElement).value || null)"
      />
    </template>
  </div>
</template>

<style scoped>
.typed {
  position: relative;
}
.num {
  text-align: right;
}
.cal {
  position: absolute;
  right: 2px;
  top: 3px;
  padding: 0 7px;
  color: var(--ink-2);
}
.native {
  position: absolute;
  right: 0;
  bottom: 0;
  width: 1px;
  height: 1px;
  opacity: 0;
  border: 0;
  padding: 0;
}
</style>
