<script setup lang="ts">
import { ClashDialog, RecordHistory, RelatedRows, SavedBefore, WhyPanel } from '~/components/lateParts';
import { useDebounceFn, useEventListener, useIntervalFn } from '@vueuse/core';
import { addressOf } from '~~/core/engine/state.ts';
import { columnsOf } from '~~/core/form/definition.ts';
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
/** what somebody else changed meanwhile, once it has been read */
const theirs = shallowRef<readonly string[] | null>(null);
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
/** until this screen has begun its own, what the one before it left open is not drawn once more */
const own = ref(false);
function open(): Promise<void> {
  const opening = entry.open({ form: props.form, record: props.record, address });
  own.value = true;
  return begun(opening);
}
onMounted(open);
async function takeUp(): Promise<void> {
  const typing = entry.takeUp();
  await nextTick();
  if (!typing) return body.value?.focusFirst();
  // what was not finished stands in its field again, as if it were typed now
  body.value?.focus(typing.field);
  await new Promise((resolve) => setTimeout(resolve, 60));
  const box = document.activeElement;
  if (!(box instanceof HTMLInputElement || box instanceof HTMLTextAreaElement) || body.value?.keyOf(box) !== typing.field) return;
  box.value = typing.text;
  box.dispatchEvent(new Event('input', { bubbles: true }));
}
// ---- what stands in the field somebody is in is kept, too ----
const keepTyping = useDebounceFn((at: string, text: string) => {
  if (body.value?.keyOf(document.activeElement) === at) entry.typingIn({ field: at, text });
}, 200);
function typingNow(event: Event): void {
  const at = body.value?.keyOf(event.target) ?? null;
  const box = event.target;
  if (at !== null && (box instanceof HTMLTextAreaElement || (box instanceof HTMLInputElement && box.type === 'text'))) void keepTyping(at, box.value); // prettier-ignore
}
const typingLeft = (): void => void setTimeout(() => entry.typingIn(null));

