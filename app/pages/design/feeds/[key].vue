<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import { FEED_TYPES, type Feed, feedProblems, feedSchema } from '~~/core/form/feeds.ts';
import { keyFromLabel, keyProblem } from '~~/core/form/tables.ts';
import type { Row } from '~~/core/values/types.ts';
import type { FeedAnswer } from '~/composables/useFeeds';

/* One feed: how it is asked, where in the answer things are, and a panel that tries it as it stands. */
const key = String(useRoute().params.key);
const { answer, failed, load } = useFeeds();
await load();
const stored = computed(() => answer.value?.feeds.find((f) => f.key === key));
const feed = ref<Feed | null>(null);
const secrets = ref<Record<string, string>>({});
const past = shallowRef<Feed[]>([]);
const conflict = ref(false);
let revision = 0;
function take(from: FeedAnswer): void {
  revision = from.revision;
  // only what a feed's definition has: the answer carries more
  feed.value = feedSchema.parse(from);
}
if (stored.value) take(stored.value);
useHead({ title: computed(() => `${feed.value?.label ?? 'Feed'} · Brisk Acorn`) });

const parsed = computed(() => (feed.value ? feedSchema.safeParse(feed.value) : null));
const problems = computed(() => {
  const p = parsed.value;
  if (!p) return [];
  return p.success ? feedProblems(p.data) : p.error.issues.map((i) => `${i.path.join(' › ')}: ${i.message}`);
});
/** the feed, where there is one: what the page shows */
const shown = computed(() => feed.value as Feed);
const saver = useSaver(async () => {
  if (!parsed.value?.success || problems.value.length) throw new Error('There are problems.');
  const sent = { ...secrets.value };
  try {
    const body = { feed: parsed.value.data, revision, secrets: sent };
    revision = (await api<{ revision: number }>(`feeds/${key}`, { method: 'PUT', body })).revision;
  } catch (e) {
    if (e instanceof ApiError && e.status === 409) conflict.value = true;
    throw e;
  }
  // those typed meanwhile are still to be sent
  secrets.value = Object.fromEntries(Object.entries(secrets.value).filter(([name, secret]) => sent[name] !== secret));
  if (Object.keys(sent).length) await load();
});
const removeFailed = ref('');
const saveState = computed(() => {
  if (removeFailed.value) return removeFailed.value;
  if (problems.value.length) return 'not saved until the problems are mended';
  return { saved: touched.value ? 'saved' : '', waiting: 'waiting', saving: 'saving…', failed: 'not saved' }[saver.state.value];
});
const touched = ref(false);
function saveSoon(): void {
  touched.value = true;
  saver.touch();
}
onBeforeRouteLeave(() => saver.flush());
/** Each change is kept, so that it can be undone. */
function change(edit: (f: Feed) => void): void {
  if (!feed.value) return;
  past.value = [...past.value, structuredClone(toRaw(feed.value))].slice(-100);
  edit(feed.value);
  saveSoon();
}
function undo(): void {
  const before = past.value.at(-1);
  if (!before) return;
  past.value = past.value.slice(0, -1);
  feed.value = before;
  saveSoon();
}
useEventListener(document, 'keydown', (e: KeyboardEvent) => {
  if (e.ctrlKey && e.key.toLowerCase() === 'z' && !(e.target as HTMLElement).closest('input, textarea')) {
    e.preventDefault();
    undo();
  }
});
const text = (e: Event): string => (e.target as HTMLInputElement).value.trim();
const number = (e: Event): number => Number((e.target as HTMLInputElement).value);
function addParam(): void {
  change((f) => f.params.push({ key: keyFromLabel('value', f.params.map((p) => p.key)), label: 'Value', type: 'text', required: true, example: '' })); // prettier-ignore
}
/** A path pressed in the raw answer becomes an attribute. */
function addAttribute(path = ''): void {
  const name = path.split('.').at(-1) || 'attribute';
  change((f) => f.attributes.push({ key: keyFromLabel(name, f.attributes.map((a) => a.key)), label: name.replaceAll('_', ' '), type: 'text', path })); // prettier-ignore
}
const setKey = (target: { key: string }, value: string): void => {
  if (keyProblem(value) === null) change(() => (target.key = value));
};

