<script setup lang="ts" generic="V extends string | number | null">
import type { ComponentPublicInstance } from 'vue';

/* A word of a sentence that can be exchanged: pressing it shows what else could stand there. */
interface Option {
  readonly value: V;
  readonly label: string;
  readonly note?: string;
}
const props = defineProps<{ value: V; options: readonly Option[]; empty?: string; label: string; text?: string }>();
const emit = defineEmits<{ pick: [value: V] }>();
const words = computed(() => props.text ?? props.options.find((o) => o.value === props.value)?.label ?? props.empty ?? 'choose');
const missing = computed(() => props.text === undefined && !props.options.some((o) => o.value === props.value));
/** options by their place: a value may also be nothing */
const places = computed(() => props.options.map((o, place) => ({ ...o, place })));
const place = computed(() => places.value.find((o) => o.value === props.value)?.place ?? null);
/** as many as one sees at a glance need no search */
const searched = computed(() => props.options.length > 8);

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
  close();
  // the one that stands there already, pressed again, stays
  const option = at === null ? undefined : props.options[at];
  if (option) emit('pick', option.value);
}
/** With a search typed, Enter takes what stands first. */
function first(event: KeyboardEvent): void {
  const sought = (event.target as HTMLInputElement).value?.trim().toLowerCase();
  const inList = list.value as unknown as { focusedOptionIndex: number } | undefined;
  if (!searched.value || !sought || inList?.focusedOptionIndex !== -1) return;
  const fits = places.value.find((o) => o.label.toLowerCase().includes(sought));
  if (fits) pick(fits.place);
}
</script>

<template>
  <span class="pick">
    <Button
      ref="button"
      link
      :class="{ bad: missing }"
      aria-haspopup="listbox"
      :aria-expanded="open"
      :aria-label="`${label}: ${words}`"
      @click="press"
      >{{ words }}</Button
    >
    <Popover v-if="used" ref="popover" :pt="{ root: { 'aria-label': label } }" @show="shown" @hide="open = false">
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
        empty-filter-message="Nothing fits."
        @update:model-value="pick"
        @keydown.esc.stop.prevent="close"
        @keydown.tab="close"
        @keydown.enter="first"
      >
        <template #option="{ option }"
          >{{ option.label }}<span v-if="option.note" class="muted note">{{ option.note }}</span></template
        >
      </Listbox>
    </Popover>
  </span>
</template>

<style scoped>
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
