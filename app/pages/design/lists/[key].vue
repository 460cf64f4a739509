<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import type { contract } from '~~/core/contract/index.ts';
import { listProblems } from '~~/core/model/lists.ts';
import type { EditedList } from '~/components/design/listDocument';

/* One option list: its name, its choices as an outline, and what still holds a value that was changed. */
const route = useRoute();
const key = String(route.params.key);
const asked = useLists();
await asked.refetch();
const list = computed(() => asked.data.value?.find((l) => l.key === key));
const outline = ref<{ addLast(): void }>();

const edited = useDocument<EditedList>(
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
/** so many are told; of thousands nobody reads all */
const TOLD = 20;
const told = computed(() => {
  const { value: all } = problems;
  const more = all.length > TOLD ? [`And ${(all.length - TOLD).toLocaleString(LOCALE)} more.`] : [];
  return new Set([list.value?.broken ?? '', ...all.slice(0, TOLD), ...more, problem.value, all.length ? '' : edited.failure.value].filter(Boolean)); // prettier-ignore
});
function rename(text: string): void {
  if (text.trim() && edited.now.value) edited.change({ ...edited.now.value, label: text.trim() });
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
  const { now } = edited;
  edited.change({ ...now.value!, items: items.value.map((x, j) => (i === j ? { ...x, value: to } : x)) });
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
useEventListener(
  document,
  'keydown',
  (event: KeyboardEvent) => {
    if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return;
    // what is typed to find a choice is no change of the list
    if ((event.target as HTMLElement).matches('[type=search]')) return;
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
      <Note v-for="p in told" :key="p" kind="bad">{{ p }}</Note>
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
      <ListOutline ref="outline" :edited="edited" :label="label" @revalue="revalue" @problem="problem = $event" />
      <footer class="row">
        <Button severity="secondary" size="small" @click="outline?.addLast()">
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
footer {
  padding-top: 12px;
}
</style>
