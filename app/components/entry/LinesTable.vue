<script setup lang="ts">
import { addressOf, type Edit } from '~~/core/engine/state.ts';
import { refAutoReset, useEventListener } from '@vueuse/core';
import { whenIdle } from '~/composables/nearView';
import { type Stretch, stretchesOf } from '~/composables/lineStretches';
import { fieldsOfPaste } from './pasteLines';

/* Line items: one row a line, each with its own choices, fills and totals. A block pasted from a spreadsheet fills lines. */
const props = defineProps<{ host: EntryHost; name: string; prefix?: string }>();
const emit = defineEmits<{ why: [field: string]; field: [path: string] }>();
const group = computed(() => props.host.entry.value!.group(props.name));
const view = computed(() => props.host.lines(props.name));
/** A column that is hidden in every line is no column; where forms are built, it stands there all the same. */
const paths = computed<readonly string[]>((before) => {
  const all = group.value.definition.columns.map((c) => `${props.name}.${c}`);
  const plan = props.host.entry.value!;
  const { ids } = view.value;
  const isColumn = (p: string): boolean => {
    const { shown, showing } = plan.field(p);
    return (!shown.length && !showing.length) || ids.some((line) => props.host.view(addressOf(p, line)).shown);
  };
  const now = props.prefix === 'd' || !ids.length ? all : all.filter(isColumn);
  // the same as before, no line is drawn again for it
  return before && now.join() === before.join() ? before : now;
});
const fields = computed(() => paths.value.map((p) => props.host.entry.value!.field(p)));
const locked = computed(() => view.value.locked);
const issue = computed(() => props.host.issues.value.find((i) => i.field === props.name && i.line === null)?.message ?? null);
const root = ref<HTMLElement>();
const said = ref('');

function add(at?: number): number {
  const line = props.host.entry.value!.freeLine(props.name);
  props.host.apply([{ kind: 'addLine', field: props.name, line, ...(at === undefined ? {} : { at }) }]);
  return line;
}
function focusLine(line: number): void {
  upTo.value = Infinity;
  void nextTick(async () => {
    const row = root.value?.querySelector<HTMLElement>(`[data-line="${line}"]`);
    row?.dispatchEvent(new CustomEvent('reveal'));
    await nextTick();
    row?.querySelector<HTMLElement>(':is(input, textarea):not([disabled])')?.focus();
  });
}
function addAndGo(): void {
  focusLine(add());
}
/** A new line below with what a person entered in this one; what is computed computes itself. */
function duplicate(line: number, at: number): void {
  const entry = props.host.entry.value!;
  const to = entry.freeLine(props.name);
  const edits: Edit[] = [{ kind: 'addLine', field: props.name, line: to, at: at + 1 }];
  for (const path of paths.value) {
    const { value, locked: shut, error } = props.host.view(addressOf(path, line));
    if (value !== null && !shut && error === null) edits.push({ kind: 'set', field: path, line: to, value });
  }
  props.host.apply(edits);
  focusLine(to);
}
const removed = shallowRef<{ edits: readonly Edit[]; place: number } | null>(null);
function remove(line: number, at: number): void {
  const entry = props.host.entry.value!;
  const edits: Edit[] = [];
  for (const path of paths.value) {
    const { value, locked: shut } = props.host.view(addressOf(path, line));
    if (value !== null && !shut) edits.push({ kind: 'set', field: path, line: 0, value });
  }
  const blank = entry.isBlankLine(props.name, line);
  props.host.apply([{ kind: 'removeLine', field: props.name, line }]);
  removed.value = blank ? null : { edits, place: at };
}
function putBack(): void {
  const back = removed.value;
  if (!back) return;
  const line = props.host.entry.value!.freeLine(props.name);
  props.host.apply([{ kind: 'addLine', field: props.name, line, at: back.place }, ...back.edits.map((e) => ({ ...e, line }) as Edit)]);
  removed.value = null;
}
function move(line: number, at: number, by: -1 | 1): void {
  const to = at + by;
  if (to < 0 || to >= view.value.ids.length) return;
  props.host.apply([{ kind: 'moveLine', field: props.name, line, to }]);
  void nextTick(() => root.value?.querySelector<HTMLElement>(`[data-line="${line}"] .grip`)?.focus());
}
function key(event: KeyboardEvent, line: number, at: number): void {
  const onList = (event.target as HTMLElement).getAttribute('role') === 'combobox';
  if (event.altKey && !onList && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) move(line, at, event.key === 'ArrowUp' ? -1 : 1);
  else if (event.ctrlKey && event.key.toLowerCase() === 'd') duplicate(line, at);
  else if (event.ctrlKey && event.key === 'Delete') remove(line, at);
  else return;
  event.preventDefault();
  event.stopPropagation();
}

