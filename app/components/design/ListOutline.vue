<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import type { DataTableRowReorderEvent } from 'primevue/datatable';
import {
  OPTION_COLOURS,
  type OptionItem,
  branchEnd,
  findOptions,
  indentBranch,
  moveBranch,
  outlineLines,
  type OutlineLine,
  readOutline,
  settleDepths,
} from '~~/core/model/lists.ts';
import type { ListDocument } from './listDocument';

/*
 * The choices of a list as an outline: Enter adds below, Alt and arrows indent and move a branch. A list may have thousands: only the
 * lines in view are drawn, whatever the keys go to is brought into view first, and a choice is found by a word of it.
 */
const props = defineProps<{ edited: ListDocument; label: string }>();
const emit = defineEmits<{ revalue: [place: number, to: string]; problem: [text: string] }>();
const root = ref<HTMLElement>();
const items = computed(() => props.edited.now.value?.items ?? []);

// ---- the lines, and which of them are in view ----
const LINE = 29;
const HEAD = 27;
/** branches that were shut, by their stored value: places change as the list does */
const shut = shallowRef<ReadonlySet<string>>(new Set());
// nothing in it is watched by itself: with thousands of lines that would be looked through at each letter
const lines = computed<OutlineLine[]>((before) => markRaw(outlineLines(items.value, shut.value, before)));
const indexOf = (place: number): number => lines.value.findIndex((l) => l.place === place);
function setShut(place: number, isShut: boolean): void {
  const next = new Set(shut.value);
  const { value } = items.value[place]!;
  if (isShut) next.add(value);
  else next.delete(value);
  shut.value = next;
}
const scroller = (): HTMLElement | null => root.value?.querySelector<HTMLElement>('.p-virtualscroller') ?? null;
const cell = (place: number): HTMLElement | null => root.value?.querySelector<HTMLElement>(`[data-place="${place}"]`) ?? null;
/** Brings a line into view, where it is not. */
function scrollTo(place: number): void {
  const box = scroller();
  const index = indexOf(place);
  if (!box || index < 0) return;
  const [top, end] = [index * LINE, (index + 2) * LINE + HEAD];
  if (top >= box.scrollTop && end <= box.scrollTop + box.clientHeight) return;
  const isNear = top > box.scrollTop - 3 * LINE && end < box.scrollTop + box.clientHeight + 3 * LINE;
  box.scrollTop = isNear ? (top < box.scrollTop ? top : end - box.clientHeight) : top - box.clientHeight / 2;
  // drawn in this turn, not when the browser comes to tell of it: the next key is meant for that line
  box.dispatchEvent(new Event('scroll'));
}
/** Opens what a line is shut in and brings it into view; gives its cell, once that is drawn. */
async function reveal(place: number): Promise<HTMLElement | null> {
  await nextTick();
  for (let at = place, depth = items.value[place]?.depth ?? 0; depth > 0 && at > 0;) {
    at--;
    if ((items.value[at]?.depth ?? 0) >= depth) continue;
    depth = items.value[at]!.depth;
    if (shut.value.has(items.value[at]!.value)) setShut(at, false);
  }
  // a line that was added has room only after another drawing
  for (let tries = 0; tries < 10; tries++) {
    await nextTick();
    scrollTo(place);
    await nextTick();
    const drawn = cell(place);
    if (drawn) return drawn;
    await new Promise((resolve) => requestAnimationFrame(resolve));
  }
  return null;
}
/** what the keys went to last: a line that took longer to be drawn than the next key took to come takes nothing back */
let asked = 0;
async function focusOn(place: number, withText = false): Promise<void> {
  const mine = ++asked;
  const input = (await reveal(place))?.querySelector<HTMLInputElement>('.label-in');
  if (mine !== asked) return;
  input?.focus();
  if (withText) input?.select();
}
// before the table has it, which takes down what left the view
useEventListener(
  root,
  'scroll',
  () => {
    const input = document.activeElement as HTMLElement | null;
    const box = scroller();
    if (!box || !input || input === box || !box.contains(input)) return;
    const [line, view] = [input.getBoundingClientRect(), box.getBoundingClientRect()];
    // what was typed there is taken, as it is when the field is left
    if (line.bottom < view.top - 3 * LINE || line.top > view.bottom + 3 * LINE) box.focus({ preventScroll: true });
  },
  { capture: true },
);

