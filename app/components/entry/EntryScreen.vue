<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import { compileForm } from '~~/core/engine/compile.ts';
import type { StoredRecord } from '~~/core/engine/entry.ts';
import { type Edit, addressOf, parseAddress } from '~~/core/engine/state.ts';
import type { KeptEdits } from '~/composables/keptEdits';
import type { Feed } from '~~/core/form/feeds.ts';
import { verify } from '~~/core/engine/verify.ts';
import type { Answered } from '~~/core/engine/wants.ts';
import { parseForm } from '~~/core/form/definition.ts';
import type { OptionList } from '~~/core/form/lists.ts';
import type { Table } from '~~/core/form/tables.ts';
import { same, type Datum } from '~~/core/values/types.ts';

/* Entering one record, new or existing. */
const props = defineProps<{ form: string; record: number | null }>();

interface Opened {
  readonly form: unknown;
  readonly version: number;
  readonly tables: readonly Table[];
  readonly lists: readonly OptionList[];
  readonly feeds: readonly Feed[];
  readonly context: { readonly today: string; readonly now: string; readonly me: number; readonly parent: number | null };
  readonly record: (StoredRecord & { readonly id: number; readonly revision: number }) | null;
  readonly answered: readonly Answered[];
}
const route = useRoute();
/** What the address gives: the record to open under, and values for the form. Read once, so that what is saved is what was opened. */
const address = Object.fromEntries(
  props.record === null ? Object.entries(route.query).flatMap(([k, v]) => (typeof v === 'string' ? [[k, v] as const] : [])) : [],
);
const toast = useToast();
const opened = shallowRef<Opened | null>(null);
const failed = ref('');
const saving = ref(false);
const conflict = ref(false);
const whyField = ref<string | null>(null);
const body = ref<{ focusFirst(): void; focus(key: string): void; keyOf(e: EventTarget | null): string | null }>();
const saveButton = ref<HTMLButtonElement>();
const notices = shallowRef<readonly string[]>([]);
const kept = shallowRef<KeptEdits | null>(null);
const savedNotice = shallowRef<{ id: number; differs: readonly string[]; anew: number | null } | null>(null);
/** a request of this entry was saved before, as this record, but its answer was lost and more was typed since */
const savedBefore = ref<number | null>(null);
let request = crypto.randomUUID();

const host = useEntryHost((wants) => api<Answered[]>(`forms/${props.form}/wants`, { body: { version: opened.value?.version, wants } }));
const store = keptEdits(useSession().account?.id ?? 0, props.form, props.record);

async function load(reapply: readonly Edit[] = [], carried: readonly Carried[] = []): Promise<void> {
  failed.value = '';
  try {
    const path = props.record === null ? `forms/${props.form}/entry` : `forms/${props.form}/records/${props.record}`;
    opened.value = await api<Opened>(path, { query: address });
  } catch (e) {
    failed.value = messageOf(e);
    return;
  }
  begin();
  if (reapply.length) host.apply(reapply);
  else {
    const left = store.read();
    kept.value = left && left.revision === (opened.value?.record?.revision ?? null) ? left : null;
    notices.value = await takeAddressValues(host, address);
    await carryOver(carried);
  }
  await nextTick();
  body.value?.focusFirst();
}
function begin(): void {
  const o = opened.value;
  if (!o) return;
  const byKey = <T extends { key: string }>(all: readonly T[]): Map<string, T> => new Map(all.map((x) => [x.key, x]));
  const plan = compileForm(parseForm(o.form), byKey(o.tables), byKey(o.lists), byKey(o.feeds));
  host.open(plan, { ...o.context, url: address, mode: o.record ? 'edit' : 'new' }, o.record, o.answered);
  request = crypto.randomUUID();
  whyField.value = null;
}

