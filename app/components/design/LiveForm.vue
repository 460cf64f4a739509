<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core';
import { placedOrder } from '~~/core/form/definition.ts';
import { addSection, placeOf } from '~~/core/form/edit.ts';

/* The live draft form with its rail: real controls on the draft, in the order they will be filled. */
const draft = useDraft();
const tryout = useTryout();
const emit = defineEmits<{ why: [field: string] }>();
const form = computed(() => draft.form!);
const sections = computed(() => form.value.pages.flatMap((p) => p.sections));
const root = ref<HTMLElement>();
const sheet = ref<HTMLElement>();
const rows = shallowRef<readonly { key: string; y: number }[]>([]);
const height = ref(0);

/** Where each field's row stands, for the tracks. Measured after every drawing, since rows grow with messages. */
function measure(): void {
  const el = sheet.value;
  if (!el) return;
  const top = el.getBoundingClientRect().top;
  const measured = [...el.querySelectorAll<HTMLElement>('[data-row]')].map((r) => ({
    key: r.dataset.row ?? '',
    y: Math.round(r.getBoundingClientRect().top - top + 20),
  }));
  // setting the same places again would draw, measure and set for ever
  if (JSON.stringify(measured) !== JSON.stringify(rows.value)) rows.value = measured;
  if (height.value !== el.offsetHeight) height.value = el.offsetHeight;
}
useResizeObserver(sheet, measure);
onUpdated(measure);
watch([form, () => tryout.host.steps.value], () => nextTick(measure));
onMounted(() => nextTick(measure));

// ---- adding ----
const addingLines = ref<string | null>(null);
const parts = ref<{ id: string; startAdding(): void }[]>([]);
function startAdding(): void {
  const at = placeOf(form.value, draft.selected ?? '')?.section.id ?? sections.value[0]!.id;
  parts.value.find((p) => p.id === at)?.startAdding();
}
function addSectionAfter(id: string): void {
  const { form: next, id: made } = addSection(form.value, id, 'New section');
  draft.change(next);
  void nextTick(() => root.value?.querySelector<HTMLInputElement>(`[data-section="${made}"] .heading`)?.select());
}
/** what stands in the first screen is drawn at once */
const AT_ONCE = 26;
const early = computed(() => new Set(placedOrder(form.value).slice(0, AT_ONCE)));
function focusField(key: string): void {
  draft.selected = key;
  root.value?.querySelector<HTMLElement>(`[data-row="${key}"] :is(input, textarea)`)?.focus();
}
defineExpose({ startAdding });
</script>

<template>
  <div ref="root" class="live" @click.self="draft.selected = null">
    <StepPath class="life" :host="tryout.host" @focus="focusField" />
    <div ref="sheet" class="sheet">
      <RailTracks :rows="rows" :height="height" :selected="draft.selected" />
      <template v-for="(p, i) in form.pages" :key="p.id">
        <PageHead v-if="form.pages.length > 1" :page="p" :number="i + 1" :only="form.pages.length === 1" />
        <LiveSection
          v-for="s in p.sections"
          :key="s.id"
          ref="parts"
          :section="s"
          :only="sections.length === 1"
          :early="early"
          @why="emit('why', $event)"
          @add-lines="addingLines = $event"
          @add-section="addSectionAfter"
        />
      </template>
    </div>
    <StayDialog :visible="addingLines !== null" modal header="Add lines" :style="{ width: '460px' }" @update:visible="addingLines = null"
      ><NewLines v-if="addingLines" :section="addingLines" @close="addingLines = null"
    /></StayDialog>
  </div>
</template>

<style scoped>
.life {
  padding: 8px 12px 0 22px;
}
.live {
  overflow: auto;
  height: 100%;
}
.sheet {
  position: relative;
  padding: 4px 12px 60px 116px;
  min-width: 620px;
  max-width: 960px;
}
</style>
