<script setup lang="ts">
import { useDebounceFn, useElementSize, useScroll } from '@vueuse/core';
import { readCell } from '~~/core/exchange/columns.ts';
import type { Column } from '~~/core/form/tables.ts';
import { inputNumber } from '~~/core/values/show.ts';
import type { Datum } from '~~/core/values/types.ts';
import type { TableSummary } from '~/composables/useTables';
import type { GridRow, LinkingRows } from '~/composables/useGrid';

/* A table of any length, edited in place: only the rows in view are drawn and read. */
const props = defineProps<{ table: TableSummary; tables: readonly TableSummary[] }>();
const emit = defineEmits<{ changed: [] }>();
const toast = useToast();
const grid = useGrid(props.table.key);
void grid.again();

const LINE = 30;
const scroller = ref<HTMLElement>();
const { y } = useScroll(scroller);
const { height } = useElementSize(scroller);
const first = computed(() => Math.max(0, Math.floor(y.value / LINE) - 6));
const last = computed(() => Math.min(grid.total.value - 1, Math.ceil((y.value + height.value) / LINE) + 6));
watchEffect(() => grid.need(first.value, last.value));
const indexes = computed(() => Array.from({ length: Math.max(0, last.value - first.value + 1) }, (_, i) => first.value + i));
const columns = computed(() => props.table.columns);
const template = computed(
  () =>
    `64px ${columns.value.map((c) => (c.type === 'number' || c.type === 'yesno' || c.type === 'date' ? '120px' : 'minmax(150px, 1fr)')).join(' ')} 40px`,
);
const minWidth = computed(() => `${104 + columns.value.length * 130}px`);

const searchSoon = useDebounceFn(() => grid.again(), 200);
function sortBy(column: Column): void {
  const same = grid.sort.value.column === column.key;
  grid.sort.value = { column: column.key, descending: same ? !grid.sort.value.descending : false };
  void grid.again();
}

// ---- one cell has the focus; Enter or typing edits it ----
const active = ref({ row: 0, column: 0 });
const editing = ref(false);
const text = ref('');
const misread = ref('');
const options = shallowRef<readonly { id: number; text: string }[]>([]);
const cell = (): HTMLElement | null => scroller.value?.querySelector(`[data-cell="${active.value.row}-${active.value.column}"]`) ?? null;
function focusCell(): void {
  const top = active.value.row * LINE;
  const box = scroller.value;
  if (box && (top < box.scrollTop || top + LINE * 2 > box.scrollTop + box.clientHeight - LINE))
    box.scrollTop = Math.max(0, top - box.clientHeight / 2);
  // a row that scrolls into view is drawn a frame or two later
  let frames = 0;
  const tryFocus = (): void => {
    const target = cell();
    if (target) target.focus();
    else if (frames++ < 30) requestAnimationFrame(tryFocus);
  };
  void nextTick(tryFocus);
}
function move(rows: number, cols: number): void {
  active.value = {
    row: Math.min(Math.max(0, active.value.row + rows), Math.max(0, grid.total.value - 1)),
    column: Math.min(Math.max(0, active.value.column + cols), columns.value.length - 1),
  };
  focusCell();
}
const linkTarget = (c: Column): string | null => (c.type === 'person' ? 'people' : c.type === 'link' ? c.target : null);
async function edit(seed: string | null = null): Promise<unknown> {
  const row = grid.at(active.value.row);
  const column = columns.value[active.value.column];
  if (!row || !column) return;
  const value = row.row[column.key] ?? null;
  const target = linkTarget(column);
  if (column.type === 'yesno' && seed === null) return save(row, column, value === null ? true : value === true ? false : null);
  text.value =
    seed ??
    (target
      ? cellText(column, value, grid.linked)
      : typeof value === 'number'
        ? inputNumber(value)
        : value === null
          ? ''
          : value === true
            ? 'yes'
            : value === false
              ? 'no'
              : String(value));
  misread.value = '';
  editing.value = true;
  options.value = [];
  if (target) void readOptions(target);
  await nextTick();
  const input = cell()?.querySelector('input');
  input?.focus();
  if (seed === null) input?.select();
}
async function readOptions(target: string): Promise<void> {
  const shown = props.tables.find((t) => t.key === target)?.shown;
  const sought = text.value;
  const answer = await api<{ rows: GridRow[] }>(`tables/${target}/rows`, {
    query: { search: sought, limit: 30, sort: shown ?? undefined },
  });
  if (sought === text.value)
    options.value = answer.rows.map((r) => ({ id: r.row.id, text: shown ? String(r.row[shown] ?? `row ${r.row.id}`) : `row ${r.row.id}` }));
}
const optionsSoon = useDebounceFn(readOptions, 120);
function typed(): void {
  const target = linkTarget(columns.value[active.value.column]!);
  if (target) void optionsSoon(target);
}
/** while what was typed is being read and saved: keys wait, and leaving the cell does not save it a second time */
let committing = false;
/** what was pressed meanwhile, in its order: typing goes on faster than the server */
const ahead: Pressed[] = [];
type Pressed = Pick<KeyboardEvent, 'key' | 'shiftKey' | 'ctrlKey' | 'metaKey' | 'altKey'>;
function catchUp(): void {
  for (let next = ahead.shift(); next; next = committing ? undefined : ahead.shift()) {
    const letter = next.key.length === 1 && !next.ctrlKey && !next.metaKey && !next.altKey;
    const erases = next.key === 'Backspace';
    if (!editing.value || !(letter || erases)) press(next);
    else {
      text.value = erases ? text.value.slice(0, -1) : text.value + next.key;
      typed();
    }
  }
}
async function commit(then: () => void): Promise<void> {
  if (!editing.value || committing) return;
  committing = true;
  let saved = false;
  try {
    saved = await commitCell();
    if (saved) {
      editing.value = false;
      then();
    }
  } finally {
    committing = false;
    // it was meant for the cells behind, which are not reached while this one is refused
    if (!saved) ahead.length = 0;
    catchUp();
  }
}
async function commitCell(): Promise<boolean> {
  const row = grid.at(active.value.row);
  const column = columns.value[active.value.column];
  if (!row || !column) return false;
  const target = linkTarget(column);
  let value: Datum;
  if (target && text.value.trim() !== '') {
    await readOptions(target);
    const found = options.value.filter((o) => o.text.toUpperCase() === text.value.trim().toUpperCase());
    const [only] = found.length ? found : options.value.length === 1 ? options.value : [];
    if (!only) {
      misread.value = `No row of ${props.tables.find((t) => t.key === target)?.label} is called “${text.value}”.`;
      return false;
    }
    options.value = [];
    (grid.linked[target] ??= {})[only.id] = only.text;
    value = only.id;
  } else {
    const read = readCell(column.type, text.value);
    if (!read.ok) {
      misread.value = read.message;
      return false;
    }
    value = target ? null : read.value;
  }
  return save(row, column, value);
}
async function pickOption(o: { id: number; text: string }): Promise<void> {
  text.value = o.text;
  await commit(() => move(1, 0));
}

