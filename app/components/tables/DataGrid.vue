<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core';
import { readCell } from '~~/core/exchange/columns.ts';
import { type Column, linkTarget } from '~~/core/model/tables.ts';
import { KINDS } from '~~/core/values/kinds/index.ts';
import type { Datum } from '~~/core/values/types.ts';
import type { TableSummary } from '~/stores/model';
import { type GridRow, type LinkingRows, tableRows } from '~/composables/useRows';

/* A table of any length, edited in place by keyboard as in a sheet: only the rows in view are drawn and read. */
const props = defineProps<{ table: TableSummary; tables: readonly TableSummary[] }>();
const emit = defineEmits<{ changed: [] }>();
const toast = useToast();
const grid = useRows((query) => api.tables.rows({ key: props.table.key }, query));
const stored = tableRows(props.table.key);
void grid.again();
const root = ref<HTMLElement>();
const rowsTable = ref<{ scrollTo(index: number): void; shown: readonly { key: string }[] }>();
/** the columns as they stand, which may be fewer than the table has and in another order */
const columns = computed((): readonly Column[] =>
  (rowsTable.value?.shown ?? props.table.columns).flatMap((c) => props.table.columns.find((x) => x.key === c.key) ?? []),
);
const searchSoon = useDebounceFn(() => grid.again(), 200);