// ---- order by dragging ----
const dragGroup = useId();
function moved(line: number, { before, behind }: { before: number | null; behind: number | null }): void {
  const others = view.value.ids.filter((l) => l !== line);
  const to = before !== null ? others.indexOf(before) : behind !== null ? others.indexOf(behind) + 1 : others.length;
  if (to !== view.value.ids.indexOf(line)) props.host.apply([{ kind: 'moveLine', field: props.name, line, to }]);
}

// ---- a block from a spreadsheet ----
const pasting = ref('');
/** What came of it is seen wherever one is among thousands of lines; later it stands below them. */
const isFresh = refAutoReset(false, 10_000);
async function paste(event: ClipboardEvent): Promise<void> {
  const text = event.clipboardData?.getData('text/plain') ?? '';
  const cell = (event.target as HTMLElement).closest<HTMLElement>('[data-field]')?.dataset.field;
  if (locked.value || !/[\t\n]/.test(text.trimEnd()) || !cell) return;
  event.preventDefault();
  (event.target as HTMLElement).blur();
  const [path = '', line = ''] = cell.split('#');
  said.value = '';
  const at = [paths.value.indexOf(path), view.value.ids.indexOf(Number(line))] as const;
  said.value = await fieldsOfPaste(props.host, props.name, paths.value, ...at, text, (done, of) => {
    isFresh.value = true;
    pasting.value = done < of ? `${done.toLocaleString(LOCALE)} of ${of.toLocaleString(LOCALE)} lines pasted…` : '';
  });
}

// ---- only lines near the screen hold live controls, so that a thousand open quickly and stay quick ----
const PLAIN_FROM = 8;
const near = useNearLines();
/** The first stretch is drawn at once, the others one at a time while the browser is idle; `reveal` draws them all. */
const FIRST = 1;
/** The same until a line is added, taken out or moved: what follows from it is not worked out for each edit. */
const ids = computed(() => view.value.ids);
const stretches = computed<readonly Stretch[]>((before) => stretchesOf(ids.value, before));
const upTo = ref(FIRST);
const drawn = computed(() => stretches.value.slice(0, upTo.value));
const rest = computed(() => stretches.value.slice(upTo.value).reduce((n, s) => n + s.lines.length, 0));
let stopDrawing = (): void => {};
function drawMore(): void {
  if (!rest.value) return;
  upTo.value += 1;
  stopDrawing = whenIdle(drawMore);
}
watch(rest, (now, before = 0) => now > 0 && before === 0 && (stopDrawing = whenIdle(drawMore)), { immediate: true });
onBeforeUnmount(() => stopDrawing());
useEventListener(window, 'beforeprint', () => (upTo.value = Infinity));
const few = computed(() => ids.value.length <= PLAIN_FROM);
/** Of many, each is laid out by itself, and only where it is seen: their columns are as wide as is said here, not as what stands in them. */
const widths = computed(() => {
  const each = columns.value.map(({ looks }) =>
    looks.wide ? 'minmax(150px, 2fr)' : looks.num ? 'minmax(64px, 1fr)' : 'minmax(90px, 1.4fr)',
  );
  // numbers of four digits have room
  const place = ids.value.length < 1000 ? '32px' : '44px';
  return few.value ? undefined : { '--columns': [place, ...each, '66px'].join(' ') };
});
const columns = computed(() =>
  fields.value.map((f, i) => {
    const { figures, width } = COLUMN_LOOKS[f.definition.type];
    return { path: paths.value[i]!, label: f.definition.label, looks: { num: figures === true, wide: width === 'wide' } };
  }),
);
defineExpose({ add });
</script>

