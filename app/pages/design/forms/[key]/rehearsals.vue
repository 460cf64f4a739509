<script setup lang="ts">
import { type Rehearsal } from '~~/core/form/rehearsal.ts';
import { rehearsalSchema } from '~~/core/form/rehearsalSchemas.ts';
import type { KeptRehearsal } from '~/composables/rehearsals';

/* The rehearsals of a form: what is done in it and what must come of it; run on the draft, one or all. */
const route = useRoute();
const draft = useDraft();
const key = String(route.params.key);
await draft.open(key);
useHead({ title: computed(() => `Rehearsals of ${draft.form?.label ?? key} · Brisk Acorn`) });

const { all, results, took, running, stateOf, red, green, ...rehearsals } = useRehearsals(() => key);
const loaded = ref(false);
const failed = ref('');
const problem = ref('');
const selected = ref<number | null>(null);
async function load(): Promise<void> {
  try {
    await rehearsals.load();
    failed.value = '';
    loaded.value = true;
  } catch (e) {
    failed.value = messageOf(e);
  }
}
await load();
const asked = Number(route.query.rehearsal);
selected.value = (all.value.find((r) => r.id === asked) ?? all.value[0])?.id ?? null;
const current = computed(() => all.value.find((r) => r.id === selected.value) ?? null);

async function run(ids?: number[]): Promise<void> {
  problem.value = '';
  try {
    await draft.flush();
    await rehearsals.run(ids);
  } catch (e) {
    problem.value = messageOf(e);
  }
}
onMounted(() => void (all.value.length && !draft.errors.length && run()));

// ---- changing: each change is saved at once, and can be taken back ----
const undoable = useUndoable((e) => (problem.value = messageOf(e)));
useUndoKeys(undoable);
/** Does something, remembers how it is taken back, and says why it could not be done. */
async function act(step: Undoable): Promise<void> {
  problem.value = '';
  try {
    await step.redo();
    undoable.did(step);
  } catch (e) {
    problem.value = messageOf(e);
  }
}
/** Which rehearsal is meant: what is removed and brought back has another number. */
interface Which {
  id: number;
}
async function write(which: Which, rehearsal: Rehearsal): Promise<void> {
  await api.rehearsals.change({ key, id: which.id }, { rehearsal });
  all.value = all.value.map((r) => (r.id === which.id ? { ...r, rehearsal } : r));
  selected.value = which.id;
  void run([which.id]);
}
const known = new Map<number, Which>();
function whichOf(id: number): Which {
  const found = known.get(id) ?? { id };
  known.set(id, found);
  return found;
}
async function bring(which: Which, rehearsal: Rehearsal): Promise<void> {
  const { id } = await api.rehearsals.add({ key }, { rehearsal });
  which.id = id;
  known.set(id, which);
  await load();
  selected.value = id;
}
async function take(which: Which): Promise<void> {
  await api.rehearsals.remove({ key, id: which.id });
  await load();
  if (selected.value === which.id) selected.value = all.value[0]?.id ?? null;
}
/** Keeps a change, then runs what was changed. */
async function change(rehearsal: Rehearsal): Promise<void> {
  const kept = current.value;
  if (!kept) return;
  const which = whichOf(kept.id);
  const before = kept.rehearsal as Rehearsal;
  await act({ redo: () => write(which, rehearsal), undo: () => write(which, before) });
}
const set = (part: Partial<Rehearsal>): Promise<void> => change({ ...(current.value!.rehearsal as Rehearsal), ...part });
async function add(): Promise<void> {
  const now = draft.context.now || '2026-01-01T09:00:00';
  const rehearsal = rehearsalSchema.parse({
    label: `Rehearsal ${all.value.length + 1}`,
    as: useSession().account?.name ?? null,
    at: now,
    steps: [],
  });
  const which: Which = { id: 0 };
  await act({ redo: () => bring(which, rehearsal), undo: () => take(which) });
}
const removed = ref('');
async function remove(kept: KeptRehearsal): Promise<void> {
  const which = whichOf(kept.id);
  const rehearsal = kept.rehearsal as Rehearsal;
  await act({ redo: () => take(which), undo: () => bring(which, rehearsal) });
  removed.value = problem.value ? '' : rehearsal.label;
}
async function takeBack(): Promise<void> {
  removed.value = '';
  await undoable.undo();
}
const RED = [
  { value: 'warn', label: 'publishing warns of it' },
  { value: 'refuse', label: 'the form is not published' },
] as const;
</script>

