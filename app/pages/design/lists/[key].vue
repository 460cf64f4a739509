<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import {
  OPTION_COLOURS,
  type OptionItem,
  branchEnd,
  indentBranch,
  listProblems,
  moveBranch,
  readOutline,
  settleDepths,
} from '~~/core/form/lists.ts';

/* One option list as an outline: Enter adds below, Tab indents, Alt and arrows move a branch. */
const route = useRoute();
const key = String(route.params.key);
const { lists, failed, load } = useLists();
await load();
const list = computed(() => lists.value.find((l) => l.key === key));
const items = shallowRef<readonly OptionItem[]>(list.value?.items ?? []);
const label = ref(list.value?.label ?? '');
let revision = list.value?.revision ?? 0;
const problem = ref('');
const undoStack: (readonly OptionItem[])[] = [];
const redoStack: (readonly OptionItem[])[] = [];
const root = ref<HTMLElement>();
useHead({ title: computed(() => `${label.value || 'List'} · Brisk Acorn`) });

const problems = computed(() => listProblems(items.value));
const saver = useSaver(async () => {
  // what is not sound stays here until it is; the problems say why
  if (problems.value.length) throw new Error(problems.value[0]);
  try {
    const body = { list: { key, label: label.value, items: items.value }, revision };
    revision = (await api<{ revision: number }>(`lists/${key}`, { method: 'PUT', body })).revision;
    problem.value = '';
  } catch (e) {
    problem.value = messageOf(e);
    throw e;
  }
});
const { state } = saver;
function put(next: readonly OptionItem[], focus: number | null = null): void {
  if (next === items.value) return;
  undoStack.push(items.value);
  redoStack.length = 0;
  show(next, focus);
}
function show(next: readonly OptionItem[], focus: number | null = null): void {
  items.value = next;
  saver.touch();
  if (focus !== null) void nextTick(() => root.value?.querySelectorAll<HTMLInputElement>('.label-in')[focus]?.focus());
}
function undo(): void {
  const before = undoStack.pop();
  if (before) {
    redoStack.push(items.value);
    show(before);
  }
}
function redo(): void {
  const after = redoStack.pop();
  if (after) {
    undoStack.push(items.value);
    show(after);
  }
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
interface Held {
  readonly from: string;
  readonly to: string;
  readonly in: readonly { readonly label: string; readonly columnLabel: string; readonly count: number }[];
}
/** Records that still hold a value which the list has changed. */
const held = ref<readonly Held[]>([]);
async function revalue(i: number, to: string): Promise<void> {
  const from = items.value[i]?.value;
  if (from === undefined || from === to) return;
  change(i, { value: to });
  try {
    const found = await api<Held['in']>(`lists/${key}/held`, { query: { value: from } });
    if (found.length) held.value = [...held.value.filter((h) => h.from !== from), { from, to, in: found }];
  } catch (e) {
    problem.value = messageOf(e);
  }
}
async function changeHeld(h: Held): Promise<void> {
  await saver.flush();
  if (state.value !== 'saved') return;
  try {
    await api(`lists/${key}/held`, { body: { from: h.from, to: h.to } });
    held.value = held.value.filter((x) => x !== h);
  } catch (e) {
    problem.value = messageOf(e);
  }
}
function add(after: number): void {
  const depth = items.value[after]?.depth ?? 0;
  const at = after < 0 ? 0 : branchEnd(items.value, after);
  const [made] = readOutline(
    'New choice',
    items.value.map((x) => x.value),
  ).items as [OptionItem];
  put([...items.value.slice(0, at), { ...made, depth, label: made.value }, ...items.value.slice(at)], at);
  void nextTick(() => root.value?.querySelectorAll<HTMLInputElement>('.label-in')[at]?.select());
}
function remove(i: number): void {
  put(settleDepths([...items.value.slice(0, i), ...items.value.slice(branchEnd(items.value, i))]), Math.max(0, i - 1));
}
function keys(event: KeyboardEvent, i: number): void {
  const input = event.target as HTMLInputElement;
  const commit = (): void => relabel(i, input.value);
  if (event.key === 'Enter') {
    commit();
    add(i);
  } else if (event.key === 'Tab') {
    const next = indentBranch(items.value, i, event.shiftKey ? -1 : 1);
    if (next === items.value) return;
    commit();
    put(indentBranch(items.value, i, event.shiftKey ? -1 : 1), i);
  } else if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
    commit();
    const moved = moveBranch(items.value, i, event.key === 'ArrowUp' ? -1 : 1);
    put(moved.items, moved.index);
  } else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
    root.value?.querySelectorAll<HTMLInputElement>('.label-in')[i + (event.key === 'ArrowUp' ? -1 : 1)]?.focus();
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
  problem.value = pasted.problems[0] ?? '';
  if (pasted.problems.length) return;
  const made = pasted.items.map((x) => ({ ...x, depth: x.depth + depth }));
  const at = i < 0 ? items.value.length : branchEnd(items.value, i);
  put(settleDepths([...items.value.slice(0, at), ...made, ...items.value.slice(at)]), at);
}
useEventListener(document, 'keydown', (event: KeyboardEvent) => {
  if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return;
  event.preventDefault();
  if (event.shiftKey) redo();
  else undo();
});
async function drop(): Promise<void> {
  try {
    await api(`lists/${key}`, { method: 'DELETE' });
    await navigateTo('/design/lists');
  } catch (e) {
    problem.value = messageOf(e);
  }
}
// drag: a branch goes before the row it is let go on, at that row's depth
const dragging = ref<number | null>(null);
function dropOn(at: number): void {
  const from = dragging.value;
  dragging.value = null;
  if (from === null) return;
  const end = branchEnd(items.value, from);
  if (at >= from && at < end) return;
  const shift = (items.value[at]?.depth ?? 0) - (items.value[from]?.depth ?? 0);
  const branch = items.value.slice(from, end).map((x) => ({ ...x, depth: x.depth + shift }));
  const rest = [...items.value.slice(0, from), ...items.value.slice(end)];
  const place = at > from ? at - branch.length : at;
  put(settleDepths([...rest.slice(0, place), ...branch, ...rest.slice(place)]), place);
}
onBeforeRouteLeave(() => saver.flush());
</script>