// ---- trying it ----
interface Tried {
  readonly ok: boolean;
  readonly message?: string;
  readonly status?: number;
  readonly body?: string | null;
  readonly items?: readonly Row[];
  readonly milliseconds?: number;
  readonly tries?: number;
}
const values = reactive<Record<string, string>>({});
watchEffect(() => feed.value?.params.forEach((p) => (values[p.key] ??= p.example)));
const tried = shallowRef<Tried | null>(null);
const trying = ref(false);
const tryFailed = ref('');
async function tryIt(): Promise<void> {
  if (!parsed.value?.success) return;
  trying.value = true;
  tryFailed.value = '';
  try {
    const params = Object.fromEntries(parsed.value.data.params.map((p) => [p.key, values[p.key]?.trim() || null]));
    tried.value = await api<Tried>('feeds/try', { body: { feed: parsed.value.data, params, secrets: secrets.value } });
  } catch (e) {
    tryFailed.value = messageOf(e);
  } finally {
    trying.value = false;
  }
}
const pretty = computed(() => {
  const body = tried.value?.body ?? '';
  try {
    return JSON.stringify(JSON.parse(body), null, 2).slice(0, 20_000);
  } catch {
    return body.slice(0, 20_000);
  }
});
/** Paths inside the first item that are not attributes yet. */
const found = computed(() => {
  try {
    let at: unknown = JSON.parse(tried.value?.body ?? '');
    for (const step of feed.value?.items ? feed.value.items.split('.') : []) at = (at as Record<string, unknown>)[step];
    const item = (Array.isArray(at) ? at[0] : at) as Record<string, unknown> | undefined;
    const known = new Set(feed.value?.attributes.map((a) => a.path));
    return Object.keys(item ?? {}).filter((k) => !known.has(k) && typeof item?.[k] !== 'object');
  } catch {
    return [];
  }
});
async function remove(): Promise<void> {
  try {
    await api(`feeds/${key}`, { method: 'DELETE' });
    await navigateTo('/design/feeds');
  } catch (e) {
    removeFailed.value = messageOf(e);
  }
}
</script>

