<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import { parseAddress } from '~~/core/engine/state.ts';
import { storeToRefs } from 'pinia';
import { fieldOrder } from '~~/core/form/definition.ts';

const route = useRoute();
const draft = useDraft();
const tryout = useTryout();
await draft.open(String(route.params.key));
useHead({ title: computed(() => `${draft.form?.label ?? 'Form'} · Brisk Acorn`) });

// read while nobody waits for it: the first press on a formula then opens it at once
onNuxtReady(() => import('~/components/design/FormulaEditor.vue'));

const live = ref<{ startAdding(): void }>();
const traceOpen = ref(true);
const publishing = ref(false);
const problemsOpen = ref(false);
const linking = ref(false);
const whyField = ref<string | null>(null);
const { selected } = storeToRefs(draft);
watch(selected, () => (whyField.value = null));

const firstField = computed(() => (draft.form ? fieldOrder(draft.form)[0] : undefined));
// a link from elsewhere may name the field
const named = String(route.query.field ?? '');
if (named && (draft.plan?.slots.has(named) || draft.form?.lines[named])) selected.value = named;
const unknown = ref(named && draft.form && selected.value !== named ? named : '');
selected.value ??= firstField.value ?? null;

function go(key: string): void {
  selected.value = key;
  problemsOpen.value = false;
  document.querySelector(`[data-row="${key}"]`)?.scrollIntoView({ block: 'center' });
}
function why(key: string): void {
  const { field, line } = parseAddress(key);
  if (line !== undefined) tryout.line = line;
  selected.value = field;
  void nextTick(() => (whyField.value = tryout.addressAt(field)));
}
/** F2: from a field of the form to its wiring, with the focus on the first word that can be exchanged; on a formula, its editor. */
function toSentence(event: KeyboardEvent): void {
  const here = (event.target as HTMLElement).closest<HTMLElement>('[data-field], [data-row]');
  const key = here?.dataset.field ? parseAddress(here.dataset.field).field : here?.dataset.row;
  if (key) selected.value = key;
  event.preventDefault();
  void nextTick(() => {
    const words = [...document.querySelectorAll<HTMLElement>('.wiring section .p-button-link')];
    (words.find((w) => w.offsetParent !== null) ?? document.querySelector<HTMLElement>('.wiring input'))?.focus();
  });
}
/** Puts the keys into a field of the form, where it can be tried. */
function enterField(key: string): void {
  go(key);
  void nextTick(() => document.querySelector<HTMLElement>(`[data-row="${key}"] :is(input, textarea)`)?.focus());
}
const places = useGoTo();
watchEffect(() => {
  const form = draft.form;
  if (!form) return;
  places.goals = [
    ...fieldOrder(form).map((k) => ({ label: form.fields[k]?.label ?? k, kind: 'field of this form', go: () => enterField(k) })),
    ...Object.entries(form.lines).flatMap(([g, l]) => Object.entries(l.fields).map(([k, f]) => ({ label: `${l.label}: ${f.label}`, kind: 'field of this form', go: () => go(`${g}.${k}`) }))),
    { label: 'Add a field', kind: 'do it', go: () => live.value?.startAdding() },
    { label: 'Publish', kind: 'do it', go: () => (publishing.value = true) },
    { label: 'Problems', kind: 'look', go: () => (problemsOpen.value = true) },
    { label: 'Rules', kind: 'of this form', go: () => navigateTo(`/design/forms/${draft.formKey}/rules`) },
    { label: 'Steps, and who sees and fills', kind: 'of this form', go: () => navigateTo(`/design/forms/${draft.formKey}/steps`) },
    { label: 'Cascades', kind: 'of this form', go: () => navigateTo(`/design/forms/${draft.formKey}/cascades`) },
    { label: 'What the records say', kind: 'of this form', go: () => navigateTo(`/design/forms/${draft.formKey}/records-say`) },
    { label: 'Backfill', kind: 'of this form', go: () => navigateTo(`/design/forms/${draft.formKey}/backfill`) },
    { label: 'Rehearsals', kind: 'of this form', go: () => navigateTo(`/design/forms/${draft.formKey}/rehearsals`) },
    { label: 'What publishing would do', kind: 'of this form', go: () => navigateTo(`/design/forms/${draft.formKey}/publish`) },
    { label: 'Versions', kind: 'of this form', go: () => navigateTo(`/design/forms/${draft.formKey}/versions`) },
    { label: 'Form settings', kind: 'of this form', go: () => (selected.value = null) },
  ];
}); // prettier-ignore
onBeforeUnmount(() => (places.goals = []));
function step(by: 1 | -1): void {
  const order = draft.form ? fieldOrder(draft.form) : [];
  const at = order.indexOf(selected.value ?? '');
  const next = order[Math.min(order.length - 1, Math.max(0, at + by))];
  if (next) go(next);
}
useEventListener(document, 'keydown', (event: KeyboardEvent) => {
  const target = event.target as HTMLElement;
  const typing = target.closest('input, textarea, select, .cm-editor') !== null;
  const ctrl = event.ctrlKey || event.metaKey;
  if (ctrl && event.shiftKey && event.key.toLowerCase() === 'p') {
    event.preventDefault();
    publishing.value = true;
  } else if (event.altKey && event.key.toLowerCase() === 'w') {
    // of the field one is in; else of the one whose sentences stand beside
    const within = target.closest<HTMLElement>('.live [data-field]')?.dataset.field;
    const asked = within ?? (selected.value && tryout.addressAt(selected.value));
    if (!asked) return;
    event.preventDefault();
    whyField.value = asked;
  } else if (event.key === 'Escape') whyField.value = null;
  else if (!typing && !ctrl && !event.altKey && event.key.toLowerCase() === 'j') step(1);
  else if (!typing && !ctrl && !event.altKey && event.key.toLowerCase() === 'k') step(-1);
  else if (event.key === 'F2') toSentence(event);
});
useUndoKeys();
onBeforeRouteLeave(() => draft.flush());
useEventListener(window, 'beforeunload', (event: BeforeUnloadEvent) => {
  if (draft.saving !== 'saved') event.preventDefault();
});
/** Somebody else published it meanwhile: what the draft is compared with is out of date. */
const news = useNews();
const meanwhile = computed(() => {
  const newest = news.versions[draft.formKey] ?? 0;
  return newest > (draft.version ?? 0) && !publishing.value ? newest : null;
});
async function readAgain(): Promise<void> {
  await draft.flush();
  if (!draft.conflict) await draft.open(draft.formKey);
}
const problemsSaid = computed(() => {
  const { length } = draft.problems;
  const said = length === 0 ? 'no problems' : `${length} ${length === 1 ? 'problem' : 'problems'}`;
  return draft.noticed.length ? `${said}, ${draft.noticed.length} in the data` : said;
});
const unpublished = computed(() =>
  draft.version === null
    ? 'never published'
    : `${draft.differences.length} ${draft.differences.length === 1 ? 'change' : 'changes'} not published`,
);
</script>

