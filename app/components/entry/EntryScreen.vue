<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import type { Saved } from '~/stores/entry';

/* Entering one record, new or existing. */
const props = defineProps<{ form: string; record: number | null }>();
const route = useRoute();
const toast = useToast();
const entry = useEntry();
const { host } = entry;
/** what the address gives, read once, so that what is saved is what was opened */
const address = Object.fromEntries(
  props.record === null ? Object.entries(route.query).flatMap(([k, v]) => (typeof v === 'string' ? [[k, v] as const] : [])) : [],
);
const conflict = ref(false);
const whyField = ref<string | null>(null);
const body = ref<{ focusFirst(): void; focus(key: string): void; keyOf(e: EventTarget | null): string | null }>();
const saveButton = ref<{ $el: HTMLElement }>();
const savedNotice = shallowRef<Extract<Saved, { kind: 'saved' }> | null>(null);
/** a request of this entry was saved before, as this record, but its answer was lost and more was typed since */
const savedBefore = ref<number | null>(null);

async function begun(work: Promise<unknown>): Promise<void> {
  await work;
  whyField.value = null;
  await nextTick();
  body.value?.focusFirst();
}
const open = (): Promise<void> => begun(entry.open({ form: props.form, record: props.record, address }));
onMounted(open);
function takeUp(): void {
  entry.takeUp();
  body.value?.focusFirst();
}
function saveAnew(): void {
  savedBefore.value = null;
  void show(entry.saveAnew(), false);
}
async function save(next: boolean): Promise<void> {
  // what is being typed is taken first
  (document.activeElement as HTMLElement | null)?.blur();
  if (!entry.saving) await show(entry.save(next), next);
}
async function show(work: Promise<Saved>, next: boolean): Promise<void> {
  savedNotice.value = null;
  const saved = await work;
  if (saved.kind === 'refused' && saved.at) body.value?.focus(saved.at);
  else if (saved.kind === 'conflict') conflict.value = true;
  else if (saved.kind === 'savedBefore') savedBefore.value = saved.id;
  else if (saved.kind === 'failed') toast.add({ severity: 'error', summary: 'Not saved', detail: saved.message, life: 8000 });
  else if (saved.kind === 'saved' && next) {
    savedNotice.value = saved;
    await begun(Promise.resolve());
  } else if (saved.kind === 'saved') {
    toast.add({ severity: differing(saved) ? 'warn' : 'success', summary: 'Saved', detail: differing(saved) || undefined, life: 4000 });
    await navigateTo(after.value);
  }
}
/** Where this entry was begun from; the form’s records, where it was begun from nowhere else. */
const after = computed(() => {
  const from: unknown = history.state?.returnTo;
  return typeof from === 'string' && from.startsWith('/entry/') ? from : `/entry/${props.form}`;
});
/** Where the server has it otherwise than it stood on the screen. */
function differing({ differs, anew }: Extract<Saved, { kind: 'saved' }>): string {
  return [differs.length ? `The server has other values for ${differs.join(', ')}.` : '', anew ? anewWords(anew) : ''].join(' ').trim();
}
function readAgain(): void {
  conflict.value = false;
  void begun(entry.readAgain());
}
function keys(event: KeyboardEvent): void {
  if (event.ctrlKey && event.key === 'Enter') {
    event.preventDefault();
    void save(props.record === null);
  } else if (event.ctrlKey && event.key.toLowerCase() === 's') {
    event.preventDefault();
    void save(false);
  } else if (event.altKey && event.key.toLowerCase() === 'w') {
    event.preventDefault();
    whyField.value = body.value?.keyOf(document.activeElement) ?? whyField.value;
  } else if (event.key === 'Escape' && whyField.value) whyField.value = null;
}
useEventListener(document, 'keydown', keys);
const plan = computed(() => host.entry.value?.plan);
const issueCount = computed(() => host.issues.value.length);
useHead({ title: computed(() => `${plan.value?.form.label ?? 'Entry'} · Brisk Acorn`) });
</script>

