<script setup lang="ts" generic="V extends string | number | null">
import { onClickOutside } from '@vueuse/core';

/* A word of a sentence that can be exchanged: pressing it shows what else could stand there. */
interface Option {
  readonly value: V;
  readonly label: string;
  readonly note?: string;
}
const props = defineProps<{ value: V; options: readonly Option[]; empty?: string; label: string; text?: string }>();
const emit = defineEmits<{ pick: [value: V] }>();
const root = ref<HTMLElement>();
const button = ref<HTMLButtonElement>();
const open = ref(false);
const at = ref(0);
const filter = ref('');
const shown = computed(() => {
  const sought = filter.value.trim().toLowerCase();
  return sought ? props.options.filter((o) => o.label.toLowerCase().includes(sought)) : props.options;
});
const words = computed(() => props.text ?? props.options.find((o) => o.value === props.value)?.label ?? props.empty ?? 'choose');
const missing = computed(() => props.text === undefined && !props.options.some((o) => o.value === props.value));
const search = ref<HTMLInputElement>();

function show(): void {
  open.value = !open.value;
  filter.value = '';
  at.value = Math.max(
    0,
    props.options.findIndex((o) => o.value === props.value),
  );
  if (open.value) void nextTick(() => (search.value ?? root.value?.querySelector<HTMLElement>('[role="listbox"]'))?.focus());
}
function pick(option: Option | undefined): void {
  open.value = false;
  button.value?.focus();
  if (option) emit('pick', option.value);
}
function key(event: KeyboardEvent): void {
  const last = shown.value.length - 1;
  if (event.key === 'ArrowDown') at.value = Math.min(last, at.value + 1);
  else if (event.key === 'ArrowUp') at.value = Math.max(0, at.value - 1);
  else if (event.key === 'Enter' || (event.key === ' ' && !search.value)) pick(shown.value[at.value]);
  else if (event.key === 'Escape') pick(undefined);
  else if (event.key === 'Tab') {
    open.value = false;
    return;
  } else return;
  event.preventDefault();
  event.stopPropagation();
}
onClickOutside(root, () => (open.value = false));
</script>

<template>
  <span ref="root" class="pick">
    <button
      ref="button"
      class="word"
      :class="{ missing }"
      type="button"
      aria-haspopup="listbox"
      :aria-expanded="open"
      :aria-label="`${label}: ${words}`"
      @click="show"
    >
      {{ words }}
    </button>
    <span v-if="open" class="floating drop" @keydown="key">
      <input
        v-if="options.length > 8"
        ref="search"
        v-model="filter"
        class="in"
        type="text"
        :aria-label="`Find ${label}`"
        placeholder="Type to find"
        @input="at = 0"
      />
      <span role="listbox" tabindex="-1" class="list" :aria-label="label" :aria-activedescendant="`o-${at}`">
        <span
          v-for="(o, i) in shown"
          :id="`o-${i}`"
          :key="String(o.value)"
          role="option"
          :aria-selected="o.value === value"
          :class="{ at: i === at, is: o.value === value }"
          @mousemove="at = i"
          @click="pick(o)"
        >
          {{ o.label }}<span v-if="o.note" class="muted">{{ o.note }}</span>
        </span>
        <span v-if="!shown.length" class="muted none">Nothing fits.</span>
      </span>
    </span>
  </span>
</template>

<style scoped>
.pick {
  position: relative;
}
.missing {
  color: var(--bad);
  border-bottom-color: var(--bad);
}
.drop {
  position: absolute;
  z-index: 40;
  left: -8px;
  top: calc(100% + 4px);
  min-width: 180px;
  max-width: 320px;
  font-weight: 400;
  padding: 3px;
}
.list {
  display: block;
  max-height: 260px;
  overflow: auto;
  outline: none;
}
.list > span {
  display: flex;
  justify-content: space-between;
  gap: 14px;
  padding: 4px 10px;
  cursor: pointer;
  border-radius: 3px;
  font-size: 14px;
  line-height: 1.35;
}
.list > .at {
  background: var(--flow-wash);
}
.is {
  font-weight: 700;
}
.none {
  padding: 6px 10px;
}
</style>