// ---- what the keys and the mouse change ----
function put(next: readonly OptionItem[], focus: number | null = null): void {
  const { now } = props.edited;
  if (next !== items.value && now.value) props.edited.change({ ...now.value, items: next });
  if (focus !== null) void focusOn(focus);
}
const change = (i: number, more: Partial<OptionItem>): void => put(items.value.map((x, j) => (i === j ? { ...x, ...more } : x)));
/** A new label also renames the value while both were the same and nothing is stored under it yet. */
function relabel(i: number, text: string): void {
  const item = items.value[i];
  const name = text.trim();
  if (!item || name === '' || name === item.label) return;
  const fresh = item.value === item.label && item.label.startsWith('New choice');
  change(i, fresh ? { label: name, value: name } : { label: name });
}
function add(after: number): void {
  const depth = items.value[after]?.depth ?? 0;
  const at = after < 0 ? 0 : branchEnd(items.value, after);
  const [made] = readOutline(
    'New choice',
    items.value.map((x) => x.value),
  ).items as [OptionItem];
  put([...items.value.slice(0, at), { ...made, depth, label: made.value }, ...items.value.slice(at)]);
  void focusOn(at, true);
}
function remove(i: number): void {
  const before = lines.value[indexOf(i) - 1]?.place ?? 0;
  put(settleDepths([...items.value.slice(0, i), ...items.value.slice(branchEnd(items.value, i))]), before);
}
function keys(event: KeyboardEvent, i: number): void {
  // Enter takes a word of an input method
  if (event.isComposing) return;
  const input = event.target as HTMLInputElement;
  // what is typed belongs to this line: taken before another stands in its place
  const commit = (): void => input.blur();
  const by = event.key === 'ArrowUp' || event.key === 'ArrowLeft' ? -1 : 1;
  if (event.key === 'Enter') {
    commit();
    add(i);
  } else if (event.altKey && (event.key === 'ArrowRight' || event.key === 'ArrowLeft')) {
    commit();
    put(indentBranch(items.value, i, by), i);
  } else if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
    commit();
    const moved = moveBranch(items.value, i, by);
    put(moved.items, moved.index);
  } else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
    const next = lines.value[indexOf(i) + by];
    if (next) void focusOn(next.place);
  } else return;
  event.preventDefault();
}
/** Lines pasted into a label become an outline below it. */
function paste(event: ClipboardEvent, i: number): void {
  const text = event.clipboardData?.getData('text/plain') ?? '';
  if (!/\n./.test(text)) return;
  event.preventDefault();
  const depth = items.value[i]?.depth ?? 0;
  const pasted = readOutline(
    text,
    items.value.map((x) => x.value),
  );
  // what cannot be a list is not taken in: the list stays as it is, and it is said why
  emit('problem', pasted.problems[0] ?? '');
  if (pasted.problems.length) return;
  const made = pasted.items.map((x) => ({ ...x, depth: x.depth + depth }));
  const at = i < 0 ? items.value.length : branchEnd(items.value, i);
  put(settleDepths([...items.value.slice(0, at), ...made, ...items.value.slice(at)]), at);
}
/** whether a line is being dragged: the table does not hear of the end where the line has left the view meanwhile */
let isDragging = false;
/** A branch goes before the line it is let go on, at that line's depth. */
function dropped({ dragIndex, dropIndex }: DataTableRowReorderEvent): void {
  const line = lines.value[dragIndex];
  if (!isDragging || !line) return;
  isDragging = false;
  const others = lines.value.filter((l) => l !== line);
  const [from, end, at] = [line.place, branchEnd(items.value, line.place), others[dropIndex]?.place ?? items.value.length];
  if (at >= from && at <= end) return;
  const shift = (items.value[at]?.depth ?? 0) - line.item.depth;
  const branch = items.value.slice(from, end).map((x) => ({ ...x, depth: x.depth + shift }));
  const rest = [...items.value.slice(0, from), ...items.value.slice(end)];
  const place = at > from ? at - branch.length : at;
  put(settleDepths([...rest.slice(0, place), ...branch, ...rest.slice(place)]), place);
}