<template>
  <div class="page">
    <Teleport to="#bar-place"
      ><span class="muted"><NuxtLink to="/design/lists">Lists</NuxtLink> ›</span> <b>{{ label || key }}</b></Teleport
    >
    <Teleport to="#bar-end"
      ><span class="muted" role="status">{{
        state === 'saved' ? 'saved' : problems.length || state === 'failed' ? 'not saved' : 'saving…'
      }}</span></Teleport
    >
    <p v-if="failed || !list" class="note bad" role="alert">
      {{ failed || `There is no list “${key}”.` }} <NuxtLink to="/design/lists">All lists</NuxtLink>
    </p>
    <template v-else>
      <header class="row spread">
        <input v-model="label" class="title" aria-label="Name of the list" @change="show([...items])" />
        <span class="row">
          <span class="muted">{{
            list.usedBy.length ? `used by ${list.usedBy.map((u) => u.label).join(', ')}` : 'used by no form yet'
          }}</span>
          <button class="btn plain small danger" type="button" @click="drop">Delete list</button>
        </span>
      </header>
      <p v-for="p in new Set([list.broken ?? '', ...problems, problem].filter(Boolean))" :key="p" class="note bad" role="alert">{{ p }}</p>
      <p v-for="h in held" :key="h.from" class="note" role="status">
        {{
          h.in
            .map((t) => `${t.count.toLocaleString(LOCALE)} ${t.count === 1 ? 'record' : 'records'} of ${t.label} (${t.columnLabel})`)
            .join(' and ')
        }}
        still {{ h.in.length === 1 && h.in[0]?.count === 1 ? 'holds' : 'hold' }} “{{ h.from }}”.
        <button class="word" type="button" @click="changeHeld(h)">Change them to “{{ h.to }}”</button> or
        <button class="word light" type="button" @click="held = held.filter((x) => x !== h)">leave them</button>.
      </p>
      <div ref="root" class="outline" role="tree" :aria-label="label">
        <div class="line heads muted" role="presentation">
          <span>Choice</span><span>Stored value</span><span>Colour and sign</span><span>Offered</span><span />
        </div>
        <div
          v-for="(item, i) in items"
          :key="i"
          class="line"
          role="treeitem"
          :aria-level="item.depth + 1"
          :class="{ retired: item.retired }"
          @dragover.prevent
          @drop="dropOn(i)"
        >
          <span class="name" :style="{ paddingLeft: `${item.depth * 22}px` }">
            <i class="pi pi-bars grip" draggable="true" aria-hidden="true" @dragstart="dragging = i" @dragend="dragging = null" />
            <TextEdit
              class="in label-in"
              :value="item.label"
              :aria-label="`Choice ${i + 1}, level ${item.depth + 1}`"
              @change="relabel(i, ($event.target as HTMLInputElement).value)"
              @keydown="keys($event, i)"
              @paste="paste($event, i)"
            />
          </span>
          <TextEdit
            class="in mono"
            :value="item.value"
            :aria-label="`Stored value of ${item.label}`"
            @change="revalue(i, ($event.target as HTMLInputElement).value.trim() || item.value)"
          />
          <span class="row">
            <select
              class="in"
              :value="item.colour ?? ''"
              :aria-label="`Colour of ${item.label}`"
              @change="change(i, { colour: (($event.target as HTMLSelectElement).value || null) as OptionItem['colour'] })"
            >
              <option value="">none</option>
              <option v-for="c in OPTION_COLOURS" :key="c" :value="c">{{ c }}</option>
            </select>
            <TextEdit
              class="in sign"
              maxlength="2"
              :value="item.mark ?? ''"
              :aria-label="`Sign of ${item.label}`"
              @change="change(i, { mark: ($event.target as HTMLInputElement).value.trim() || null })"
            />
            <span v-if="item.colour || item.mark" class="swatch" :class="`c-${item.colour ?? 'none'}`">{{
              item.mark ?? item.label.charAt(0)
            }}</span>
          </span>
          <label
            ><input type="checkbox" :checked="!item.retired" @change="change(i, { retired: item.retired ? false : true })" />
            {{ item.retired ? 'retired' : 'yes' }}</label
          >
          <button class="btn plain small" type="button" :aria-label="`Remove ${item.label} and what is below it`" @click="remove(i)">
            <i class="pi pi-trash" />
          </button>
        </div>
        <p v-if="!items.length" class="note">This list is empty. Add a choice, or paste an outline into the first one.</p>
      </div>
      <footer class="row">
        <button class="btn small" type="button" @click="add(items.length - 1)">
          <i class="pi pi-plus" aria-hidden="true" /> Add a choice
        </button>
        <span class="muted"
          >Enter adds below · Tab and Shift+Tab indent · Alt+↑↓ moves a branch · paste many lines at once · Ctrl+Z undoes</span
        >
      </footer>
    </template>
  </div>
</template>

<style scoped>
.outline .in:not(:hover, :focus) {
  border-color: transparent;
  background: none;
}
.title {
  font-size: 20px;
  font-weight: 700;
  border: 0;
  border-bottom: 1px solid transparent;
  background: none;
}
.title:hover {
  border-bottom-color: var(--line-strong);
}
.line {
  display: grid;
  grid-template-columns: minmax(260px, 1fr) 190px 210px 90px 40px;
  gap: 10px;
  align-items: center;
  padding: 2px 0;
}
.heads {
  font-size: 13px;
  border-bottom: 1px solid var(--line);
}
.name {
  display: flex;
  align-items: center;
  gap: 6px;
}
.grip {
  cursor: grab;
  color: var(--ink-2);
  font-size: 10px;
}
.sign {
  width: 44px;
}
.retired .label-in {
  text-decoration: line-through;
  color: var(--ink-2);
}
footer {
  padding-top: 12px;
}
</style>