// ---- one cell has the focus; Enter or typing edits it ----
const active = ref({ row: 0, column: 0 });
const editing = ref(false);
const text = ref('');
const misread = ref('');
const options = shallowRef<readonly { id: number; text: string }[]>([]);
const cell = (): HTMLElement | null => root.value?.querySelector(`[data-cell="${active.value.row}-${active.value.column}"]`) ?? null;
/** frames that a row may take to be drawn, and that it is watched after: a table whose length changed draws its rows once more */
const PATIENCE = 30;
let focusing = 0;
function focusCell(): void {
  const mine = ++focusing;
  const from = document.activeElement;
  rowsTable.value?.scrollTo(active.value.row);
  let frames = 0;
  const tryFocus = (): void => {
    if (mine !== focusing || frames++ > PATIENCE) return;
    const target = cell();
    const at = document.activeElement;
    // somebody who went elsewhere meanwhile stays there
    if (target && at !== target && !target.contains(at) && (at === from || at === document.body || at?.matches('.cell'))) {
      rowsTable.value?.scrollTo(active.value.row);
      target.focus();
    }
    requestAnimationFrame(tryFocus);
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
async function edit(seed: string | null = null): Promise<unknown> {
  const row = grid.at(active.value.row);
  const column = columns.value[active.value.column];
  if (!row || !column) return;
  const value = row.row[column.key] ?? null;
  const target = linkTarget(column);
  if (COLUMN_LOOKS[column.type].control === 'yesno' && seed === null)
    return save(row, column, value === null ? true : value === true ? false : null);
  text.value = seed ?? (target ? cellText(column, value, grid.linked) : KINDS[column.type].written(value));
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
  const answer = await api.tables.rows({ key: target }, { search: sought, limit: 30, sort: shown ?? undefined });
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

/** the row whose related rows are looked at; an address may ask for one */
const askedRow = Number(useRoute().query.row);
const looking = ref<number | null>(Number.isInteger(askedRow) && askedRow > 0 ? askedRow : null);

// ---- saving, with undo ----
interface Done {
  readonly undo: () => Promise<void>;
}
const done: Done[] = [];
async function save(row: GridRow, column: Column, value: Datum, undoable = true): Promise<boolean> {
  const before = row.row[column.key] ?? null;
  if (before === value) return true;
  try {
    const saved = await stored.save(row, { [column.key]: value });
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
    const added = await stored.add(values);
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
    const gone = await stored.remove(row);
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
  // what stands above the cells has keys of its own
  if (!(event.target as HTMLElement).closest('.cell')) return;
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
  <div ref="root" class="wrap" @keydown="key">
    <RowsTable ref="rowsTable" :rows="grid" :columns="table.columns" :label="table.label" :kept-as="`table ${table.key}`" grid>
      <template #bar>
        <InputText
          v-model="grid.search.value"
          class="search"
          type="search"
          placeholder="Search"
          aria-label="Search the rows"
          @input="searchSoon"
        />
        <span class="muted"
          >{{ grid.total.value.toLocaleString(LOCALE) }} {{ grid.search.value ? 'found' : grid.total.value === 1 ? 'row' : 'rows' }}</span
        >
        <span class="muted tip">Enter edits · Ctrl+Z undoes · Ctrl+Del deletes the row</span>
        <Button severity="secondary" size="small" icon="pi pi-plus" label="Add a row" @click="addRow()" />
      </template>
      <template #number="{ row }"
        ><Button
          link
          severity="secondary"
          tabindex="-1"
          :aria-label="`Details of row ${row.row.id}`"
          :label="String(row.row.id)"
          @click="looking = row.row.id"
      /></template>
      <template #cell="{ row, index, column, place }">
        <div
          class="cell"
          :data-cell="`${index}-${place}`"
          :tabindex="active.row === index && active.column === place ? 0 : -1"
          :class="{ on: active.row === index && active.column === place }"
          @focus="active = { row: index, column: place }"
          @dblclick.stop="edit()"
          @focusout="leaveCell"
        >
          <template v-if="editing && active.row === index && active.column === place">
            <InputText v-model="text" class="edit" :aria-label="column.label" :invalid="!!misread" @input="typed" />
            <div v-if="misread" class="below misread bad" role="alert">{{ misread }}</div>
            <ul v-else-if="linkTarget(column as Column) && options.length" class="below options">
              <li v-for="o in options.slice(0, 9)" :key="o.id" @mousedown.prevent="pickOption(o)">{{ o.text }}</li>
            </ul>
          </template>
          <template v-else>{{ cellText(column as Column, row.row[column.key] ?? null, grid.linked) }}</template>
        </div>
      </template>
      <template #endHead><span class="sr">Delete</span></template>
      <template #end="{ row }"
        ><Button
          class="away"
          text
          severity="secondary"
          size="small"
          icon="pi pi-trash"
          tabindex="-1"
          :aria-label="`Delete row ${row.row.id}`"
          @click="removeRow(row)"
      /></template>
      <template #none>{{ grid.search.value ? 'No row holds this text.' : 'No rows yet: add one, or import a file.' }}</template>
    </RowsTable>
    <Note v-if="grid.failed.value" kind="bad" :retry="grid.again">{{ grid.failed.value.message }}</Note>
    <StayDialog :visible="looking !== null" modal header="Details" :style="{ width: '620px' }" @update:visible="looking = null"
      ><RowPanel v-if="looking !== null" :id="looking" :table="table.key"
    /></StayDialog>
    <StayDialog :visible="links !== null" modal header="Not deleted" :style="{ width: '480px' }" @update:visible="links = null">
      <p>
        <b>{{ links?.text }}</b>: {{ links?.message }}
      </p>
      <div v-for="l in links?.links ?? []" :key="l.table + l.columnLabel" class="linking">
        <h3>{{ l.label }}, by {{ l.columnLabel }}: {{ l.count }}</h3>
        <p>{{ l.rows.map((r) => r.text).join(', ') }}{{ l.count > l.rows.length ? ' …' : '' }}</p>
      </div>
      <p class="muted">Give these rows another link first, then delete.</p>
    </StayDialog>
  </div>
</template>

<style scoped>
.wrap {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
}
.search {
  width: 240px;
}
.tip {
  margin-left: auto;
  font-size: 12.5px;
}
.wrap :deep(td:has(.cell)) {
  padding: 0;
}
.wrap :deep(td:has(.edit)) {
  overflow: visible;
}
.cell {
  height: 29px;
  padding: 4px 8px;
  overflow: hidden;
  text-overflow: ellipsis;
  position: relative;
  cursor: cell;
  outline-offset: -2px;
}
.cell:has(.edit) {
  overflow: visible;
  padding: 0;
  z-index: 2;
}
.edit {
  width: 100%;
  height: 100%;
  min-height: 0;
  border-radius: 0;
  background: var(--flow-wash);
  text-align: inherit;
}
.away {
  min-height: 20px;
  opacity: 0;
}
.wrap :deep(tr:hover) .away,
.away:focus-visible {
  opacity: 1;
}
.below {
  position: absolute;
  left: 0;
  top: 100%;
  min-width: 100%;
  z-index: 5;
  white-space: normal;
  text-align: left;
  background: var(--ground);
  border: 1px solid var(--line-strong);
  border-radius: var(--r);
  box-shadow: var(--lift);
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
.linking {
  padding: 8px 0;
}
</style>