<template>
  <div class="page wide">
    <PlaceTrail
      :above="[
        { label: 'Forms', to: '/design/forms' },
        { label: draft.form?.label ?? key, to: `/design/forms/${key}` },
      ]"
      here="Rehearsals"
    />
    <header class="row spread">
      <h1>Rehearsals</h1>
      <span class="row">
        <JobProgress
          v-if="running.running.value"
          :progress="running.progress.value"
          :doing="running.doing.value"
          @cancel="running.cancel"
        />
        <span v-else-if="results.size" role="status"
          ><b v-if="red" class="bad">{{ red }} {{ red === 1 ? 'fails' : 'fail' }}</b
          ><template v-if="red && green">, </template><span v-if="green">{{ green }} as expected</span
          ><span v-if="took !== null" class="muted"> · {{ (took / 1000).toFixed(1) }} s</span></span
        >
        <Button
          severity="secondary"
          label="Run all"
          :disabled="!all.length || running.running.value || !!draft.errors.length"
          @click="run()"
        />
        <IconButton
          v-tooltip.bottom="'Undo (Ctrl+Z)'"
          icon="pi pi-undo"
          aria-label="Undo"
          :disabled="!undoable.canUndo.value"
          @click="takeBack"
        />
        <IconButton
          v-tooltip.bottom="'Redo (Ctrl+Shift+Z)'"
          icon="pi pi-refresh"
          aria-label="Redo"
          :disabled="!undoable.canRedo.value"
          @click="undoable.redo()"
        />
        <Button label="New rehearsal" icon="pi pi-plus" @click="add" />
      </span>
    </header>
    <p class="muted intro">
      A rehearsal says what is done in the form and what must come of it. It runs on the draft, on rows by their names, at a moment that
      stands still. While one fails,
      <PickWord
        :value="draft.form?.red ?? 'warn'"
        :options="RED"
        label="While one fails"
        @pick="draft.change({ ...draft.form!, red: $event })"
      />. To keep what you have just tried as one: “What would saving say?” at the form, then “Keep as a rehearsal”.
    </p>
    <Note v-if="failed" kind="bad" :retry="load">{{ failed }}</Note>
    <Note v-if="draft.errors.length" kind="bad"
      >{{ draft.errors.length === 1 ? 'One problem' : `${draft.errors.length} problems` }} of the form must be fixed before it can be
      rehearsed. <NuxtLink :to="`/design/forms/${key}`">To the form</NuxtLink></Note
    >
    <Note v-if="problem" kind="bad">{{ problem }}</Note>
    <Note v-if="removed" kind="good">“{{ removed }}” was removed. <Button link label="Undo" @click="takeBack" /></Note>
    <Note v-if="loaded && !all.length">There are none yet. Make one here, or keep what you try.</Note>
    <div v-else-if="all.length" class="two">
      <ul class="list" aria-label="Rehearsals">
        <li v-for="r in all" :key="r.id" :class="{ here: r.id === selected }">
          <Button text severity="secondary" class="pick" :aria-current="r.id === selected ? 'true' : undefined" @click="selected = r.id"
            ><RehearsalMark :state="stateOf(r.id)" /> <span :class="{ bad: stateOf(r.id) === 'red' }">{{ r.rehearsal.label }}</span></Button
          >
        </li>
      </ul>
      <section v-if="current" aria-label="The rehearsal">
        <div class="row spread">
          <TextEdit
            class="name"
            :value="current.rehearsal.label"
            aria-label="What it is called"
            @change="set({ label: ($event.target as HTMLInputElement).value.trim() || current.rehearsal.label })"
            @keydown.enter="($event.target as HTMLInputElement).blur()"
          />
          <span class="row"
            ><Button
              severity="secondary"
              size="small"
              label="Run"
              :disabled="running.running.value"
              @click="run([current.id])" /><IconButton icon="pi pi-trash" aria-label="Remove this rehearsal" @click="remove(current)"
          /></span>
        </div>
        <p class="sentence">
          As
          <FindWord
            table="people"
            :text="current.rehearsal.as ?? 'nobody in particular'"
            label="As whom"
            none="nobody in particular"
            @pick="set({ as: $event?.text ?? null })"
          />, on
          <FindWord
            :table="draft.form!.table"
            :text="current.rehearsal.record ?? 'a new entry'"
            label="On what"
            none="a new entry"
            @pick="set({ record: $event?.text ?? null })"
          /><template v-if="draft.form!.parent"
            >, under
            <FindWord
              :table="draft.form!.parent"
              :text="current.rehearsal.parent ?? 'nothing'"
              label="Under which row"
              none="nothing"
              @pick="set({ parent: $event?.text ?? null })" /></template
          >, as if it were
          <TypedInput
            class="moment"
            type="datetime"
            :value="current.rehearsal.at"
            label="The moment it is taken to be"
            @change="(at: unknown) => typeof at === 'string' && at && set({ at: `${at}:00:00`.slice(0, 19) })"
          />
          <template v-if="current.rehearsal.step !== null">, at the step {{ current.rehearsal.step }}</template>
        </p>
        <Note v-if="results.get(current.id)?.problem" kind="bad">{{ results.get(current.id)?.problem }}</Note>
        <RehearsalSteps :key="current.id" :kept="current" :ran="results.get(current.id) ?? null" @change="change" />
        <p class="muted small">kept by {{ current.by }}, {{ showMoment(current.at) }}</p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.wide {
  max-width: none;
}
.intro {
  max-width: 100ch;
  margin-bottom: 12px;
}
.two {
  display: grid;
  grid-template-columns: 280px minmax(0, 1fr);
  gap: 24px;
  align-items: start;
}
.list {
  list-style: none;
  margin: 0;
  padding: 0;
  border: 1px solid var(--line);
  border-radius: var(--r);
  max-height: 70vh;
  overflow: auto;
}
.list li + li {
  border-top: 1px solid var(--line);
}
.list .here {
  background: var(--flow-wash);
}
.pick {
  width: 100%;
  justify-content: flex-start;
  text-align: left;
}
.name {
  width: 420px;
  font-weight: 700;
}
.sentence {
  margin: 10px 0;
}
.moment {
  display: inline-block;
  width: 200px;
}
.small {
  font-size: 13px;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