<template>
  <div class="page wide">
    <Teleport to="#bar-place"
      ><span class="muted"><NuxtLink to="/design/feeds">Feeds</NuxtLink> ›</span> <b>{{ feed?.label ?? key }}</b></Teleport
    >
    <Teleport to="#bar-end"
      ><span class="muted" role="status">{{ saveState }}</span
      ><button class="btn plain small" type="button" aria-label="Undo" :disabled="!past.length" @click="undo">
        <i class="pi pi-undo" /></button
    ></Teleport>
    <p v-if="failed || !feed" class="note bad" role="alert">
      {{ failed || `There is no feed “${key}”.` }} <NuxtLink to="/design/feeds">All feeds</NuxtLink>
    </p>
    <div v-else class="halves">
      <div class="how">
        <TextEdit
          class="title"
          :value="shown.label"
          aria-label="Label of the feed"
          @change="change((f) => (f.label = text($event) || f.label))"
        />
        <p v-if="stored?.broken" class="note bad" role="alert">{{ stored.broken }} What you save here takes its place.</p>
        <ul v-if="problems.length" class="note bad">
          <li v-for="p in problems" :key="p">{{ p }}</li>
        </ul>
        <section>
          <h3>How it is asked</h3>
          <div class="ask">
            <select class="in" :value="shown.method" aria-label="Method" @change="change((f) => (f.method = text($event) as 'GET'))">
              <option>GET</option>
              <option>POST</option>
            </select>
            <TextEdit
              class="in mono"
              :value="shown.url"
              aria-label="Address"
              placeholder="https://data.example.org/days/{day}"
              @change="change((f) => (f.url = text($event)))"
            />
          </div>
          <p class="muted small">
            A value goes where its name stands in braces. An address that begins with <code>/standins/</code> is a service that ships with
            the application.
          </p>
          <TextEdit
            v-if="shown.method === 'POST'"
            class="in mono"
            :rows="4"
            :value="shown.body"
            aria-label="Body"
            placeholder='{ "code": "{code}" }'
            @change="change((f) => (f.body = text($event)))"
          />
        </section>
        <section>
          <h3>Values it takes</h3>
          <div v-for="(p, i) in shown.params" :key="i" class="line">
            <TextEdit class="in mono" :value="p.key" aria-label="Name" @change="setKey(p, text($event))" />
            <TextEdit class="in" :value="p.label" aria-label="Label" @change="change(() => (p.label = text($event) || p.label))" />
            <select class="in" :value="p.type" aria-label="Type" @change="change(() => (p.type = text($event) as 'text'))">
              <option v-for="t in FEED_TYPES" :key="t">{{ t }}</option>
            </select>
            <label class="row"
              ><input type="checkbox" :checked="p.required" @change="change(() => (p.required = !p.required))" /> needed</label
            >
            <button class="btn plain small" type="button" :aria-label="`Take out ${p.label}`" @click="change((f) => f.params.splice(i, 1))">
              <i class="pi pi-times" />
            </button>
          </div>
          <button class="word light" type="button" @click="addParam">+ value</button>
        </section>
        <section>
          <h3>Headers</h3>
          <div v-for="(h, i) in shown.headers" :key="i" class="line">
            <TextEdit class="in mono" :value="h.name" aria-label="Header" @change="change(() => (h.name = text($event)))" />
            <TextEdit
              v-if="h.value !== null"
              class="in"
              :value="h.value"
              aria-label="Value of the header"
              @change="change(() => (h.value = text($event)))"
            />
            <input
              v-else
              class="in"
              type="password"
              autocomplete="new-password"
              :placeholder="stored?.secrets.includes(h.name) ? 'kept on the server; type to replace it' : 'type the secret'"
              aria-label="Secret"
              @change="((secrets[h.name] = text($event)), change(() => {}))"
            />
            <label class="row"
              ><input type="checkbox" :checked="h.value === null" @change="change(() => (h.value = h.value === null ? '' : null))" />
              secret</label
            >
            <button class="btn plain small" type="button" :aria-label="`Take out ${h.name}`" @click="change((f) => f.headers.splice(i, 1))">
              <i class="pi pi-times" />
            </button>
          </div>
          <button class="word light" type="button" @click="change((f) => f.headers.push({ name: 'Authorization', value: null }))">
            + header
          </button>
        </section>
        <section>
          <h3>Where things are in the answer</h3>
          <div class="paths">
            <label
              ><span class="label">The items</span
              ><TextEdit
                class="in mono"
                :value="shown.items"
                placeholder="the whole answer"
                @change="change((f) => (f.items = text($event)))"
            /></label>
            <label
              ><span class="label">Value, in an item</span
              ><TextEdit
                class="in mono"
                :value="shown.value"
                placeholder="the item itself"
                @change="change((f) => (f.value = text($event)))"
            /></label>
            <label
              ><span class="label">Label, in an item</span
              ><TextEdit
                class="in mono"
                :value="shown.label_path"
                placeholder="the value"
                @change="change((f) => (f.label_path = text($event)))"
            /></label>
          </div>
          <div v-for="(a, i) in shown.attributes" :key="i" class="line">
            <TextEdit class="in mono" :value="a.key" aria-label="Name of the attribute" @change="setKey(a, text($event))" />
            <TextEdit
              class="in"
              :value="a.label"
              aria-label="Label of the attribute"
              @change="change(() => (a.label = text($event) || a.label))"
            />
            <select class="in" :value="a.type" aria-label="Type of the attribute" @change="change(() => (a.type = text($event) as 'text'))">
              <option v-for="t in FEED_TYPES" :key="t">{{ t }}</option>
            </select>
            <TextEdit
              class="in mono"
              :value="a.path"
              aria-label="Path"
              placeholder="path"
              @change="change(() => (a.path = text($event)))"
            />
            <button
              class="btn plain small"
              type="button"
              :aria-label="`Take out ${a.label}`"
              @click="change((f) => f.attributes.splice(i, 1))"
            >
              <i class="pi pi-times" />
            </button>
          </div>
          <button class="word light" type="button" @click="addAttribute()">+ attribute</button>
        </section>
        <section>
          <h3>Limits</h3>
          <p class="limits">
            Waits at most
            <TextEdit
              class="in few"
              type="number"
              step="0.5"
              :value="shown.timeout"
              aria-label="Seconds at most"
              @change="change((f) => (f.timeout = number($event)))"
            />
            seconds, tries
            <TextEdit
              class="in few"
              type="number"
              :value="shown.retries"
              aria-label="Further tries"
              @change="change((f) => (f.retries = number($event)))"
            />
            times more, reads at most
            <TextEdit
              class="in few"
              type="number"
              :value="shown.limit"
              aria-label="Kilobytes at most"
              @change="change((f) => (f.limit = number($event)))"
            />
            kB, keeps an answer for
            <TextEdit
              class="in few"
              type="number"
              :value="shown.keep"
              aria-label="Seconds kept"
              @change="change((f) => (f.keep = number($event)))"
            />
            seconds.
          </p>
        </section>
        <p class="row">
          <button class="btn small danger" type="button" :disabled="(stored?.usedBy.length ?? 0) > 0" @click="remove">
            <i class="pi pi-trash" aria-hidden="true" /> Delete this feed
          </button>
          <span class="muted">{{
            stored?.usedBy.length ? `Used by ${stored.usedBy.map((u) => u.label).join(', ')}.` : 'Used by no form.'
          }}</span>
        </p>
      </div>
      <aside class="try" aria-label="Try it">
        <h2>Try it</h2>
        <form class="tryForm" @submit.prevent="tryIt">
          <label v-for="p in shown.params" :key="p.key"
            ><span class="label">{{ p.label }}</span
            ><input v-model="values[p.key]" class="in" @change="change(() => (p.example = values[p.key] ?? ''))"
          /></label>
          <button class="btn act" type="submit" :disabled="trying || problems.length > 0">{{ trying ? 'Asking…' : 'Ask' }}</button>
        </form>
        <p v-if="tryFailed" class="note bad" role="alert">{{ tryFailed }}</p>
        <template v-if="tried">
          <p v-if="!tried.ok" class="note bad" role="alert">{{ tried.message }}</p>
          <p v-else role="status">
            Answered {{ tried.status }} in {{ tried.milliseconds }} ms<template v-if="(tried.tries ?? 1) > 1">
              at try {{ tried.tries }}</template
            >: <b>{{ tried.items?.length }}</b> {{ tried.items?.length === 1 ? 'item' : 'items' }}.
          </p>
          <div v-if="tried.items?.length" class="scroll">
            <table class="plainTable">
              <thead>
                <tr>
                  <th>Stored</th>
                  <th>Shown</th>
                  <th v-for="a in shown.attributes" :key="a.key">{{ a.label }}</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="r in tried.items.slice(0, 12)" :key="r.id">
                  <td>{{ r.value }}</td>
                  <td>{{ r.label }}</td>
                  <td v-for="a in shown.attributes" :key="a.key">{{ r[a.key] }}</td>
                </tr>
              </tbody>
            </table>
          </div>
          <p v-if="found.length" class="chips">
            <span class="muted">Also in an item:</span>
            <button v-for="p in found" :key="p" class="chip flow" type="button" @click="addAttribute(p)">+ {{ p }}</button>
          </p>
          <h3>The raw answer</h3>
          <pre class="raw" tabindex="0">{{ pretty || 'nothing' }}</pre>
        </template>
        <p v-else class="muted">Fill in the values and ask: what comes back, and what is made of it, stands here.</p>
      </aside>
    </div>
    <Dialog v-model:visible="conflict" modal header="Changed by somebody else" :style="{ width: '420px' }">
      <p>Somebody else saved this feed after you opened it. Read theirs, then make your last changes again.</p>
      <template #footer
        ><button class="btn act" type="button" @click="(load().then(() => stored && take(stored)), (conflict = false))">
          Read theirs
        </button></template
      >
    </Dialog>
  </div>