<template>
  <div v-if="view.shown" ref="root" class="lines" :data-lines="name" @paste="paste">
    <!-- eslint-disable-next-line vue/no-restricted-html-elements -- each line mounts, and mounts alone, as it nears the screen; the rows of a DataTable are drawn together, and its virtual scroll needs them of one height -->
    <table :class="{ many: !few }" :style="widths">
      <caption class="sr">
        {{
          group.definition.label
        }}
      </caption>
      <thead>
        <tr>
          <th class="place"><span class="sr">Place</span></th>
          <th v-for="c in columns" :key="c.path" :class="c.looks">
            <Button v-if="prefix === 'd'" link class="head" :label="c.label" @click="emit('field', c.path)" />
            <template v-else>{{ c.label }}</template>
          </th>
          <th class="tools"><span class="sr">Line</span></th>
        </tr>
      </thead>
      <LineStretch
        v-for="s in drawn"
        :key="s.key"
        :host="host"
        :lines="s.lines"
        :first="s.first"
        :columns="columns"
        :locked="locked"
        :few="few"
        :near="near"
        :group="dragGroup"
        :prefix="prefix"
        @keys="key"
        @why="emit('why', $event)"
        @duplicate="duplicate"
        @remove="remove"
        @moved="moved"
      />
      <tbody v-if="rest" :style="{ containIntrinsicSize: roomOfLines(rest) }">
        <tr data-away data-rest @reveal="upTo = Infinity">
          <td :style="{ height: `${rest * LINE_HEIGHT}px` }" />
        </tr>
      </tbody>
    </table>
    <p v-if="issue" class="bad" role="alert"><i class="pi pi-times-circle" aria-hidden="true" /> {{ issue }}</p>
    <p class="under">
      <Button v-if="!locked" link severity="secondary" @click="addAndGo">+ line</Button>
      <span v-if="!view.ids.length" class="muted">No lines yet. Lines can also be pasted from a spreadsheet.</span>
      <span v-if="removed">Line removed. <Button link @click="putBack">Undo</Button></span>
    </p>
    <p v-if="pasting || said" class="under" :class="{ fresh: isFresh }">
      <span v-if="pasting">{{ pasting }}</span>
      <span v-if="said" role="status">{{ said }}</span>
    </p>
  </div>
</template>

<style scoped>
.lines {
  /* what is hidden from the eye only stays inside what scrolls */
  position: relative;
  padding: 4px 8px;
  contain: layout paint style;
}
table {
  width: 100%;
  table-layout: auto;
}
th {
  font-size: 12.5px;
  padding: 2px 4px;
  font-weight: 600;
}
th:not(.num) {
  text-align: start;
}
.lines table:not(.many) :deep(.wide) {
  min-width: 170px;
}
.lines table:not(.many) :deep(.num) {
  min-width: 64px;
}
.place {
  width: 26px;
}
.head {
  font-weight: 600;
}
.tools {
  width: 62px;
  white-space: nowrap;
}
.lines :deep(.dragged) {
  opacity: 0.4;
}
.under {
  display: flex;
  gap: 18px;
  font-size: 13px;
  padding: 4px 28px;
}
.fresh {
  /* above the bar with what saves */
  position: sticky;
  bottom: 52px;
  background: var(--ground);
}
@media (min-width: 641px) {
  .many,
  .many thead,
  .many tbody {
    display: block;
  }
  .many thead tr,
  .lines .many :deep(tr[data-line]) {
    display: grid;
    grid-template-columns: var(--columns);
    /* what changes in one line is laid out and painted there alone: two thirds of an edit among thousands */
    contain: layout paint style;
  }
  .many .tools {
    width: auto;
  }
}
/*
 * Each part that cuts off what is in it is drawn as a piece of its own, in each of the hundreds of cells in view: a third of putting these
 * together, which is most of what is drawn at an edit. Nothing here reaches over, and the names for who hears them take no room without
 * being cut either.
 */
.many :deep(:is(.p-button, .p-autocomplete-dropdown, svg, label.sr)) {
  overflow: visible;
}
.many :deep(label.sr) {
  clip-path: none;
  font-size: 0;
}
@media screen and (min-width: 641px) {
  .many tbody {
    content-visibility: auto;
  }
}
/* on a phone each line is a card, its fields under their names */
@media (max-width: 640px) {
  .lines {
    padding: 4px 0;
  }
  table,
  tbody {
    display: block;
  }
  thead {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }
  .lines :deep(tr[data-line]) {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    gap: 4px 10px;
    padding: 6px 8px 10px;
    margin-bottom: 8px;
    border: 1px solid var(--line);
    border-radius: 6px;
  }
  .under {
    padding: 4px 0;
    flex-wrap: wrap;
  }
}
</style>
