<script setup lang="ts">
import type { Section } from '~~/core/form/definition.ts';
import { sourceSchema } from '~~/core/choices/sources/schemas.ts';
import { addField, changeField, changeSection, moveField, nudgeField, nudgeSection, removeSection } from '~~/core/form/edit.ts';
import type { ColumnType } from '~~/core/model/tables.ts';
import { parseAddress } from '~~/core/engine/state.ts';

/* One section of the live form: its heading, its fields in their order, and what can be added. */
const props = defineProps<{ section: Section; only: boolean; early: ReadonlySet<string> }>();
const emit = defineEmits<{ why: [field: string]; addLines: [section: string]; addSection: [after: string] }>();
const draft = useDraft();
const tryout = useTryout();
const form = computed(() => draft.form!);
/** the height of a field that is not drawn yet, in pixels */
const ROW = 36;

const isLines = (key: string): boolean => form.value.lines[key] !== undefined;
/** A row is selected as a field; inside lines, the field of the line that was pressed. */
function select(key: string, event: Event): void {
  const cell = (event.target as HTMLElement).closest<HTMLElement>('[data-field]')?.dataset.field;
  if (isLines(key) && cell?.startsWith(`${key}.`)) {
    const { field, line } = parseAddress(cell);
    tryout.line = line ?? null;
    draft.selected = field;
  } else if (!(isLines(key) && (event.target as HTMLElement).closest('.head, .tools'))) draft.selected = key;
}
const isSelected = (key: string): boolean => draft.selected?.split('.')[0] === key;
const hidden = (key: string): boolean => (isLines(key) ? !tryout.host.lines(key).shown : !tryout.host.view(key).shown);
const problemsOf = (key: string): number => draft.errors.filter((p) => p.field?.split('.')[0] === key).length;