/** the row whose related rows are looked at */
const looking = ref<number | null>(null);

// ---- saving, with undo ----
interface Done {
  readonly undo: () => Promise<void>;
}
const done: Done[] = [];
async function save(row: GridRow, column: Column, value: Datum, undoable = true): Promise<boolean> {
  const before = row.row[column.key] ?? null;
  if (before === value) return true;
  try {
    const saved = await grid.save(row, { [column.key]: value });
    grid.replace(saved);
    // by its id: sorting or searching may have put another row where this one stood
    if (undoable) done.push({ undo: async () => void (await save(grid.find(saved.row.id) ?? saved, column, before, false)) });
    return true;
  } catch (e) {
    const issues = e instanceof ApiError ? (e.details.issues as Record<string, string> | undefined) : undefined;
    misread.value = issues?.[column.key] ?? messageOf(e);
    if (e instanceof ApiError && e.status === 409) await grid.again();
    if (!editing.value) toast.add({ severity: 'error', summary: 'Not changed', detail: misread.value, life: 6000 });
    return false;
  }
}
async function addRow(values: Readonly<Record<string, Datum>> = {}): Promise<void> {
  try {
    const added = await grid.add(values);
    grid.sort.value = { column: null, descending: false };
    grid.search.value = '';
    await grid.again();
    active.value = { row: grid.total.value - 1, column: 0 };
    grid.need(grid.total.value - 1, grid.total.value - 1);
    done.push({ undo: async () => void (await removeRow(added, false)) });
    emit('changed');
    focusCell();
  } catch (e) {
    toast.add({ severity: 'error', summary: 'Not added', detail: messageOf(e), life: 6000 });
  }
}
const links = shallowRef<{ text: string; message: string; links: readonly LinkingRows[] } | null>(null);
async function removeRow(row: GridRow, undoable = true): Promise<void> {
  try {
    const gone = await grid.remove(row);
    await grid.again();
    emit('changed');
    if (undoable) {
      const { id: _, ...values } = gone.row;
      done.push({ undo: () => addRow(values) });
      toast.add({ severity: 'info', summary: 'Row deleted', detail: 'Ctrl+Z puts it back.', life: 5000 });
    }
  } catch (e) {
    const shown = props.table.shown ? String(row.row[props.table.shown] ?? '') : '';
    if (e instanceof ApiError && e.code === 'inUse')
      links.value = { text: shown || `row ${row.row.id}`, message: e.message, links: (e.details.links as LinkingRows[] | undefined) ?? [] };
    else toast.add({ severity: 'error', summary: 'Not deleted', detail: messageOf(e), life: 6000 });
  }
}
async function undo(): Promise<void> {
  await done.pop()?.undo();
}

