<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import type { contract } from '~~/core/contract/index.ts';
import type { TreeNode } from 'primevue/treenode';
import {
  OPTION_COLOURS,
  type OptionItem,
  branchEnd,
  indentBranch,
  listProblems,
  moveBranch,
  readOutline,
  settleDepths,
} from '~~/core/model/lists.ts';

/* One option list as an outline: Enter adds below, Alt and arrows indent and move a branch. */
const route = useRoute();
const key = String(route.params.key);
const asked = useLists();
await asked.refetch();
const list = computed(() => asked.data.value?.find((l) => l.key === key));
const root = ref<HTMLElement>();

/** What is edited here; it is saved a little after each change. */
interface Edited {
  readonly label: string;
  readonly items: readonly OptionItem[];
}
const edited = useDocument<Edited>(
  async ({ label, items }, revision) => (await api.lists.save({ key }, { list: { key, label, items }, revision })).revision,
  // what is not sound stays here until it is; the problems say why
  { sound: (now) => listProblems(now.items).length === 0 },
);
function open(): void {
  if (list.value) edited.open({ label: list.value.label, items: list.value.items }, list.value.revision);
}
open();
const { conflict } = edited;
async function readTheirs(): Promise<void> {
  await asked.refetch();
  open();
}
const { state } = edited;
const items = computed(() => edited.now.value?.items ?? []);
const label = computed(() => edited.now.value?.label ?? '');
const problem = ref('');
useHead({ title: computed(() => `${label.value || 'List'} · Brisk Acorn`) });