// what was typed survives a closed browser and a dead server; what came with the address comes again with it, and what was
// carried over from the record before is nobody's typing
const cameBy = (e: Edit): string => ('by' in e && e.by) || 'hand';
function typedEdits(): readonly Edit[] {
  const edits = (host.entry.value?.log ?? []).filter((e) => cameBy(e) !== 'url');
  return edits.some((e) => cameBy(e) === 'hand') ? edits : [];
}
/** Keeps what is typed; what is offered from before stays beside it until it is taken up or dropped. */
function keep(): void {
  const edits = typedEdits();
  if (edits.length) store.write({ revision: opened.value?.record?.revision ?? null, edits, request, earlier: kept.value });
  else store.drop(kept.value);
}
watch(() => host.steps.value, () => void (typedEdits().length && keep())); // prettier-ignore
function takeUp(): void {
  const left = kept.value;
  kept.value = left?.earlier ?? null;
  if (!left) return;
  // under the key it had: what was saved already, without an answer, is found and not saved again
  request = left.request as typeof request;
  host.apply(left.edits);
  body.value?.focusFirst();
}
function forget(): void {
  kept.value = kept.value?.earlier ?? null;
  keep();
}
/** Saves what was typed as one more record, although the one before it was saved. */
function saveAnew(): void {
  savedBefore.value = null;
  request = crypto.randomUUID();
  void save(false);
}