</template>

<style scoped>
.page.wide {
  max-width: none;
  padding: 0;
  height: 100%;
}
.halves {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(380px, 42%);
  height: 100%;
}
.how {
  padding: 14px 24px 40px;
  overflow: auto;
}
.try {
  padding: 16px 20px 40px;
  background: var(--ground-2);
  border-left: 1px solid var(--line);
  overflow: auto;
  display: grid;
  gap: 10px;
  align-content: start;
}
.title {
  font-size: 20px;
  font-weight: 700;
  border: 0;
  border-bottom: 1px solid transparent;
  background: none;
  width: 100%;
}
section {
  border-top: 1px solid var(--line);
  padding: 10px 0 12px;
  display: grid;
  gap: 6px;
  justify-items: start;
}
.ask {
  display: grid;
  grid-template-columns: 90px 1fr;
  gap: 8px;
  width: 100%;
}
.line {
  display: flex;
  gap: 8px;
  width: 100%;
  align-items: center;
}
.line .row {
  white-space: nowrap;
}
.line select {
  width: 92px;
}
.paths {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 10px;
  width: 100%;
}
.few {
  width: 68px;
  display: inline-block;
  line-height: normal;
}
.limits {
  line-height: 2.6;
}
.tryForm {
  display: flex;
  gap: 10px;
  align-items: end;
  flex-wrap: wrap;
}
.scroll {
  overflow-x: auto;
}
.chips {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
}
.chip {
  cursor: pointer;
}
.raw {
  font: 12.5px/1.45 var(--mono);
  background: var(--ground-3);
  padding: 10px;
  border-radius: var(--r);
  margin: 0;
  max-height: 320px;
  overflow: auto;
}
.small {
  font-size: 13px;
}
</style>
