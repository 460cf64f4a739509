<script setup lang="ts">
import { addressOf, type Edit } from '~~/core/engine/state.ts';
import { fieldsOfPaste } from './pasteLines';

/* Line items: one row a line, each with its own choices, fills and totals. A block pasted from a spreadsheet fills lines. */
const props = defineProps<{ host: EntryHost; name: string; prefix?: string }>();
const emit = defineEmits<{ why: [field: string]; field: [path: string] }>();
const group = computed(() => props.host.entry.value!.group(props.name));
const view = computed(() => props.host.lines(props.name));
/** A column that is hidden in every line is no column; where forms are built, it stands there all the same. */
const paths = computed(() => {
  const all = group.value.definition.columns.map((c) => `${props.name}.${c}`);
  const plan = props.host.entry.value!;
  const { ids } = view.value;
  if (props.prefix === 'd' || !ids.length) return all;
  return all.filter((p) => {
    const { shown, showing } = plan.field(p);
    return (!shown.length && !showing.length) || ids.some((line) => props.host.view(addressOf(p, line)).shown);
  });
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
  void nextTick(() => root.value?.querySelector<HTMLElement>(`[data-line="${line}"] :is(input, textarea):not([disabled])`)?.focus());
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
const body = ref<HTMLElement>();
useDragOrder(body, ({ item, to }) => props.host.apply([{ kind: 'moveLine', field: props.name, line: Number(item.dataset.line), to }]), {
  disabled: locked,
});

// ---- a block from a spreadsheet ----
function paste(event: ClipboardEvent): void {
  const text = event.clipboardData?.getData('text/plain') ?? '';
  const cell = (event.target as HTMLElement).closest<HTMLElement>('[data-field]')?.dataset.field;
  if (locked.value || !/[\t\n]/.test(text.trimEnd()) || !cell) return;
  event.preventDefault();
  (event.target as HTMLElement).blur();
  const [path = '', line = ''] = cell.split('#');
  const result = fieldsOfPaste(props.host, props.name, paths.value, paths.value.indexOf(path), view.value.ids.indexOf(Number(line)), text);
  said.value = result;
}

// ---- only lines near the screen hold live controls, so that a thousand open quickly and stay quick ----
const PLAIN_FROM = 8;
const near = reactive(new Set<number>());
let observer: IntersectionObserver | null = null;
onMounted(() => {
  observer = new IntersectionObserver(
    (entries) => {
      for (const e of entries) {
        const line = Number((e.target as HTMLElement).dataset.line);
        if (e.isIntersecting) near.add(line);
        else near.delete(line);
      }
    },
    { rootMargin: '400px' },
  );
  watchPostEffect(() => {
    void view.value.ids;
    root.value?.querySelectorAll('[data-line]').forEach((row) => observer?.observe(row));
  });
});
onBeforeUnmount(() => observer?.disconnect());
const isLive = (line: number): boolean => view.value.ids.length <= PLAIN_FROM || near.has(line);
const widthOf = (column: number) => {
  const { figures, width } = COLUMN_LOOKS[fields.value[column]!.definition.type];
  return { num: figures, wide: width === 'wide' };
};
defineExpose({ add });
</script>

<template>
  <div v-if="view.shown" ref="root" class="lines" :data-lines="name" @paste="paste">
    <!-- eslint-disable-next-line vue/no-restricted-html-elements -- each line mounts, and mounts alone, as it nears the screen; the rows of a DataTable are drawn together, and its virtual scroll needs them of one height -->
    <table>
      <caption class="sr">
        {{
          group.definition.label
        }}
      </caption>
      <thead>
        <tr>
          <th class="place"><span class="sr">Place</span></th>
          <th v-for="(f, i) in fields" :key="f.key" :class="widthOf(i)">
            <Button v-if="prefix === 'd'" link class="head" :label="f.definition.label" @click="emit('field', paths[i]!)" />
            <template v-else>{{ f.definition.label }}</template>
          </th>
          <th class="tools"><span class="sr">Line</span></th>
        </tr>
      </thead>
      <tbody ref="body">
        <tr v-for="(line, i) in view.ids" :key="line" :data-line="line" @keydown="key($event, line, i)">
          <td class="place">
            <Button
              text
              severity="secondary"
              size="small"
              class="grip"
              tabindex="-1"
              :aria-label="`Line ${i + 1}: drag, or Alt and arrows, to move`"
              :label="String(i + 1)"
            />
          </td>
          <template v-if="isLive(line)">
            <td v-for="(p, c) in paths" :key="p" :data-label="fields[c]!.definition.label" :class="widthOf(c)">
              <EntryField compact :host="host" :name="`${p}#${line}`" :prefix="prefix" @why="emit('why', $event)" />
            </td>
          </template>
          <td v-for="(p, c) in paths" v-else :key="p" class="still" :data-label="fields[c]!.definition.label" :class="widthOf(c)">
            {{ host.show(`${p}#${line}`) }}
          </td>
          <td class="tools">
            <template v-if="!locked">
              <Button
                v-tooltip.bottom="'Duplicate (Ctrl+D)'"
                text
                severity="secondary"
                size="small"
                icon="pi pi-clone"
                tabindex="-1"
                :aria-label="`Duplicate line ${i + 1}`"
                @click="duplicate(line, i)"
              /><Button
                v-tooltip.bottom="'Take out (Ctrl+Delete)'"
                text
                severity="secondary"
                size="small"
                icon="pi pi-times"
                tabindex="-1"
                :aria-label="`Remove line ${i + 1}`"
                @click="remove(line, i)"
              />
            </template>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="issue" class="bad" role="alert"><i class="pi pi-times-circle" aria-hidden="true" /> {{ issue }}</p>
    <p class="under">
      <Button v-if="!locked" link severity="secondary" @click="addAndGo">+ line</Button>
      <span v-if="!view.ids.length" class="muted">No lines yet. Lines can also be pasted from a spreadsheet.</span>
      <span v-if="removed">Line removed. <Button link @click="putBack">Undo</Button></span>
      <span v-if="said" role="status">{{ said }}</span>
    </p>
  </div>
</template>

<style scoped>
.lines {
  /* what is hidden from the eye only stays inside what scrolls */
  position: relative;
  padding: 4px 8px;
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
.wide {
  min-width: 170px;
}
td {
  padding: 2px 3px;
  vertical-align: top;
}
.num {
  min-width: 64px;
}
.place {
  width: 26px;
}
.grip {
  width: 24px;
  min-height: 32px;
  padding: 0;
  cursor: grab;
  font-weight: 400;
}
.head {
  font-weight: 600;
}
.tools {
  width: 62px;
  white-space: nowrap;
}
td.tools .p-button {
  margin-top: 3px;
  color: var(--ink-2);
}
.still {
  height: 36px;
  padding: 8px 12px;
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
  tr[data-line] {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    gap: 4px 10px;
    padding: 6px 8px 10px;
    margin-bottom: 8px;
    border: 1px solid var(--line);
    border-radius: 6px;
  }
  td[data-label]::before {
    /* said by the label of the control */
    content: attr(data-label) / '';
    display: block;
    font-size: 12.5px;
    font-weight: 600;
    text-align: start;
  }
  td.wide {
    grid-column: 1 / -1;
  }
  .still {
    height: auto;
    padding: 2px 3px;
  }
  td.place,
  td.tools {
    width: auto;
    grid-row: 1;
  }
  td.tools {
    grid-column: 2;
    text-align: end;
  }
  .under {
    padding: 4px 0;
    flex-wrap: wrap;
  }
}
</style>
