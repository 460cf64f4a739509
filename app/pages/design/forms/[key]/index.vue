<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import { parseAddress } from '~~/core/engine/state.ts';
import { fieldOrder } from '~~/core/form/definition.ts';

const route = useRoute();
const draft = useDraft(String(route.params.key));
provide(draftKey, draft);
await draft.load();
useHead({ title: computed(() => `${draft.form.value?.label ?? 'Form'} · Brisk Acorn`) });

const live = ref<{ startAdding(): void }>();
const traceOpen = ref(true);
const publishing = ref(false);
const problemsOpen = ref(false);
const keysOpen = ref(false);
const linking = ref(false);
const whyField = ref<string | null>(null);
const { selected } = draft;
watch(selected, () => (whyField.value = null));

const firstField = computed(() => (draft.form.value ? fieldOrder(draft.form.value)[0] : undefined));
// a link from elsewhere may name the field
const named = String(route.query.field ?? '');
if (named && (draft.plan.value?.slots.has(named) || draft.form.value?.lines[named])) selected.value = named;
selected.value ??= firstField.value ?? null;

function go(key: string): void {
  selected.value = key;
  problemsOpen.value = false;
  document.querySelector(`[data-row="${key}"]`)?.scrollIntoView({ block: 'center' });
}
function why(key: string): void {
  const { field, line } = parseAddress(key);
  if (line !== undefined) draft.line.value = line;
  selected.value = field;
  void nextTick(() => (whyField.value = draft.addressAt(field)));
}
function step(by: 1 | -1): void {
  const order = draft.form.value ? fieldOrder(draft.form.value) : [];
  const at = order.indexOf(selected.value ?? '');
  const next = order[Math.min(order.length - 1, Math.max(0, at + by))];
  if (next) go(next);
}
useEventListener(document, 'keydown', (event: KeyboardEvent) => {
  const target = event.target as HTMLElement;
  const typing = target.closest('input, textarea, select, .cm-editor') !== null;
  const ctrl = event.ctrlKey || event.metaKey;
  if (ctrl && event.key.toLowerCase() === 'z' && !typing) {
    event.preventDefault();
    if (event.shiftKey) draft.redo();
    else draft.undo();
  } else if (ctrl && event.shiftKey && event.key.toLowerCase() === 'p') {
    event.preventDefault();
    publishing.value = true;
  } else if (event.altKey && event.key.toLowerCase() === 'w' && selected.value) {
    event.preventDefault();
    whyField.value = draft.addressAt(selected.value);
  } else if (event.key === 'Escape') whyField.value = null;
  else if (!typing && !ctrl && !event.altKey && event.key.toLowerCase() === 'j') step(1);
  else if (!typing && !ctrl && !event.altKey && event.key.toLowerCase() === 'k') step(-1);
  else if (!typing && event.key === 'F2') document.querySelector<HTMLElement>('.wiring .formula')?.click();
  else if (!typing && event.key === '?') keysOpen.value = true;
});
onBeforeRouteLeave(() => draft.flush());
useEventListener(window, 'beforeunload', (event: BeforeUnloadEvent) => {
  if (draft.saveState.value !== 'saved') event.preventDefault();
});
const unpublished = computed(() =>
  draft.version.value === null
    ? 'never published'
    : `${draft.differences.value.length} ${draft.differences.value.length === 1 ? 'change' : 'changes'} not published`,
);
const KEYS = [
  ['J / K', 'next and previous field'],
  ['Alt + ↑ ↓', 'move the selected field (on its handle)'],
  ['F2', 'edit the first formula of the field'],
  ['Ctrl + Enter', 'apply a formula'],
  ['Alt + W', 'why?'],
  ['Ctrl + Z, Ctrl + Shift + Z', 'undo, redo'],
  ['Ctrl + Shift + P', 'publish'],
  ['?', 'these keys'],
] as const;
</script>