// ---- finding one among many ----
const FIND_FROM = 30;
const sought = ref('');
const found = computed(() => findOptions(items.value, sought.value));
/** the place of the one that is shown */
const shown = ref<number | null>(null);
const nth = computed(() => (shown.value === null ? -1 : found.value.indexOf(shown.value)));
function showFound(place: number | undefined): void {
  shown.value = place ?? null;
  if (place !== undefined) void reveal(place);
}
watch(sought, () => showFound(found.value[0]));
// another stands there now
watch(items, () => nth.value < 0 && (shown.value = null));
const saidFound = computed(() => {
  const n = found.value.length.toLocaleString(LOCALE);
  return !found.value.length ? 'none' : nth.value < 0 ? `${n} found` : `${(nth.value + 1).toLocaleString(LOCALE)} of ${n}`;
});
function findKeys(event: KeyboardEvent): void {
  const n = found.value.length;
  if (event.key === 'Enter' && n) showFound(found.value[(nth.value + (event.shiftKey ? n - 1 : 1)) % n]);
  else if (event.key === 'ArrowDown' && shown.value !== null) void focusOn(shown.value, true);
  else if (event.key === 'Escape') sought.value = '';
  else return;
  event.preventDefault();
}

const COLOURS = [{ value: null, label: 'none' }, ...OPTION_COLOURS.map((c) => ({ value: c as OptionItem['colour'], label: c }))];
// what the table is given stays the same, so that a change draws the lines anew that it changes, not all of them
const virtual = { itemSize: LINE, numToleratedItems: 12 };
const rowClass = (line: OutlineLine) => ({ found: line.place === shown.value });
const pt = {
  table: () => ({ role: 'treegrid', 'aria-label': props.label, 'aria-rowcount': lines.value.length + 1 }),
  bodyRow: ({ context, props: { rowData: line } }: { context: { index: number }; props: { rowData: OutlineLine } }) => ({
    'aria-rowindex': context.index + 2,
    'aria-level': line.item.depth + 1,
    'aria-expanded': line.hasBelow ? !line.isShut : undefined,
  }),
  column: { bodyCell: { role: 'gridcell' } },
};
/** A line's controls are drawn when somebody comes to it; those of the others while the browser is idle. */
const AT_ONCE = 30;
const nearOf = (line: OutlineLine) => ({ height: LINE - 4, now: line.place < AT_ONCE, idle: true });
function come(event: Event): void {
  const row = (event.target as HTMLElement).closest('tr');
  for (const place of row?.querySelectorAll('[data-away]') ?? []) place.dispatchEvent(new CustomEvent('reveal'));
}
defineExpose({ addLast: () => add(items.value.length - 1) });
</script>

