<script setup lang="ts">
import type { Component } from 'vue';
import StayPopover from './StayPopover.ts';

/* A calendar, a clock or both behind a press, beside an input that a date or time is typed into. */
const { value, kind, label } = defineProps<{ value: string | null; kind: 'date' | 'datetime' | 'time'; label: string }>();
const emit = defineEmits<{ pick: [value: string] }>();
const popover = ref<{ toggle(event: Event): void; hide(): void }>();
// the calendar is a fifth of all controls' script, and most dates are typed: it is read when it is first opened
const calendar = shallowRef<Component>();
const two = (n: number): string => String(n).padStart(2, '0');

/** The stored text as the calendar wants it: a local date, never read through a time zone. */
const date = computed(() => {
  if (value === null) return null;
  const found = kind === 'time' ? /^()()()(\d\d):(\d\d)/.exec(value) : /^(\d{4})-(\d\d)-(\d\d)(?:T(\d\d):(\d\d))?/.exec(value);
  if (!found) return null;
  const made = new Date();
  if (kind !== 'time') made.setFullYear(Number(found[1]), Number(found[2]) - 1, Number(found[3]));
  made.setHours(Number(found[4] ?? 0), Number(found[5] ?? 0), 0, 0);
  return made;
});
function picked(to: unknown): void {
  if (!(to instanceof Date)) return;
  const day = `${String(to.getFullYear()).padStart(4, '0')}-${two(to.getMonth() + 1)}-${two(to.getDate())}`;
  const time = `${two(to.getHours())}:${two(to.getMinutes())}`;
  emit('pick', kind === 'date' ? day : kind === 'time' ? time : `${day}T${time}`);
  // a day is one press; a time is turned to over several
  if (kind === 'date') popover.value?.hide();
}
const panel = ref<{ $el: HTMLElement }>();
async function press(event: Event): Promise<void> {
  const target = event.currentTarget;
  calendar.value ??= (await import('primevue/datepicker')).default;
  await nextTick();
  popover.value?.toggle({ ...event, currentTarget: target } as Event);
}
const button = ref<{ $el: HTMLElement }>();
/** Opens it by a key of the input beside it. */
defineExpose({ open: () => button.value?.$el.click() });
function shown(): void {
  panel.value?.$el.querySelector<HTMLElement>('[tabindex="0"]')?.focus();
}
</script>

<template>
  <Button
    ref="button"
    class="cal"
    text
    severity="secondary"
    size="small"
    tabindex="-1"
    :aria-label="kind === 'time' ? `Pick the time of ${label}` : `Pick ${label} from a calendar`"
    @click="press"
    ><i class="pi" :class="kind === 'time' ? 'pi-clock' : 'pi-calendar'" aria-hidden="true"
  /></Button>
  <StayPopover v-if="calendar" ref="popover" :pt="{ root: { 'aria-label': label } }" @show="shown">
    <component
      :is="calendar"
      ref="panel"
      inline
      :model-value="date"
      :show-time="kind !== 'date'"
      :time-only="kind === 'time'"
      hour-format="24"
      @update:model-value="picked"
    />
  </StayPopover>
</template>
