<script setup lang="ts">
import type { ComponentPublicInstance } from 'vue';
import StayPopover from './StayPopover.ts';

/* The name of a thing in formulas, which can be changed: pressed, it is asked for another, and what comes of that is said. */
const props = defineProps<{
  name: string;
  /** what has the name: “the field” */
  of: string;
  /** what else a change does */
  note?: string;
  /** why another name cannot be had, as a sentence; null when it can */
  problem: (name: string) => string | null;
  /** gives the other name; what it is refused with is said */
  rename: (name: string) => unknown;
}>();
const id = useId();
const button = ref<ComponentPublicInstance>();
const popover = ref<{ toggle(event: Event): void; hide(): void }>();
const input = ref<ComponentPublicInstance>();
/** a name that was never pressed costs no box */
const used = ref(false);
const text = ref('');
const refused = ref('');
const busy = ref(false);
const wrong = computed(() => (text.value.trim() === props.name ? null : props.problem(text.value.trim())));
async function press(event: Event): Promise<void> {
  const target = event.currentTarget;
  used.value = true;
  await nextTick();
  popover.value?.toggle({ ...event, currentTarget: target } as Event);
}
function shown(): void {
  text.value = props.name;
  refused.value = '';
  void nextTick(() => (input.value?.$el as HTMLInputElement | undefined)?.select());
}
/** A dialog around it stays open. */
function close(): void {
  popover.value?.hide();
  (button.value?.$el as HTMLElement | undefined)?.focus();
}
async function commit(): Promise<void> {
  const fresh = text.value.trim();
  if (wrong.value !== null || busy.value) return;
  busy.value = true;
  try {
    if (fresh !== props.name) await props.rename(fresh);
    close();
  } catch (e) {
    refused.value = messageOf(e);
  } finally {
    busy.value = false;
  }
}
</script>

<template>
  <Button
    ref="button"
    v-tooltip.top="'The name in formulas; press to change it'"
    link
    class="mono"
    data-name-word
    aria-haspopup="dialog"
    :aria-label="`Name of ${of} in formulas: ${name}`"
    @click="press"
    >{{ name }}</Button
  >
  <StayPopover v-if="used" ref="popover" :pt="{ root: { 'aria-label': `Another name for ${of}` } }" @show="shown">
    <form class="naming" @submit.prevent="commit" @keydown.esc.stop="close">
      <label class="label" :for="id">Name of {{ of }} in formulas</label>
      <div class="row">
        <InputText
          :id="id"
          ref="input"
          v-model="text"
          class="mono"
          :invalid="wrong !== null"
          :aria-describedby="`${id}-say`"
          spellcheck="false"
        />
        <Button type="submit" size="small" label="Rename" :disabled="wrong !== null" :loading="busy" />
      </div>
      <p :id="`${id}-say`" :class="wrong || refused ? 'bad' : 'muted'" :role="wrong || refused ? 'alert' : undefined">
        {{ wrong ?? (refused || `Every formula that names it is changed with it. ${note ?? ''}`) }}
      </p>
    </form>
  </StayPopover>
</template>

<style scoped>
.naming {
  width: 330px;
  display: grid;
  gap: 4px;
}
.naming p {
  font-size: 13px;
}
.naming .row > :first-child {
  flex: 1;
}
</style>