function key(event: KeyboardEvent): void {
  if (committing) {
    // the keys that only hold others are told with them
    if (!['Shift', 'Control', 'Alt', 'Meta', 'AltGraph'].includes(event.key)) ahead.push(event);
    return event.preventDefault();
  }
  if (press(event)) event.preventDefault();
}
/** Does what a key means here; whether it means anything. */
function press({ key, shiftKey, ctrlKey, metaKey, altKey }: Pressed): boolean {
  if (editing.value) {
    if (key === 'Enter') void commit(() => move(shiftKey ? -1 : 1, 0));
    else if (key === 'Tab') void commit(() => move(0, shiftKey ? -1 : 1));
    else if (key === 'Escape') {
      editing.value = false;
      focusCell();
    } else return false;
    return true;
  }
  const ctrl = ctrlKey || metaKey;
  if (ctrl && key.toLowerCase() === 'z') void undo();
  else if (key === 'ArrowDown') move(1, 0);
  else if (key === 'ArrowUp') move(-1, 0);
  else if (key === 'ArrowRight') move(0, 1);
  else if (key === 'ArrowLeft') move(0, -1);
  else if (key === 'PageDown') move(20, 0);
  else if (key === 'PageUp') move(-20, 0);
  else if (key === 'Home') move(ctrl ? -1e9 : 0, -1e9);
  else if (key === 'End') move(ctrl ? 1e9 : 0, 1e9);
  else if (key === 'Enter' || key === 'F2') void edit();
  else if (key === 'Delete' && ctrl) {
    const row = grid.at(active.value.row);
    if (row) void removeRow(row);
  } else if (key === 'Delete' || key === 'Backspace') {
    const row = grid.at(active.value.row);
    const column = columns.value[active.value.column];
    if (row && column) void save(row, column, null);
  } else if (key.length === 1 && !ctrl && !altKey) void edit(key);
  else return false;
  return true;
}
function leaveCell(event: FocusEvent): void {
  if ((event.currentTarget as HTMLElement).contains(event.relatedTarget as Node)) return;
  if (editing.value && !misread.value) void commit(() => undefined);
}
</script>