async function save(next: boolean): Promise<void> {
  (document.activeElement as HTMLElement | null)?.blur();
  const entry = host.entry.value;
  if (!entry || saving.value) return;
  savedNotice.value = null;
  const issues = verify(entry).filter((i) => i.code !== 'unknown');
  if (issues.length) {
    host.issues.value = issues;
    if (issues[0]) body.value?.focus(addressOf(issues[0].field, issues[0].line));
    return;
  }
  saving.value = true;
  const o = opened.value as Opened;
  try {
    const path = props.record === null ? `forms/${props.form}/records` : `forms/${props.form}/records/${props.record}`;
    const shownBefore = Object.fromEntries(entry.plan.own.filter((f) => f.definition.column).map((f) => [f.key, entry.value(f.key)]));
    const saved = await api<{ id: number; version: number; values: Record<string, Datum> }>(path, {
      method: props.record === null ? 'POST' : 'PUT',
      body: {
        version: o.version,
        edits: entry.log,
        revision: o.record?.revision ?? null,
        request,
        opened: { parent: o.context.parent, url: address, at: o.context.now },
      },
    });
    store.drop(kept.value);
    const anew = saved.version === o.version ? null : saved.version;
    const differs = entry.plan.own
      // what is not told is not compared
      .filter(
        (f) =>
          f.definition.column &&
          f.definition.column in saved.values &&
          !same(shownBefore[f.key], saved.values[f.definition.column] ?? null),
      )
      .map((f) => f.definition.label);
    if (next) {
      const carried = entry.plan.own
        .filter((f) => f.definition.carry && f.definition.column && entry.isShown(f.key))
        .map((f) => ({ key: f.key, value: saved.values[f.definition.column as string] ?? null }));
      await load([], carried);
      savedNotice.value = { id: saved.id, differs, anew };
    } else {
      toast.add({
        severity: differs.length || anew ? 'warn' : 'success',
        summary: 'Saved',
        detail:
          [differs.length ? `The server has other values for ${differs.join(', ')}.` : '', anew ? anewWords(anew) : ''].join(' ').trim() ||
          undefined,
        life: 4000,
      });
      await navigateTo(`/entry/${props.form}`);
    }
  } catch (e) {
    if (e instanceof ApiError && e.status === 422 && e.details.issues) {
      const refused = Object.entries(e.details.issues as Record<string, string>);
      // a list that let something be chosen which the server does not take is out of date
      host.reread(refused.map(([at]) => at));
      const version = Number(e.details.version ?? o.version);
      notices.value = version === o.version ? [] : [anewWords(version)];
      host.issues.value = refused.map(([at, message]) => ({
        field: parseAddress(at).field,
        line: parseAddress(at).line ?? null,
        code: 'check',
        message,
      }));
      const [first] = host.issues.value;
      if (first) body.value?.focus(addressOf(first.field, first.line));
    } else if (e instanceof ApiError && e.code === 'requestReused' && e.details.record) savedBefore.value = Number(e.details.record);
    else if (e instanceof ApiError && e.code === 'changedMeanwhile') conflict.value = true;
    else {
      // the key is somebody else's: the next try has one of its own
      if (e instanceof ApiError && e.code === 'requestReused') request = crypto.randomUUID();
      toast.add({ severity: 'error', summary: 'Not saved', detail: messageOf(e), life: 8000 });
    }
  } finally {
    saving.value = false;
  }
}
const anewWords = (version: number): string => `The form was published anew while this was typed; it was judged by version ${version}.`;
/** What the fields say starts the next entry with the same value, in the order of the form, so that parents come first. */
interface Carried {
  readonly key: string;
  readonly value: Datum;
}
async function carryOver(values: readonly Carried[]): Promise<void> {
  for (const { key, value } of values) {
    if (value === null) continue;
    host.apply([{ kind: 'set', field: key, value, by: 'carried' }]);
    await host.settled();
  }
}
async function readAgain(): Promise<void> {
  const log = [...(host.entry.value?.log ?? [])];
  conflict.value = false;
  await load(log);
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
onMounted(() => load());
const plan = computed(() => host.entry.value?.plan);
const issueCount = computed(() => host.issues.value.length);
useHead({ title: computed(() => `${plan.value?.form.label ?? 'Entry'} · Brisk Acorn`) });
</script>

<template>
  <div class="screen">
    <Teleport to="#bar-place"
      ><span class="muted">Entries ›</span> <NuxtLink :to="`/entry/${props.form}`">{{ plan?.form.label ?? props.form }}</NuxtLink>
      <span class="muted">›</span> <b>{{ record === null ? 'new' : `record ${record}` }}</b></Teleport
    >
    <div v-if="failed" class="page">
      <p class="note bad" role="alert">{{ failed }} <button class="word" type="button" @click="load()">Try again</button></p>
    </div>
    <div v-else-if="!host.entry.value" class="page">
      <div v-for="i in 8" :key="i" class="skeleton" style="margin: 10px 0; max-width: 560px" />
    </div>
    <template v-else>
      <div class="columns">
        <div class="sheet">
          <header>
            <h1>
              {{ plan?.form.label }}<span v-if="record !== null" class="muted">, record {{ record }}</span>
            </h1>
            <span class="muted">version {{ opened?.version }}</span>
          </header>
          <p v-if="savedNotice" class="note good" role="status">
            Record <NuxtLink :to="`/entry/${props.form}/${savedNotice.id}`">{{ savedNotice.id }}</NuxtLink> is saved.<template
              v-if="savedNotice.differs.length"
            >
              The server has other values for {{ savedNotice.differs.join(', ') }}.</template
            ><template v-if="savedNotice.anew"> {{ anewWords(savedNotice.anew) }}</template>
            This is the next one.
          </p>
          <ul v-if="notices.length" class="note" role="status">
            <li v-for="n in notices" :key="n">{{ n }}</li>
          </ul>
          <p v-if="kept?.edits.length" class="note">
            You left {{ kept.edits.length }} {{ kept.edits.length === 1 ? 'edit' : 'edits' }} here unsaved.
            <button class="word" type="button" @click="takeUp">Take them up</button> or
            <button class="word light" type="button" @click="forget">drop them</button>.
          </p>
          <p v-if="host.failure.value" class="note bad" role="alert">
            {{ host.failure.value }} <button class="word" type="button" @click="host.retry()">Try again</button>
          </p>
          <FormBody ref="body" :host="host" prefix="e" @why="whyField = $event" @past="saveButton?.focus()" />
          <footer>
            <button ref="saveButton" class="btn act" type="button" :disabled="saving" @click="save(record === null)">
              {{ record === null ? 'Save and start the next' : 'Save' }}
            </button>
            <button v-if="record === null" class="btn" type="button" :disabled="saving" @click="save(false)">Save</button>
            <NuxtLink class="btn plain" :to="`/entry/${props.form}`">Leave</NuxtLink>
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
        ><button class="btn" type="button" @click="saveAnew">Save a further record</button
        ><NuxtLink class="btn act" :to="`/entry/${props.form}/${savedBefore}`">Open record {{ savedBefore }}</NuxtLink></template
      >
    </Dialog>
    <Dialog v-model:visible="conflict" modal header="Saved by somebody else meanwhile" :style="{ width: '440px' }">
      <p>
        This record was changed after you opened it. Read it again with their changes; what you typed is put on top of it, and you can look
        before saving.
      </p>
      <template #footer
        ><button class="btn" type="button" @click="conflict = false">Not yet</button
        ><button class="btn act" type="button" @click="readAgain">Read again and keep mine</button></template
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
.note {
  margin: 4px 8px 10px;
}
.note.good {
  background: var(--act-wash);
  border-color: var(--act);
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