// ---- saving without a network ----
/** the save that waits for the server to be reached again, and whether a new entry is to begin after it */
const waiting = ref<{ readonly next: boolean } | null>(null);
const AGAIN = 4000;
async function sendAgain(): Promise<void> {
  const now = waiting.value;
  if (!now || entry.saving) return;
  await show(entry.save(now.next), now.next);
}
useIntervalFn(() => void sendAgain(), AGAIN);
useEventListener(window, 'online', () => void sendAgain());
// what is typed while it waits was not meant to be sent by itself
watch(host.steps, ([newest]) => {
  if (waiting.value && newest?.change.what.kind === 'edit') waiting.value = null;
});
function saveAnew(): void {
  savedBefore.value = null;
  void show(entry.saveAnew(), false);
}
async function save(next: boolean): Promise<void> {
  // what is being typed is taken first
  const from = document.activeElement as HTMLElement | null;
  const at = body.value?.keyOf(from) ?? null;
  from?.blur();
  if (entry.saving || reads.value) return;
  await show(entry.save(next), next);
  // not saved, the person goes on where they were
  await nextTick();
  if (document.activeElement !== document.body || !document.body.contains(from)) return;
  if (at === null) from?.focus();
  else body.value?.focus(at);
}
async function show(work: Promise<Saved>, next: boolean): Promise<void> {
  savedNotice.value = null;
  theirs.value = null;
  const saved = await work;
  waiting.value = saved.kind === 'waiting' ? { next } : null;
  if (saved.kind === 'refused' && saved.at) body.value?.focus(saved.at);
  else if (saved.kind === 'conflict') await readAgain();
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
function differing({ differs, anew, lost }: Extract<Saved, { kind: 'saved' }>): string {
  const gone = lost.length ? `It has no ${lost.join(', ')} any more: what was typed there was not saved.` : '';
  return [differs.length ? `The server has other values for ${differs.join(', ')}.` : '', anew ? anewWords(anew) : '', gone]
    .join(' ')
    .trim();
}
/** Somebody else saved the record: theirs is read, what was typed is put on top, and where both changed a field it is asked. */
async function readAgain(): Promise<void> {
  const changed = await entry.readAgain();
  theirs.value = changed;
}
const { others, savedSince } = usePresence(props.form, props.record, () => entry.opened?.record?.revision ?? null);
const news = useNews();
/** a newer version than the one this entry was opened with, published meanwhile */
const newer = computed(() => {
  const [now, own] = [news.versions[props.form] ?? 0, entry.opened?.version ?? 0];
  return own > 0 && now > own ? now : null;
});
const taking = ref(false);
/** The entry goes on with the newest version; what was typed stays. */
async function takeNew(): Promise<void> {
  taking.value = true;
  const at = body.value?.keyOf(document.activeElement) ?? null;
  const changed = await entry.readAgain();
  theirs.value = changed.length ? changed : null;
  taking.value = false;
  await nextTick();
  if (at === null) body.value?.focusFirst();
  else body.value?.focus(at);
}
function decided(mine: ReadonlySet<string>): void {
  const first = entry.clashes[0]?.address;
  entry.resolve(mine);
  if (first) body.value?.focus(first);
}
onBeforeUnmount(() => entry.leave());
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
  } else if (event.altKey && event.key.toLowerCase() === 'r') {
    event.preventDefault();
    const at = body.value?.keyOf(document.activeElement) ?? null;
    if (at !== null && !reads.value) repeated.value = entry.repeatLast(at) ?? '';
  } else if (event.key === 'Escape' && whyField.value) whyField.value = null;
}
useEventListener(document, 'keydown', keys);
/** why the value of the record before could not be repeated */
const repeated = ref('');
const unsaved = computed(() => entry.kept?.edits.filter((e) => !('by' in e) || !e.by).length ?? 0);
/** a moment as it is stored, in this place’s time */
const stamp = (at: number): string => new Date(at - new Date(at).getTimezoneOffset() * 60_000).toISOString().slice(0, 19);
const reads = computed(() => host.entry.value?.context.mode === 'view');
const { data: forms } = useForms();
const mayDelete = computed(() => forms.value?.find((f) => f.key === props.form)?.may.includes('delete') ?? false);
/** What was typed and not saved went with the record; where one is led to, it can be put back. */
async function gone(): Promise<void> {
  entry.dropAll();
  const list = `/entry/${props.form}`;
  await navigateTo(after.value === list ? { path: list, query: { gone: props.record } } : after.value);
}
const copied = ref(false);
async function copyLink(): Promise<void> {
  await navigator.clipboard.writeText(new URL(`/entry/${props.form}/${props.record}`, location.origin).href);
  copied.value = true;
}
async function print(): Promise<void> {
  // lines that are not drawn yet are drawn for the paper, which is not waited for by itself
  window.dispatchEvent(new Event('beforeprint'));
  await nextTick();
  window.print();
}
const plan = computed(() => (own.value ? host.entry.value?.plan : undefined));
const isBroad = computed(() => plan.value?.form.pages.some((p) => columnsOf(p).length > 1) ?? false);
/** What keeps the entry from being saved, each at its field. */
const issues = computed(() =>
  host.issues.value.map((i) => {
    const address = addressOf(i.field, i.line);
    const at = i.line === null ? -1 : host.lines(i.field.split('.')[0] ?? '').ids.indexOf(i.line);
    return { address, label: `${host.label(address)}${at < 0 ? '' : `, line ${at + 1}`}`, message: i.message };
  }),
);
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
    <div v-if="own && entry.failed" class="page">
      <Note kind="bad" :retry="open">{{ entry.failed }}</Note>
    </div>
    <div v-else-if="!own || !host.entry.value" class="page">
      <Skeleton v-for="i in 8" :key="i" style="margin: 10px 0; max-width: 560px" />
    </div>
    <template v-else>
      <div class="columns">
        <div class="sheet" :class="{ broad: isBroad }">
          <header>
            <h1>
              {{ plan?.form.label }}<span v-if="record !== null" class="muted">, record {{ record }}</span>
            </h1>
            <span class="row no-print"
              ><template v-if="record !== null"
                ><Button text severity="secondary" size="small" :label="copied ? 'Copied' : 'Copy the link'" @click="copyLink" /><Button
                  text
                  severity="secondary"
                  size="small"
                  label="Label"
                  as="router-link"
                  :to="`/entry/${props.form}/labels?ids=${record}`" /><Button
                  text
                  severity="secondary"
                  size="small"
                  label="Print"
                  @click="print" /></template
              ><DeleteRecord
                v-if="record !== null && mayDelete"
                :form="props.form"
                :record="record"
                :revision="entry.opened?.record?.revision ?? 0"
                :label="plan?.form.label ?? ''"
                :lines="Object.keys(plan?.form.lines ?? {}).length > 0"
                @deleted="gone"
              /><span class="muted">version {{ entry.opened?.version }}</span></span
            >
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
          <Note v-if="theirs" kind="good">
            Somebody else changed this record meanwhile{{ theirs.length ? `: ${theirs.join(', ')}` : '' }}. Their changes are in, with yours
            on top. Have a look, then save.
          </Note>
          <Note v-if="savedSince && !theirs" role="status"
            >Somebody else saved this record meanwhile. <Button link label="Take their changes in" @click="readAgain" /> What you have typed
            stays.
          </Note>
          <Note v-else-if="others.length" kind="quiet" role="status"
            >{{ others.join(', ') }} {{ others.length === 1 ? 'has' : 'have' }} this record open too.</Note
          >
          <Note v-if="newer" role="status"
            >Version {{ newer }} of this form was published meanwhile. Use it now: what you have typed stays. Or go on: when you save, it is
            judged by the new version.
            <Button link :disabled="taking" label="Use it now" @click="takeNew" />
          </Note>
          <Note v-if="entry.kept">
            You have {{ unsaved }} unsaved {{ unsaved === 1 ? 'change' : 'changes' }} from {{ showMoment(stamp(entry.kept.at))
            }}<template v-if="entry.kept.revision !== (entry.opened?.record?.revision ?? null)">; the record was changed since</template>.
            <Button link @click="takeUp">Restore</Button> or <Button link severity="secondary" @click="entry.forget()">discard</Button>.
          </Note>
          <Note v-if="issues.length" kind="bad">
            Not saved.
            {{ issues.length === 1 ? 'One field must' : `${issues.length} fields must` }} be corrected first:
            <ul class="issues">
              <li v-for="i in issues" :key="i.address">
                <Button link :label="i.label" @click="body?.focus(i.address)" />: {{ i.message }}
              </li>
            </ul>
          </Note>
          <Note v-if="host.failure.value" kind="bad" :retry="() => host.retry()"> {{ host.failure.value }}</Note>
          <StepPath :host="host" @focus="body?.focus($event)" />
          <Note v-if="waiting" role="status"
            >Not sent yet: the server cannot be reached. It is sent by itself as soon as it can be; what you typed is kept on this computer.
            <Button link label="Send now" :disabled="entry.saving" @click="sendAgain" />
          </Note>
          <Note v-if="repeated" kind="quiet" role="status">{{ repeated }}</Note>
          <FormBody
            ref="body"
            :host="host"
            prefix="e"
            @input.capture="typingNow"
            @focusout="typingLeft"
            @why="whyField = $event"
            @past="saveButton?.$el.focus()"
          />
          <footer>
            <span v-if="reads" class="muted">You may read this record and not change it.</span>
            <Button v-else ref="saveButton" :disabled="entry.saving" @click="save(record === null)">
              {{ record === null ? 'Save and next' : 'Save' }}
            </Button>
            <Button v-if="record === null" severity="secondary" :disabled="entry.saving" @click="save(false)">Save</Button>
            <Button as="router-link" text severity="secondary" :to="after">Close</Button>
            <span class="muted keys">Enter: next field · Ctrl+Enter: save · Alt+R: as before · Alt+W: why</span>
          </footer>
          <RelatedRows v-if="record !== null" :form="props.form" :record="record" />
          <RecordHistory
            v-if="record !== null"
            :form="props.form"
            :record="record"
            :host="host"
            :revision="entry.opened?.record?.revision ?? 0"
            :may-undo="!reads && !host.entry.value.log.length"
            @undone="open"
          />
        </div>
        <div v-if="whyField" class="side">
          <WhyPanel :host="host" :name="whyField" @close="whyField = null" @go="whyField = $event" />
        </div>
      </div>
      <p class="sr" aria-live="polite">{{ host.announcement.value }}</p>
    </template>
    <SavedBefore v-if="savedBefore !== null" :form="props.form" :record="savedBefore" @anew="saveAnew" @close="savedBefore = null" />
    <ClashDialog v-if="entry.clashes.length" :clashes="entry.clashes" :host="host" @decided="decided" />
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
.sheet.broad {
  max-width: none;
}
.sheet header {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  justify-content: space-between;
  padding: 0 8px 6px;
}
.sheet header .row {
  flex-wrap: wrap;
}
.side {
  width: 380px;
  padding: 16px 18px;
  background: var(--ground-2);
  border-left: 1px solid var(--line);
}
/* beside the field that it speaks of, however far down that is */
.side > .why {
  position: sticky;
  top: 16px;
  max-height: calc(100vh - 44px - 32px);
  overflow: auto;
}
.sheet > :deep(.p-message) {
  margin: 4px 8px 10px;
}
.issues {
  padding-top: 4px;
}
/* what the keys come to is never under the bar at the foot */
.sheet :deep(.body :is(input, textarea, button)) {
  scroll-margin: 24px 0 88px;
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
    grid-template-columns: minmax(0, 1fr);
  }
  .side {
    width: auto;
    order: -1;
  }
  .side > .why {
    position: static;
    max-height: none;
  }
  .keys {
    display: none;
  }
  .sheet {
    padding: 8px 12px;
  }
}
</style>