<template>
  <div class="design">
    <a class="skip" href="#form-fields" @click.prevent="firstField && enterField(firstField)">Skip to the first field</a>
    <PlaceTrail :above="[{ label: 'Forms', to: '/design/forms' }]" :here="draft.form?.label ?? String(route.params.key)">
      <NuxtLink v-if="draft.version" :to="`/design/forms/${draft.formKey}/versions`">version {{ draft.version }} published</NuxtLink>
      <Tag v-else severity="secondary" value="not published" />
      <Button
        v-if="draft.differences.length || draft.version === null"
        size="small"
        severity="warn"
        :label="unpublished"
        @click="publishing = true"
      />
    </PlaceTrail>
    <DraftBar>
      <Button
        size="small"
        :severity="draft.errors.length ? 'danger' : 'secondary'"
        aria-haspopup="dialog"
        :label="problemsSaid"
        @click="problemsOpen = true"
      />
      <Button label="Publish…" @click="publishing = true" />
    </DraftBar>
    <div v-if="draft.failed" class="page">
      <Note kind="bad" :retry="() => draft.open(draft.formKey)"> {{ draft.failed }}</Note>
    </div>
    <template v-else-if="draft.form && tryout.host.entry.value">
      <TryBar @settings="selected = null" @link="linking = true" @go="enterField" />
      <Note v-if="meanwhile !== null"
        >Version {{ meanwhile }} was published meanwhile, by somebody else or in another window.
        <Button link label="Compare with it" @click="readAgain"
      /></Note>
      <Note v-if="unknown">The link names a field “{{ unknown }}”, which this form does not have.</Note>
      <Note v-if="tryout.notices.length" kind="good"
        ><ul>
          <li v-for="n in tryout.notices" :key="n">{{ n }}</li>
        </ul></Note
      >
      <Splitter class="parts" layout="vertical" state-key="brisk-design-rows" state-storage="local" :gutter-size="traceOpen ? 5 : 0">
        <SplitterPanel :size="78" :min-size="30">
          <Splitter class="middle" state-key="brisk-design-columns" state-storage="local" :gutter-size="5">
            <SplitterPanel :size="62" :min-size="35"><LiveForm ref="live" @why="why" /></SplitterPanel>
            <SplitterPanel :size="38" :min-size="25">
              <div class="panel" role="region" aria-label="Wiring of the selected field">
                <WhyPanel v-if="whyField" class="pad" :host="tryout.host" :name="whyField" @close="whyField = null" @go="why" />
                <WiringPanel v-else-if="selected && draft.plan?.slots.has(selected)" :key="selected" :name="selected" />
                <WiringLines v-else-if="selected && draft.form.lines[selected]" :key="`lines ${selected}`" :name="selected" />
                <FormSettings v-else>
                  <p v-if="!fieldOrder(draft.form).length">
                    This form has no fields yet. <Button link label="Add the first one" @click="live?.startAdding()" />: give it a label and
                    say what it holds.
                  </p>
                  <p v-else class="muted">Select a field to see how it is wired. Press <b>?</b> for help and keys.</p>
                </FormSettings>
              </div>
            </SplitterPanel>
          </Splitter>
        </SplitterPanel>
        <SplitterPanel :size="22" :min-size="8" :class="{ folded: !traceOpen }"
          ><TracePanel v-model:open="traceOpen" @select="go"
        /></SplitterPanel>
      </Splitter>
      <p class="sr" aria-live="polite">{{ tryout.host.announcement.value }}</p>
    </template>
    <StayDialog v-model:visible="publishing" modal header="Publish" :style="{ width: '480px' }"
      ><PublishPanel v-if="publishing" @close="publishing = false"
    /></StayDialog>
    <StayDialog v-model:visible="linking" modal header="A link to a new entry" :style="{ width: '1000px' }"
      ><LinkMaker v-if="linking"
    /></StayDialog>
    <StayDialog v-model:visible="problemsOpen" modal header="Problems" :style="{ width: '560px' }"><ProblemList @go="go" /></StayDialog>
    <ConflictDialog v-if="draft.conflict" what="form" @read="draft.open(draft.formKey)" />
  </div>
</template>

<style scoped>
.skip {
  position: absolute;
  left: -999px;
}
.skip:focus {
  left: 70px;
  top: 50px;
  z-index: 10;
  background: var(--ground);
  padding: 6px 10px;
}
.design {
  height: 100%;
  display: flex;
  flex-direction: column;
  min-width: 960px;
}
.parts {
  flex: 1;
  min-height: 0;
}
.middle {
  height: 100%;
}
.parts :deep(.p-splitterpanel) {
  min-width: 0;
  min-height: 0;
  overflow: hidden;
}
/* a folded trace is its heading alone */
.parts :deep(.folded) {
  flex: 0 0 34px !important;
}
.panel {
  width: 100%;
  height: 100%;
  background: var(--ground-2);
  overflow: auto;
}
.pad {
  padding: 16px 18px;
}
</style>
