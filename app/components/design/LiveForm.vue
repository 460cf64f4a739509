<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core';
import { addField, addSection, changeSection, moveField, nudgeField, nudgeSection, placeOf, removeSection } from '~~/core/form/edit.ts';
import { COLUMN_TYPES, COLUMN_TYPE_LABELS, type ColumnType } from '~~/core/form/tables.ts';
import { parseAddress } from '~~/core/engine/state.ts';

/* The live draft form with its rail: real controls on the draft, in the order they will be filled. */
const draft = useTheDraft();
const emit = defineEmits<{ why: [field: string] }>();
const form = computed(() => draft.form.value!);
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
watch([form, () => draft.host.steps.value], () => nextTick(measure));
onMounted(() => nextTick(measure));

const isLines = (key: string): boolean => form.value.lines[key] !== undefined;
/** A row is selected as a field; inside lines, the field of the line that was pressed. */
function select(key: string, event: Event): void {
  const cell = (event.target as HTMLElement).closest<HTMLElement>('[data-field]')?.dataset.field;
  if (isLines(key) && cell?.startsWith(`${key}.`)) {
    const { field, line } = parseAddress(cell);
    draft.line.value = line ?? null;
    draft.selected.value = field;
  } else if (!(isLines(key) && (event.target as HTMLElement).closest('.head, .tools'))) draft.selected.value = key;
}
const isSelected = (key: string): boolean => draft.selected.value?.split('.')[0] === key;
const hidden = (key: string): boolean => (isLines(key) ? !draft.host.lines(key).shown : !draft.host.view(key).shown);
const problemsOf = (key: string): number => draft.errors.value.filter((p) => p.field?.split('.')[0] === key).length;

// ---- order: by dragging, or Alt+arrows ----
const dragging = ref<string | null>(null);
const over = ref<{ section: string; index: number } | null>(null);
function dragOver(event: DragEvent, section: string, index: number): void {
  if (!dragging.value) return;
  event.preventDefault();
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
  over.value = { section, index: event.clientY > box.top + box.height / 2 ? index + 1 : index };
}
function drop(): void {
  if (dragging.value && over.value) draft.change(moveField(form.value, dragging.value, over.value.section, over.value.index));
  dragging.value = over.value = null;
}
function nudge(event: KeyboardEvent, key: string): void {
  if (
    !event.altKey ||
    (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') ||
    (event.target as HTMLElement).getAttribute('role') === 'combobox'
  )
    return;
  event.preventDefault();
  draft.change(nudgeField(form.value, key, event.key === 'ArrowUp' ? -1 : 1));
  void nextTick(() => root.value?.querySelector<HTMLElement>(`[data-row="${key}"] .grip`)?.focus());
}

// ---- adding ----
const adding = ref<string | null>(null);
const addingLines = ref<string | null>(null);
const newLabel = ref('');
const newType = ref<ColumnType>('text');
const labelInput = ref<HTMLInputElement[]>([]);
function startAdding(section: string): void {
  adding.value = section;
  newLabel.value = '';
  void nextTick(() => labelInput.value[0]?.focus());
}
function add(): void {
  const label = newLabel.value.trim();
  if (!label || !adding.value) return;
  const { form: next, key } = addField(form.value, adding.value, label, newType.value);
  draft.change(next);
  draft.selected.value = key;
  adding.value = null;
}
function addSectionAfter(id: string): void {
  const { form: next, id: made } = addSection(form.value, id, 'New section');
  draft.change(next);
  void nextTick(() => root.value?.querySelector<HTMLInputElement>(`[data-section="${made}"] .heading`)?.select());
}
defineExpose({ startAdding: () => startAdding(placeOf(form.value, draft.selected.value ?? '')?.section.id ?? sections.value[0]!.id) });
</script>

<template>
  <div ref="root" class="live" @click.self="draft.selected.value = null">
    <div ref="sheet" class="sheet">
      <RailTracks :rows="rows" :height="height" :selected="draft.selected.value" />
      <section v-for="s in sections" :key="s.id" :data-section="s.id">
        <div class="head" @dragover="dragOver($event, s.id, 0)" @drop="drop">
          <TextEdit
            class="heading"
            :value="s.label"
            placeholder="Section without a heading"
            :aria-label="`Heading of section ${s.label}`"
            @change="draft.change(changeSection(form, s.id, { label: ($event.target as HTMLInputElement).value.trim() }))"
            @keydown.enter="($event.target as HTMLInputElement).blur()"
          />
          <span class="tools">
            <button
              class="btn plain small"
              type="button"
              :aria-label="`Move section ${s.label} up`"
              @click="draft.change(nudgeSection(form, s.id, -1))"
            >
              <i class="pi pi-arrow-up" />
            </button>
            <button
              class="btn plain small"
              type="button"
              :aria-label="`Move section ${s.label} down`"
              @click="draft.change(nudgeSection(form, s.id, 1))"
            >
              <i class="pi pi-arrow-down" />
            </button>
            <button
              v-if="sections.length > 1"
              class="btn plain small"
              type="button"
              :aria-label="`Remove section ${s.label}; its fields move up`"
              @click="draft.change(removeSection(form, s.id))"
            >
              <i class="pi pi-trash" />
            </button>
          </span>
        </div>
        <p v-if="!s.fields.length && adding !== s.id" class="muted nothing" @dragover="dragOver($event, s.id, 0)" @drop="drop">
          No fields here yet.
        </p>
        <div
          v-for="(key, i) in s.fields"
          :key="key"
          class="line"
          :data-row="key"
          :class="{
            selected: isSelected(key),
            ofLines: isLines(key),
            dragged: dragging === key,
            before: over?.section === s.id && over.index === i,
            after: over?.section === s.id && over.index === i + 1 && i === s.fields.length - 1,
          }"
          @focusin="select(key, $event)"
          @mousedown="select(key, $event)"
          @keydown="nudge($event, key)"
          @dragover="dragOver($event, s.id, i)"
          @drop="drop"
        >
          <button
            class="grip"
            type="button"
            draggable="true"
            :aria-label="`${draft.host.label(key)}: drag, or Alt and arrows, to move`"
            @dragstart="dragging = key"
            @dragend="dragging = over = null"
          >
            <i class="pi pi-bars" aria-hidden="true" />
          </button>
          <div v-if="isLines(key) && !hidden(key)" class="grow">
            <p class="linesLabel">
              <button class="word" type="button" @click="draft.selected.value = key">{{ draft.host.label(key) }}</button>
            </p>
            <LinesTable :host="draft.host" :name="key" prefix="d" @why="emit('why', $event)" @field="draft.selected.value = $event" />
          </div>
          <EntryField
            v-else-if="!hidden(key)"
            :host="draft.host"
            :name="key"
            prefix="d"
            :selected="draft.selected.value === key"
            @why="emit('why', $event)"
          />
          <div v-else class="hiddenField">
            <span>{{ draft.host.label(key) }}</span><button
              class="word light"
              type="button"
              @click="isLines(key) ? (draft.selected.value = key) : emit('why', key)"
            >
              hidden now.{{ isLines(key) ? '' : ' Why?' }}
            </button>
          </div>
          <span v-if="problemsOf(key)" class="flag" :title="`${problemsOf(key)} problem(s)`"
            ><i class="pi pi-exclamation-circle" aria-hidden="true" /><span class="sr">has problems</span></span
          >
        </div>
        <form v-if="adding === s.id" class="adder" @submit.prevent="add">
          <input
            ref="labelInput"
            v-model="newLabel"
            class="in"
            placeholder="Label of the field"
            aria-label="Label of the new field"
            @keydown.esc="adding = null"
          />
          <select v-model="newType" class="in" aria-label="Type of the new field">
            <option v-for="t in COLUMN_TYPES" :key="t" :value="t">{{ COLUMN_TYPE_LABELS[t] }}</option>
          </select>
          <button class="btn act small" type="submit" :disabled="!newLabel.trim()">Add</button>
          <button class="btn plain small" type="button" @click="adding = null">Cancel</button>
        </form>
        <p v-else class="adds">
          <button class="word light" type="button" @click="startAdding(s.id)">+ field</button
          ><button class="word light" type="button" @click="addingLines = s.id">+ lines</button
          ><button class="word light" type="button" @click="addSectionAfter(s.id)">+ section</button>
        </p>
      </section>
    </div>
    <Dialog :visible="addingLines !== null" modal header="Add lines" :style="{ width: '460px' }" @update:visible="addingLines = null"
      ><NewLines v-if="addingLines" :section="addingLines" @close="addingLines = null"
    /></Dialog>
  </div>
