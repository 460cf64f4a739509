<script setup lang="ts" generic="V extends string | number | null">
import type { ComponentPublicInstance } from 'vue';
import StayPopover from './StayPopover.ts';

/*
 * A word of a sentence that can be exchanged: pressing it shows what else could stand there. An option may lead on to others,
 * as a link does to the columns of the row behind it; a search goes through all of them.
 */
interface Option {
  readonly value: V;
  readonly label: string;
  readonly note?: string;
  readonly inside?: () => readonly Option[];
}
const props = defineProps<{
  value: V;
  options: readonly Option[];
  empty?: string;
  label: string;
  text?: string;
  /** all that the options lead to, for a search; the options themselves when not given */
  every?: () => readonly Option[];
  /** nothing has been chosen yet, and it is asked for */
  asks?: boolean;
  /** the list opens by itself */
  startOpen?: boolean;
}>();
const emit = defineEmits<{ pick: [value: V] }>();
const words = computed(() => props.text ?? props.options.find((o) => o.value === props.value)?.label ?? props.empty ?? 'choose');
const missing = computed(() => props.text === undefined && !props.options.some((o) => o.value === props.value));
/** the options that were gone into, and what is typed to find one */
const trail = shallowRef<readonly Option[]>([]);
const sought = ref('');
const offered = computed<readonly Option[]>(() => {
  if (sought.value && props.every) return props.every();
  return trail.value.at(-1)?.inside?.() ?? props.options;
});
/** options by their place: a value may also be nothing */
const places = computed(() => {
  const back = trail.value.length && !sought.value ? [{ value: props.value, label: '‹ back', place: BACK }] : [];
  return [...back, ...offered.value.map((o, place) => ({ ...o, place }))];
});
const BACK = -1;
const place = computed(() => places.value.find((o) => o.value === props.value && o.place !== BACK)?.place ?? null);
/** as many as one sees at a glance need no search */
const searched = computed(() => props.options.length > 8 || props.options.some((o) => o.inside));

const button = ref<ComponentPublicInstance>();
const popover = ref<{ show(event: Event, target?: unknown): void; hide(): void }>();
const list = ref<ComponentPublicInstance>();
/** a word that was never pressed costs no list */
const used = ref(false);
const open = ref(false);
async function press(event: Event): Promise<void> {
  const target = event.currentTarget;
  if (open.value) return popover.value?.hide();
  used.value = true;
  trail.value = [];
  sought.value = '';
  await nextTick();
  popover.value?.show({ ...event, currentTarget: target } as Event, target);
}
function shown(): void {
  open.value = true;
  const root = list.value?.$el as HTMLElement | undefined;
  root?.querySelector<HTMLElement>(searched.value ? 'input' : '[role="listbox"]')?.focus();
}
function close(): void {
  popover.value?.hide();
  (button.value?.$el as HTMLElement | undefined)?.focus();
}
function pick(at: number | null): void {
  const option = at === null ? undefined : offered.value[at];
  if (at === BACK) return goInto(trail.value.slice(0, -1));
  if (option?.inside) return goInto([...trail.value, option]);
  close();
  // the one that stands there already, pressed again, stays
  if (option) emit('pick', option.value);
}
function goInto(to: readonly Option[]): void {
  trail.value = to;
  sought.value = '';
  const inList = list.value as unknown as { filterValue: string | null; focusedOptionIndex: number } | undefined;
  if (inList) {
    inList.filterValue = null;
    void nextTick(() => (inList.focusedOptionIndex = to.length ? 1 : 0));
  }
}
// a word that asks opens by itself, once it stands where it belongs
onMounted(() => props.startOpen && setTimeout(() => (button.value?.$el as HTMLElement | undefined)?.click()));
/** With a search typed, Enter takes what stands first; so it does where something is asked for, since the likeliest stands first. */
function first(event: KeyboardEvent): void {
  const typed = (event.target as HTMLInputElement).value?.trim().toLowerCase();
  const inList = list.value as unknown as { focusedOptionIndex: number } | undefined;
  if (!searched.value || (!typed && !props.asks) || inList?.focusedOptionIndex !== -1) return;
  const offers = places.value.filter((o) => o.place !== BACK && o.label.toLowerCase().includes(typed));
  // what is called exactly so is meant, wherever it stands
  const fits = offers.find((o) => o.label.toLowerCase() === typed) ?? offers[0];
  if (!fits) return;
  // the same press would open the list again, from the word that has the focus now
  event.preventDefault();
  pick(fits.place);
}
</script>

<template>
  <span class="pick">
    <Button
      ref="button"
      link
      :class="{ bad: missing && !asks, asks }"
      aria-haspopup="listbox"
      :aria-expanded="open"
      :aria-label="`${label}: ${words}`"
      @click="press"
      >{{ words }}</Button
    >
    <StayPopover v-if="used" ref="popover" :pt="{ root: { 'aria-label': label } }" @show="shown" @hide="open = false">
      <Listbox
        ref="list"
        class="words"
        :model-value="place"
        :options="places"
        option-label="label"
        option-value="place"
        :aria-label="label"
        :filter="searched"
        filter-placeholder="Type to find"
        scroll-height="260px"
        empty-filter-message="Nothing found."
        @filter="sought = String($event.value ?? '')"
        @update:model-value="pick"
        @keydown.esc.stop.prevent="close"
        @keydown.tab="close"
        @keydown.enter="first"
      >
        <template #option="{ option }"
          >{{ option.label }}<span v-if="option.note" class="muted note">{{ option.note }}</span></template
        >
      </Listbox>
    </StayPopover>
  </span>
</template>

<style scoped>
.asks {
  border-bottom: 1px dashed var(--flow);
  color: var(--flow-ink);
}
.words {
  min-width: 180px;
  max-width: 320px;
}
.note {
  margin-left: auto;
  padding-left: 14px;
  font-weight: 400;
}
</style>