<template>
  <div class="wrap">
    <div class="bar">
      <input
        v-model="grid.search.value"
        class="in search"
        type="search"
        placeholder="Search"
        aria-label="Search the rows"
        @input="searchSoon"
      />
      <span class="muted"
        >{{ grid.total.value.toLocaleString(LOCALE) }} {{ grid.search.value ? 'found' : grid.total.value === 1 ? 'row' : 'rows' }}</span
      >
      <span class="muted tip">Enter edits · Ctrl+Z undoes · Ctrl+Del deletes the row</span>
      <button class="btn small" type="button" @click="addRow()"><i class="pi pi-plus" aria-hidden="true" /> Add a row</button>
    </div>
    <p v-if="grid.failed.value" class="note bad" role="alert">
      {{ grid.failed.value }} <button class="word" type="button" @click="grid.again()">Try again</button>
    </p>
    <div
      ref="scroller"
      class="scroller"
      role="grid"
      :aria-rowcount="grid.total.value + 1"
      :aria-colcount="columns.length + 1"
      :aria-label="table.label"
      @keydown="key"
    >
      <div class="line heads" role="row" :style="{ gridTemplateColumns: template, minWidth }">
        <span class="num" role="columnheader">Nr</span>
        <span
          v-for="c in columns"
          :key="c.key"
          role="columnheader"
          :class="{ num: c.type === 'number' }"
          :aria-sort="grid.sort.value.column === c.key ? (grid.sort.value.descending ? 'descending' : 'ascending') : undefined"
        >
          <button class="word light" type="button" tabindex="-1" :title="`${c.key}: ${c.type}`" @click="sortBy(c)">
            {{ c.label }}{{ grid.sort.value.column === c.key ? (grid.sort.value.descending ? ' ↓' : ' ↑') : '' }}
          </button>
        </span>
        <span role="columnheader"><span class="sr">Delete</span></span>
      </div>
      <p v-if="grid.ready.value && !grid.total.value" class="none">
        {{ grid.search.value ? 'No row holds this text.' : 'No rows yet: add one, or bring in a file.' }}
      </p>
      <div class="space" role="presentation" :style="{ height: `${grid.total.value * LINE}px`, minWidth }">
        <div
          v-for="i in indexes"
          :key="i"
          class="line"
          role="row"
          :aria-rowindex="i + 2"
          :style="{ top: `${i * LINE}px`, gridTemplateColumns: template }"
        >
          <template v-if="grid.at(i)">
            <span class="num" role="rowheader"
              ><button
                class="word light"
                type="button"
                tabindex="-1"
                :aria-label="`Look at row ${grid.at(i)!.row.id}`"
                @click="looking = grid.at(i)!.row.id"
              >
                {{ grid.at(i)!.row.id }}
              </button></span
            >
            <div
              v-for="(c, j) in columns"
              :key="c.key"
              class="cell"
              role="gridcell"
              :data-cell="`${i}-${j}`"
              :tabindex="active.row === i && active.column === j ? 0 : -1"
              :class="{ num: c.type === 'number', on: active.row === i && active.column === j }"
              @focus="active = { row: i, column: j }"
              @dblclick="edit()"
              @focusout="leaveCell"
            >
              <template v-if="editing && active.row === i && active.column === j">
                <input v-model="text" class="edit" :aria-label="c.label" :aria-invalid="!!misread || undefined" @input="typed" />
                <div v-if="misread" class="floating misread bad" role="alert">{{ misread }}</div>
                <ul v-else-if="linkTarget(c) && options.length" class="floating options">
                  <li v-for="o in options.slice(0, 9)" :key="o.id" @mousedown.prevent="pickOption(o)">{{ o.text }}</li>
                </ul>
              </template>
              <template v-else>{{ cellText(c, grid.at(i)!.row[c.key] ?? null, grid.linked) }}</template>
            </div>
            <span role="gridcell"
              ><button
                class="btn plain small"
                type="button"
                tabindex="-1"
                :aria-label="`Delete row ${grid.at(i)!.row.id}`"
                @click="removeRow(grid.at(i)!)"
              >
                <i class="pi pi-trash" /></button
            ></span>
          </template>
          <span v-else class="skeleton" />
        </div>
      </div>
    </div>
    <Dialog :visible="looking !== null" modal header="One row" :style="{ width: '620px' }" @update:visible="looking = null"
      ><RowPanel v-if="looking !== null" :id="looking" :table="table.key"
    /></Dialog>
    <Dialog :visible="links !== null" modal header="Not deleted" :style="{ width: '480px' }" @update:visible="links = null">
      <p>
        <b>{{ links?.text }}</b>: {{ links?.message }}
      </p>
      <div v-for="l in links?.links ?? []" :key="l.table + l.columnLabel" class="linking">
        <h3>{{ l.label }}, by {{ l.columnLabel }}: {{ l.count }}</h3>
        <p>{{ l.rows.map((r) => r.text).join(', ') }}{{ l.count > l.rows.length ? ' …' : '' }}</p>
      </div>
      <p class="muted">Give these rows another link first, then delete.</p>
    </Dialog>
  </div>
</template>

<style scoped>
.wrap {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
}
.bar {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 4px 16px 8px;
}
.search {
  width: 240px;
}
.tip {
  margin-left: auto;
  font-size: 12.5px;
}
.scroller {
  flex: 1;
  overflow: auto;
  border-top: 1px solid var(--line);
  position: relative;
}
.heads {
  position: sticky;
  top: 0;
  z-index: 3;
  background: var(--ground-2);
  font-weight: 600;
  color: var(--ink-2);
  border-bottom: 1px solid var(--line-strong);
  height: 32px;
}
.line {
  display: grid;
  align-items: stretch;
}
.space {
  position: relative;
}
.space .line {
  position: absolute;
  left: 0;
  right: 0;
  height: 30px;
  border-bottom: 1px solid var(--line);
}
.space .line:hover {
  background: var(--ground-2);
}
.line > span {
  padding: 4px 8px;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
.cell {
  padding: 4px 8px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  position: relative;
  cursor: cell;
  outline-offset: -2px;
}
.cell.on:has(.edit) {
  overflow: visible;
  padding: 0;
  z-index: 2;
}
.edit {
  width: 100%;
  height: 100%;
  border: 0;
  padding: 4px 8px;
  background: var(--flow-wash);
  outline: 2px solid var(--flow);
  outline-offset: -2px;
  text-align: inherit;
}
.line .btn {
  min-height: 20px;
  opacity: 0;
}
.line:hover .btn,
.btn:focus-visible {
  opacity: 1;
}
.misread,
.options {
  position: absolute;
  left: 0;
  top: 100%;
  min-width: 100%;
  z-index: 5;
  white-space: normal;
  text-align: left;
}
.misread {
  padding: 6px 10px;
  width: 280px;
}
.options li {
  padding: 4px 10px;
  cursor: pointer;
}
.options li:hover {
  background: var(--flow-wash);
}
.none {
  padding: 24px;
}
.linking {
  padding: 8px 0;
}
</style>