<template>
  <div
    ref="root"
    class="outline"
    :style="{ '--line-height': `${LINE}px` }"
    @pointerover="come"
    @focusin="come"
    @dragstart="isDragging = true"
    @dragend="isDragging = false"
  >
    <p v-if="items.length > FIND_FROM" class="row find">
      <FindField
        v-model="sought"
        label="Find a choice"
        title="Enter goes to the next, Shift+Enter to the one before, the down arrow into the line"
        @keydown="findKeys"
      />
      <span v-if="sought.trim()" class="muted" role="status">{{ saidFound }}</span>
    </p>
    <DataTable
      :value="lines"
      data-key="place"
      size="small"
      row-hover
      scrollable
      :scroll-height="`min(${Math.max(1, lines.length) * LINE + HEAD + 2}px, max(calc(100dvh - 222px), 240px))`"
      :virtual-scroller-options="virtual"
      :row-class="rowClass"
      :pt="pt"
      @row-reorder="dropped"
    >
      <Column v-memo="[]" row-reorder row-reorder-icon="pi pi-bars grip" style="width: 28px">
        <template #header><span class="sr">Move</span></template>
      </Column>
      <Column v-memo="[]" header="Choice">
        <template #body="{ data: line }">
          <span class="name" :class="{ retired: line.item.retired }" :style="{ '--depth': line.item.depth }" :data-place="line.place">
            <Button
              v-if="line.hasBelow"
              text
              severity="secondary"
              size="small"
              class="below"
              :icon="`pi pi-chevron-${line.isShut ? 'right' : 'down'}`"
              :aria-label="`${line.isShut ? 'Show' : 'Hide'} what is below ${line.item.label}`"
              @click="setShut(line.place, !line.isShut)"
            />
            <span v-else class="below" />
            <TextEdit
              class="bare label-in"
              size="small"
              :value="line.item.label"
              :aria-label="`Choice ${line.place + 1}, level ${line.item.depth + 1}`"
              @change="relabel(line.place, ($event.target as HTMLInputElement).value)"
              @keydown="keys($event, line.place)"
              @paste="paste($event, line.place)"
            />
          </span>
        </template>
      </Column>
      <Column v-memo="[]" header="Stored value" style="width: 200px">
        <template #body="{ data: line }">
          <NearView v-bind="nearOf(line)"
            ><TextEdit
              class="bare mono"
              size="small"
              :value="line.item.value"
              :aria-label="`Stored value of ${line.item.label}`"
              @change="emit('revalue', line.place, ($event.target as HTMLInputElement).value.trim() || line.item.value)"
            /><template #still
              ><code class="still">{{ line.item.value }}</code></template
            ></NearView
          >
        </template>
      </Column>
      <Column v-memo="[]" header="Colour and sign" style="width: 230px">
        <template #body="{ data: line }">
          <NearView v-bind="nearOf(line)"
            ><span class="row">
              <PickOne
                class="colour"
                size="small"
                :model-value="line.item.colour ?? null"
                :label="`Colour of ${line.item.label}`"
                :options="COLOURS"
                @update:model-value="change(line.place, { colour: $event ?? null })"
              />
              <TextEdit
                class="sign"
                size="small"
                maxlength="2"
                :value="line.item.mark ?? ''"
                :aria-label="`Sign of ${line.item.label}`"
                @change="change(line.place, { mark: ($event.target as HTMLInputElement).value.trim() || null })"
              />
              <OptionSwatch :row="{ id: 0, colour: line.item.colour, mark: line.item.mark, label: line.item.label }" /> </span
            ><template #still
              ><span class="still">{{ line.item.colour ?? 'none' }} {{ line.item.mark }}</span></template
            ></NearView
          >
        </template>
      </Column>
      <Column v-memo="[]" header="Offered" style="width: 110px">
        <template #body="{ data: line }">
          <NearView v-bind="nearOf(line)"
            ><label
              ><ToggleSwitch
                :model-value="!line.item.retired"
                :aria-label="`${line.item.label} is offered`"
                @update:model-value="change(line.place, { retired: !$event })"
              />
              {{ line.item.retired ? 'retired' : 'yes' }}</label
            ><template #still
              ><span class="still switch">{{ line.item.retired ? 'retired' : 'yes' }}</span></template
            ></NearView
          >
        </template>
      </Column>
      <Column v-memo="[]" style="width: 44px">
        <template #header><span class="sr">Remove</span></template>
        <template #body="{ data: line }">
          <NearView v-bind="nearOf(line)"
            ><Button
              text
              severity="secondary"
              size="small"
              icon="pi pi-trash"
              :aria-label="`Remove ${line.item.label} and what is below it`"
              @click="remove(line.place)"
          /></NearView>
        </template>
      </Column>
      <template #empty>This list is empty. Add a choice, or paste an outline into the first one.</template>
    </DataTable>
  </div>
</template>

<style scoped>
.find {
  margin: 0;
  align-items: baseline;
}
.outline :deep(table) {
  table-layout: fixed;
}
.outline :deep(td) {
  /* each line is as high as it is said to be: where a line stands follows from how many are above it */
  height: var(--line-height);
  vertical-align: middle;
  padding-block: 1px;
  white-space: nowrap;
}
.outline :deep(.p-virtualscroller) {
  /* the heads stand over the first line */
  scroll-padding-block: 34px 2px;
}
.outline :deep(tr.found > td) {
  background: var(--flow-wash);
}
.name {
  display: flex;
  align-items: center;
  gap: 6px;
  padding-inline-start: calc(var(--depth) * 14px);
}
.below {
  flex: none;
  width: 24px;
  height: 24px;
  padding: 0;
}
.below :deep(.pi) {
  font-size: 11px;
}
.outline :deep(:is(.p-inputtext, .p-select):not(:hover, :focus, :focus-within, [type='search'])) {
  border-color: transparent;
  background: transparent;
}
.outline :deep(.grip) {
  cursor: grab;
  color: var(--ink-2);
  font-size: 10px;
}
.still {
  padding-inline-start: 4px;
  font-size: 12.5px;
}
.still.switch {
  padding-inline-start: 36px;
  font-size: inherit;
}
.sign {
  width: 44px;
}
.colour {
  width: 104px;
}
.retired :deep(.label-in) {
  text-decoration: line-through;
  color: var(--ink-2);
}
label {
  display: flex;
  align-items: center;
  gap: 6px;
}
</style>