</template>

<style scoped>
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
.head {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 8px 0 2px 22px;
}
.heading {
  border: 0;
  background: none;
  font-size: 13px;
  font-weight: 700;
  color: var(--ink-2);
  padding: 2px 4px;
  width: 100%;
  border-radius: 3px;
}
.heading:hover {
  background: var(--ground-3);
}
.tools {
  display: flex;
  opacity: 0;
}
.head:hover .tools,
.tools:focus-within {
  opacity: 1;
}
.line {
  position: relative;
  display: flex;
  align-items: flex-start;
  border-radius: var(--r);
}
.line > :nth-child(2) {
  flex: 1;
  min-width: 0;
}
.line.selected {
  background: var(--flow-wash);
}
.line.selected :deep(.name) {
  font-weight: 700;
}
.line.ofLines.selected {
  background: none;
  box-shadow: inset 2px 0 0 var(--flow);
}
.linesLabel {
  padding: 6px 8px 0;
}
.line.dragged {
  opacity: 0.45;
}
.line.before {
  box-shadow: 0 -2px 0 var(--flow);
}
.line.after {
  box-shadow: 0 2px 0 var(--flow);
}
.grip {
  border: 0;
  background: none;
  padding: 11px 4px 0;
  cursor: grab;
  color: var(--ink-2);
  font-size: 10px;
  opacity: 0;
  width: 22px;
}
.line:hover .grip,
.line.selected .grip,
.grip:focus-visible {
  opacity: 1;
}
.flag {
  color: var(--bad);
  padding: 10px 6px;
}
.hiddenField {
  display: flex;
  gap: 24px;
  padding: 9px 8px;
  color: var(--ink-2);
  font-style: italic;
  font-size: 13px;
}
.adder {
  display: grid;
  grid-template-columns: 1fr 150px auto auto;
  gap: 8px;
  padding: 6px 8px 6px 26px;
  max-width: 560px;
}
.adds {
  display: flex;
  gap: 16px;
  padding: 2px 0 2px 28px;
  font-size: 12.5px;
  color: var(--ink-2);
}
.nothing {
  padding: 4px 28px;
  font-size: 13px;
}
</style>