<template>
  <div class="screen">
    <PlaceTrail
      :above="[
        { label: 'Entries', to: '/entry' },
        { label: plan?.form.label ?? props.form, to: `/entry/${props.form}` },
      ]"
      :here="record === null ? 'new' : `record ${record}`"
    />
    <div v-if="entry.failed" class="page">
      <Note kind="bad" :retry="open">{{ entry.failed }}</Note>
    </div>
    <div v-else-if="!host.entry.value" class="page">
      <Skeleton v-for="i in 8" :key="i" style="margin: 10px 0; max-width: 560px" />
    </div>
    <template v-else>
      <div class="columns">
        <div class="sheet">
          <header>
            <h1>
              {{ plan?.form.label }}<span v-if="record !== null" class="muted">, record {{ record }}</span>
            </h1>
            <span class="muted">version {{ entry.opened?.version }}</span>
          </header>
          <Note v-if="savedNotice" kind="good">
            Record <NuxtLink :to="`/entry/${props.form}/${savedNotice.id}`">{{ savedNotice.id }}</NuxtLink> is saved.{{
              differing(savedNotice)
            }}
            This is the next one.
          </Note>
          <Note v-if="entry.notices.length" kind="good"
            ><ul>
              <li v-for="n in entry.notices" :key="n">{{ n }}</li>
            </ul></Note
          >
          <Note v-if="entry.kept?.edits.length">
            You left {{ entry.kept.edits.length }} {{ entry.kept.edits.length === 1 ? 'edit' : 'edits' }} here unsaved.
            <Button link @click="takeUp">Take them up</Button> or
            <Button link severity="secondary" @click="entry.forget()">drop them</Button>.
          </Note>
          <Note v-if="host.failure.value" kind="bad" :retry="() => host.retry()"> {{ host.failure.value }}</Note>
          <FormBody ref="body" :host="host" prefix="e" @why="whyField = $event" @past="saveButton?.$el.focus()" />
          <footer>
            <Button ref="saveButton" :disabled="entry.saving" @click="save(record === null)">
              {{ record === null ? 'Save and start the next' : 'Save' }}
            </Button>
            <Button v-if="record === null" severity="secondary" :disabled="entry.saving" @click="save(false)">Save</Button>
            <Button as="router-link" text severity="secondary" :to="after">Leave</Button>
            <span v-if="issueCount" class="bad" role="alert"
              >{{ issueCount === 1 ? 'One field is' : `${issueCount} fields are` }} in the way of saving.</span
            >
            <span v-else class="muted keys">Enter: next field · Ctrl+Enter: save · Alt+W: why</span>
          </footer>
          <RelatedRows v-if="record !== null" :form="props.form" :record="record" />
          <RecordHistory v-if="record !== null" :form="props.form" :record="record" :host="host" />
        </div>
        <div v-if="whyField" class="side"><WhyPanel :host="host" :name="whyField" @close="whyField = null" @go="whyField = $event" /></div>
      </div>
      <p class="sr" aria-live="polite">{{ host.announcement.value }}</p>
    </template>
    <Dialog :visible="savedBefore !== null" modal header="Saved before" :style="{ width: '440px' }" @update:visible="savedBefore = null">
      <p>
        This entry was saved already, as record {{ savedBefore }}, but the answer did not arrive. Since then more was typed here. Open that
        record to change it, or save what stands here as a further record.
      </p>
      <template #footer
        ><Button severity="secondary" @click="saveAnew">Save a further record</Button
        ><Button as="router-link" :to="`/entry/${props.form}/${savedBefore}`">Open record {{ savedBefore }}</Button></template
      >
    </Dialog>
    <Dialog v-model:visible="conflict" modal header="Saved by somebody else meanwhile" :style="{ width: '440px' }">
      <p>
        This record was changed after you opened it. Read it again with their changes; what you typed is put on top of it, and you can look
        before saving.
      </p>
      <template #footer
        ><Button severity="secondary" @click="conflict = false">Not yet</Button
        ><Button @click="readAgain">Read again and keep mine</Button></template
      >
    </Dialog>
  </div>
</template>

<style scoped>
.screen {
  height: 100%;
}
.columns {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  min-height: 100%;
}
.sheet {
  padding: 14px 20px 40px;
  max-width: 860px;
}
.sheet header {
  display: flex;
  align-items: baseline;
  justify-content: space-between;
  padding: 0 8px 6px;
}
.side {
  width: 380px;
  padding: 16px 18px;
  background: var(--ground-2);
  border-left: 1px solid var(--line);
}
.sheet > :deep(.p-message) {
  margin: 4px 8px 10px;
}
footer {
  position: sticky;
  bottom: 0;
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 10px 8px;
  background: var(--ground);
  border-top: 1px solid var(--line);
  flex-wrap: wrap;
  z-index: 2;
}
.keys {
  font-size: 12.5px;
  margin-left: auto;
}
@media (max-width: 900px) {
  .columns {
    grid-template-columns: 1fr;
  }
  .side {
    width: auto;
    order: -1;
  }
  .keys {
    display: none;
  }
  .sheet {
    padding: 8px 12px;
  }
}
</style>