const problems = computed(() => listProblems(items.value));
function put(next: readonly OptionItem[], focus: number | null = null): void {
  if (next === items.value || !edited.now.value) return;
  edited.change({ ...edited.now.value, items: next });
  if (focus !== null) void nextTick(() => root.value?.querySelectorAll<HTMLInputElement>('.label-in')[focus]?.focus());
}
function rename(text: string): void {
  if (text.trim() && edited.now.value) edited.change({ ...edited.now.value, label: text.trim() });
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
  readonly in: Answer<typeof contract.lists.held>;
}
/** Records that still hold a value which the list has changed. */
const held = ref<readonly Held[]>([]);
async function revalue(i: number, to: string): Promise<void> {
  const from = items.value[i]?.value;
  if (from === undefined || from === to) return;
  change(i, { value: to });
  try {
    const found = await api.lists.held({ key }, { value: from });
    if (found.length) held.value = [...held.value.filter((h) => h.from !== from), { from, to, in: found }];
  } catch (e) {
    problem.value = messageOf(e);
  }
}
async function changeHeld(h: Held): Promise<void> {
  await edited.flush();
  if (state.value !== 'saved') return;
  try {
    await api.lists.changeHeld({ key }, { from: h.from, to: h.to });
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
  } else if (event.altKey && (event.key === 'ArrowRight' || event.key === 'ArrowLeft')) {
    commit();
    put(indentBranch(items.value, i, event.key === 'ArrowLeft' ? -1 : 1), i);
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
useEventListener(
  document,
  'keydown',
  (event: KeyboardEvent) => {
    if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return;
    event.preventDefault();
    if (event.shiftKey) edited.redo();
    else edited.undo();
  },
  // before a row of the outline has the key
  { capture: true },
);
const confirm = useConfirm();
const choices = computed(() => `${items.value.length} ${items.value.length === 1 ? 'choice' : 'choices'}`);
function drop(): void {
  confirm.require({
    header: 'Delete the list',
    message: `${label.value} and its ${choices.value} will be deleted. This cannot be undone.`,
    acceptProps: { label: 'Delete', severity: 'danger' },
    rejectProps: { label: 'Keep it', severity: 'secondary' },
    accept: async () => {
      try {
        await api.lists.remove({ key });
        await navigateTo('/design/lists');
      } catch (e) {
        problem.value = messageOf(e);
      }
    },
  });
}
// drag: a branch goes before the row it is let go on, at that row's depth
const body = computed(() => (root.value ? root.value.querySelector<HTMLElement>('.p-treetable-tbody') : null));
const placeOf = (row: HTMLElement | null): number =>
  Number(row?.querySelector<HTMLElement>('[data-place]')?.dataset.place ?? items.value.length);
useDragOrder(body, ({ item, before }) => {
  const from = placeOf(item);
  const at = placeOf(before);
  const end = branchEnd(items.value, from);
  if (at >= from && at <= end) return;
  const shift = (items.value[at]?.depth ?? 0) - (items.value[from]?.depth ?? 0);
  const branch = items.value.slice(from, end).map((x) => ({ ...x, depth: x.depth + shift }));
  const rest = [...items.value.slice(0, from), ...items.value.slice(end)];
  const place = at > from ? at - branch.length : at;
  put(settleDepths([...rest.slice(0, place), ...branch, ...rest.slice(place)]), place);
});

// ---- the outline as a tree ----
interface ItemNode extends TreeNode {
  readonly key: string;
  readonly data: { readonly item: OptionItem; readonly place: number };
  readonly children: ItemNode[];
}
const nodes = computed(() => {
  const top: ItemNode[] = [];
  const above: ItemNode[] = [];
  items.value.forEach((item, place) => {
    const node: ItemNode = { key: String(place), data: { item, place }, children: [] };
    above.length = item.depth;
    (above.at(-1)?.children ?? top).push(node);
    above.push(node);
  });
  return top;
});
/** branches that were shut, by their stored value: places change as the list does */
const shut = ref<ReadonlySet<string>>(new Set());
const expanded = computed(() =>
  Object.fromEntries(items.value.flatMap((x, place) => (shut.value.has(x.value) ? [] : [[String(place), true] as const]))),
);
function toggle(node: TreeNode, isShut: boolean): void {
  const { value } = (node as ItemNode).data.item;
  const next = new Set(shut.value);
  if (isShut) next.add(value);
  else next.delete(value);
  shut.value = next;
}
/** what stands in the first screen is drawn at once */
const AT_ONCE = 30;
const COLOURS = [{ value: null, label: 'none' }, ...OPTION_COLOURS.map((c) => ({ value: c as OptionItem['colour'], label: c }))];
onBeforeRouteLeave(() => edited.flush());
</script>

<template>
  <div class="page">
    <PlaceTrail :above="[{ label: 'Lists', to: '/design/lists' }]" :here="label || key" />
    <Teleport to="#bar-end"
      ><span class="muted" role="status">{{
        state === 'saved' ? 'saved' : problems.length || state === 'failed' ? 'not saved' : 'saving…'
      }}</span></Teleport
    >
    <Asked v-if="!list" :query="asked"
      ><Note kind="bad">There is no list “{{ key }}”. <NuxtLink to="/design/lists">All lists</NuxtLink></Note></Asked
    >
    <template v-else>
      <header class="row spread">
        <TextEdit
          class="bare title"
          :value="label"
          aria-label="Name of the list"
          @change="rename(($event.target as HTMLInputElement).value)"
        />
        <span class="row">
          <span class="muted">{{
            list.usedBy.length ? `used by ${list.usedBy.map((u) => u.label).join(', ')}` : 'used by no form yet'
          }}</span>
          <Button text severity="danger" size="small" @click="drop">Delete list</Button>
        </span>
      </header>
      <Note
        v-for="p in new Set([list.broken ?? '', ...problems, problem, problems.length ? '' : edited.failure.value].filter(Boolean))"
        :key="p"
        kind="bad"
        >{{ p }}</Note
      >
      <Note v-for="h in held" :key="h.from">
        {{
          h.in
            .map((t) => `${t.count.toLocaleString(LOCALE)} ${t.count === 1 ? 'record' : 'records'} of ${t.label} (${t.columnLabel})`)
            .join(' and ')
        }}
        still {{ h.in.length === 1 && h.in[0]?.count === 1 ? 'holds' : 'hold' }} “{{ h.from }}”.
        <Button link @click="changeHeld(h)">Change them to “{{ h.to }}”</Button> or
        <Button link severity="secondary" @click="held = held.filter((x) => x !== h)">leave them</Button>.
      </Note>
      <div ref="root" class="outline">
        <TreeTable
          :value="nodes"
          :expanded-keys="expanded"
          size="small"
          row-hover
          :aria-label="label"
          :pt="{ table: { 'aria-label': label } }"
          @node-expand="toggle($event, false)"
          @node-collapse="toggle($event, true)"
        >
          <Column v-memo="[]" header="Choice" expander>
            <template #body="{ node }">
              <span class="name" :class="{ retired: node.data.item.retired }" :data-place="node.data.place" @keydown.stop>
                <i class="pi pi-bars grip" aria-hidden="true" />
                <NearView :height="26" :now="node.data.place < AT_ONCE"
                  ><TextEdit
                    class="bare label-in"
                    size="small"
                    :value="node.data.item.label"
                    :aria-label="`Choice ${node.data.place + 1}, level ${node.data.item.depth + 1}`"
                    @change="relabel(node.data.place, ($event.target as HTMLInputElement).value)"
                    @keydown="keys($event, node.data.place)"
                    @paste="paste($event, node.data.place)"
                  /><template #still>{{ node.data.item.label }}</template></NearView
                >
              </span>
            </template>
          </Column>
          <Column v-memo="[]" header="Stored value" style="width: 200px">
            <template #body="{ node }">
              <div @keydown.stop>
                <NearView :height="26" :now="node.data.place < AT_ONCE"
                  ><TextEdit
                    class="bare mono"
                    size="small"
                    :value="node.data.item.value"
                    :aria-label="`Stored value of ${node.data.item.label}`"
                    @change="revalue(node.data.place, ($event.target as HTMLInputElement).value.trim() || node.data.item.value)"
                  /><template #still
                    ><code>{{ node.data.item.value }}</code></template
                  ></NearView
                >
              </div>
            </template>
          </Column>
          <Column v-memo="[]" header="Colour and sign" style="width: 230px">
            <template #body="{ node }">
              <div @keydown.stop>
                <NearView :height="26" :now="node.data.place < AT_ONCE"
                  ><span class="row">
                    <PickOne
                      class="colour"
                      size="small"
                      :model-value="node.data.item.colour ?? null"
                      :label="`Colour of ${node.data.item.label}`"
                      :options="COLOURS"
                      @update:model-value="change(node.data.place, { colour: $event ?? null })" />
                    <TextEdit
                      class="sign"
                      size="small"
                      maxlength="2"
                      :value="node.data.item.mark ?? ''"
                      :aria-label="`Sign of ${node.data.item.label}`"
                      @change="change(node.data.place, { mark: ($event.target as HTMLInputElement).value.trim() || null })" />
                    <OptionSwatch
                      :row="{ id: 0, colour: node.data.item.colour, mark: node.data.item.mark, label: node.data.item.label }" /></span
                ></NearView>
              </div>
            </template>
          </Column>
          <Column v-memo="[]" header="Offered" style="width: 110px">
            <template #body="{ node }">
              <label @keydown.stop
                ><ToggleSwitch
                  :model-value="!node.data.item.retired"
                  :aria-label="`${node.data.item.label} is offered`"
                  @update:model-value="change(node.data.place, { retired: !$event })"
                />
                {{ node.data.item.retired ? 'retired' : 'yes' }}</label
              >
            </template>
          </Column>
          <Column v-memo="[]" style="width: 44px">
            <template #header><span class="sr">Remove</span></template>
            <template #body="{ node }">
              <Button
                text
                severity="secondary"
                size="small"
                icon="pi pi-trash"
                :aria-label="`Remove ${node.data.item.label} and what is below it`"
                @click="remove(node.data.place)"
                @keydown.stop
              />
            </template>
          </Column>
          <template #empty>This list is empty. Add a choice, or paste an outline into the first one.</template>
        </TreeTable>
      </div>
      <footer class="row">
        <Button severity="secondary" size="small" @click="add(items.length - 1)">
          <i class="pi pi-plus" aria-hidden="true" /> Add a choice
        </Button>
        <span class="muted"
          >Enter adds below · Alt+→ and Alt+← indent · Alt+↑ and Alt+↓ move a branch · paste many lines at once · Ctrl+Z undoes</span
        >
      </footer>
      <ConflictDialog v-if="conflict" what="list" @read="readTheirs" />
    </template>
  </div>
</template>

<style scoped>
.title {
  max-width: 420px;
}
.outline :deep(td) {
  vertical-align: middle;
  padding-block: 1px;
}
.outline :deep(.dragged) {
  opacity: 0.5;
}
.outline :deep(.p-treetable-body-cell-content) {
  gap: 2px;
}
.name {
  flex: 1;
  display: flex;
  align-items: center;
  gap: 6px;
}
.outline :deep(:is(.p-inputtext, .p-select):not(:hover, :focus, :focus-within)) {
  border-color: transparent;
  background: transparent;
}
.grip {
  cursor: grab;
  color: var(--ink-2);
  font-size: 10px;
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
footer {
  padding-top: 12px;
}
</style>