// ---- order: by dragging, or Alt+arrows ----
const fields = ref<HTMLElement>();
useDragOrder(
  fields,
  ({ item, to, into }) => {
    const key = item.dataset.row as string;
    const section = into.dataset.fieldsOf as string;
    const here = props.section.fields.indexOf(key);
    // the form counts places with the field still in its own
    draft.change(moveField(form.value, key, section, section === props.section.id && to > here ? to + 1 : to));
  },
  { group: 'fields', draggable: '.line' },
);
function nudge(event: KeyboardEvent, key: string): void {
  const inList = (event.target as HTMLElement).getAttribute('role') === 'combobox';
  if (!event.altKey || (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') || inList) return;
  event.preventDefault();
  draft.change(nudgeField(form.value, key, event.key === 'ArrowUp' ? -1 : 1));
  // it may stand in another section now
  void nextTick(() => document.querySelector<HTMLElement>(`[data-row="${key}"] .grip`)?.focus());
}

const settings = ref(false);
useOpening((place) => place.startsWith(`@${props.section.id} `), () => (settings.value = true), false); // prettier-ignore
const messages = computed(() => tryout.host.placeChecks({ kind: 'section', id: props.section.id }));

const adding = ref(false);
function add(label: string, type: ColumnType, table: string | null): void {
  const { form: next, key } = addField(form.value, props.section.id, label, type);
  const shown = table === null ? null : (draft.tables.get(table)?.shown ?? null);
  const source = table === null ? null : sourceSchema.parse({ kind: 'rows', table, show: shown, sort: shown ? [shown] : [] });
  draft.change(source ? changeField(next, key, { source }) : next);
  draft.selected = key;
  adding.value = false;
}
defineExpose({ id: props.section.id, startAdding: () => (adding.value = true) });
</script>

<template>
  <section :data-section="section.id">
    <div class="head">
      <TextEdit
        class="bare heading"
        size="small"
        :value="section.label"
        placeholder="Section without a heading"
        :aria-label="`Heading of section ${section.label}`"
        @change="draft.change(changeSection(form, section.id, { label: ($event.target as HTMLInputElement).value.trim() }))"
        @keydown.enter="($event.target as HTMLInputElement).blur()"
      />
      <span class="tools">
        <IconButton
          icon="pi pi-sliders-h"
          :aria-label="`Settings of section ${section.label}`"
          :aria-expanded="settings"
          @click="settings = !settings"
        />
        <IconButton
          icon="pi pi-arrow-up"
          :aria-label="`Move section ${section.label} up`"
          @click="draft.change(nudgeSection(form, section.id, -1))"
        />
        <IconButton
          icon="pi pi-arrow-down"
          :aria-label="`Move section ${section.label} down`"
          @click="draft.change(nudgeSection(form, section.id, 1))"
        />
        <IconButton
          v-if="!only"
          icon="pi pi-trash"
          :aria-label="`Remove section ${section.label}; its fields move up`"
          @click="draft.change(removeSection(form, section.id))"
        />
      </span>
    </div>
    <SectionSettings v-if="settings" :section="section" />
    <PlaceMessages class="said" :messages="messages" />
    <div ref="fields" class="fields" :data-fields-of="section.id">
      <div
        v-for="key in section.fields"
        :key="key"
        class="line"
        :data-row="key"
        :class="{ selected: isSelected(key), ofLines: isLines(key) }"
        @mousedown="select(key, $event)"
        @keydown="nudge($event, key)"
      >
        <NearView soon :height="ROW" :now="early.has(key)">
          <Button
            text
            severity="secondary"
            size="small"
            class="grip"
            icon="pi pi-bars"
            :aria-label="`${tryout.host.label(key)}: drag, or Alt and arrows, to move`"
            @click="draft.selected = key"
          />
          <div v-if="isLines(key) && !hidden(key)" class="grow">
            <p class="linesLabel"><Button link :label="tryout.host.label(key)" @click="draft.selected = key" /></p>
            <LinesTable :host="tryout.host" :name="key" prefix="d" @why="emit('why', $event)" @field="draft.selected = $event" />
          </div>
          <EntryField
            v-else-if="!hidden(key)"
            :host="tryout.host"
            :name="key"
            prefix="d"
            :selected="draft.selected === key"
            @why="emit('why', $event)"
          />
          <div v-else class="hiddenField">
            <span>{{ tryout.host.label(key) }}</span><Button
              link
              severity="secondary"
              :label="`hidden now.${isLines(key) ? '' : ' Why?'}`"
              @click="isLines(key) ? (draft.selected = key) : emit('why', key)"
            />
          </div>
          <span v-if="problemsOf(key)" v-tooltip.left="`${problemsOf(key)} problem(s)`" class="flag"
            ><i class="pi pi-exclamation-circle" aria-hidden="true" /><span class="sr">has problems</span></span
          >
          <template #still><FieldStill v-if="!isLines(key)" class="still" :host="tryout.host" :name="key" /></template>
        </NearView>
      </div>
    </div>
    <p v-if="!section.fields.length && !adding" class="muted nothing">No fields here yet.</p>
    <NewField v-if="adding" class="adder" cancels @add="add" @cancel="adding = false" />
    <p v-else class="adds">
      <Button link severity="secondary" label="+ field" @click="adding = true" /><Button
        link
        severity="secondary"
        label="+ lines"
        @click="emit('addLines', section.id)"
      /><Button link severity="secondary" label="+ section" @click="emit('addSection', section.id)" />
    </p>
  </section>
</template>

<style scoped>
.head {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 6px 0 2px 22px;
}
.heading {
  font-weight: 700;
  color: var(--ink-2);
}
.tools {
  display: flex;
  opacity: 0;
}
.head:hover .tools,
.tools:focus-within {
  opacity: 1;
}
/* a section without fields can be dropped into too */
.fields {
  min-height: 8px;
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
.line.dragged {
  opacity: 0.6;
  box-shadow: 0 -2px 0 var(--flow);
}
.linesLabel {
  padding: 6px 8px 0;
}
.grip {
  width: 24px;
  min-height: 32px;
  margin-top: 4px;
  padding: 0;
  cursor: grab;
  color: var(--ink-2);
  opacity: 0;
}
.grip :deep(.p-button-icon) {
  font-size: 10px;
}
.line:hover .grip,
.line.selected .grip,
.grip:focus-visible {
  opacity: 1;
}
.still {
  padding-left: 30px;
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
.said {
  margin: 2px 8px 4px 30px;
}
.nothing {
  padding: 4px 28px;
  font-size: 13px;
}
</style>