<template>
  <div class="design">
    <Teleport to="#bar-place">
      <span class="muted"><NuxtLink to="/design/forms">Forms</NuxtLink> ›</span> <b>{{ draft.form.value?.label }}</b>
      <span class="chip">{{ draft.version.value ? `version ${draft.version.value} published` : 'not published' }}</span>
      <button
        v-if="draft.differences.value.length || draft.version.value === null"
        class="chip flow"
        type="button"
        @click="publishing = true"
      >
        {{ unpublished }}
      </button>
    </Teleport>
    <Teleport to="#bar-end">
      <span class="muted saving" role="status">{{
        draft.saveState.value === 'saved' ? 'saved' : draft.saveState.value === 'failed' ? 'not saved' : 'saving…'
      }}</span>
      <button
        class="btn plain small"
        type="button"
        aria-label="Undo"
        title="Undo (Ctrl+Z)"
        :disabled="!draft.undoStack.value.length"
        @click="draft.undo()"
      >
        <i class="pi pi-undo" />
      </button>
      <button
        class="btn plain small"
        type="button"
        aria-label="Redo"
        title="Redo (Ctrl+Shift+Z)"
        :disabled="!draft.redoStack.value.length"
        @click="draft.redo()"
      >
        <i class="pi pi-refresh" />
      </button>
      <button class="chip" :class="{ bad: draft.errors.value.length }" type="button" aria-haspopup="dialog" @click="problemsOpen = true">
        {{
          draft.problems.value.length === 0
            ? 'no problems'
            : `${draft.problems.value.length} ${draft.problems.value.length === 1 ? 'problem' : 'problems'}`
        }}
      </button>
      <button class="btn act" type="button" @click="publishing = true">Publish…</button>
    </Teleport>
    <div v-if="draft.failed.value" class="page">
      <p class="note bad" role="alert">
        {{ draft.failed.value }} <button class="word" type="button" @click="draft.load()">Try again</button>
      </p>
    </div>
    <template v-else-if="draft.form.value && draft.host.entry.value">
      <TryBar @settings="selected = null" @link="linking = true" />
      <ul v-if="draft.notices.value.length" class="note" role="status">
        <li v-for="n in draft.notices.value" :key="n">{{ n }}</li>
      </ul>
      <div class="middle">
        <LiveForm ref="live" @why="why" />
        <div class="panel" aria-label="Wiring of the selected field">
          <WhyPanel v-if="whyField" class="pad" :host="draft.host" :name="whyField" @close="whyField = null" @go="why" />
          <WiringPanel v-else-if="selected && draft.plan.value?.slots.has(selected)" :key="selected" :name="selected" />
          <WiringLines v-else-if="selected && draft.form.value.lines[selected]" :key="`lines ${selected}`" :name="selected" />
          <FormSettings v-else>
            <p v-if="!fieldOrder(draft.form.value).length">
              This form has no fields yet. <button class="word" type="button" @click="live?.startAdding()">Add the first one</button>: give
              it a label and say what it holds.
            </p>
            <p v-else class="muted">Select a field to see how it is wired. Press <b>?</b> for the keys.</p>
          </FormSettings>
        </div>
      </div>
      <TracePanel v-model:open="traceOpen" @select="go" />
      <p class="sr" aria-live="polite">{{ draft.host.announcement.value }}</p>
    </template>
    <Dialog v-model:visible="publishing" modal header="Publish" :style="{ width: '480px' }"
      ><PublishPanel v-if="publishing" @close="publishing = false"
    /></Dialog>
    <Dialog v-model:visible="linking" modal header="A link to a new entry" :style="{ width: '720px' }"><LinkMaker v-if="linking" /></Dialog>
    <Dialog v-model:visible="problemsOpen" modal header="Problems" :style="{ width: '560px' }"><ProblemList @go="go" /></Dialog>
    <Dialog v-model:visible="keysOpen" modal header="Keys" :style="{ width: '420px' }">
      <table class="plainTable">
        <tbody>
          <tr v-for="k in KEYS" :key="k[0]">
            <td>
              <b>{{ k[0] }}</b>
            </td>
            <td>{{ k[1] }}</td>
          </tr>
        </tbody>
      </table>
    </Dialog>
    <Dialog :visible="draft.conflict.value" modal :closable="false" header="Changed by somebody else" :style="{ width: '440px' }">
      <p>Somebody else saved this form after you opened it. Read theirs, then make your last changes again.</p>
      <template #footer><button class="btn act" type="button" @click="draft.load()">Read theirs</button></template>
    </Dialog>
  </div>
</template>

<style scoped>
.design {
  height: 100%;
  display: flex;
  flex-direction: column;
  min-width: 960px;
}
.middle {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(380px, 38%);
}
.panel {
  background: var(--ground-2);
  border-left: 1px solid var(--line);
  overflow: auto;
}
.pad {
  padding: 16px 18px;
}
.saving {
  font-size: 13px;
}
button.chip {
  cursor: pointer;
}
</style>
