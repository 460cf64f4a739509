<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import type { contract } from '~~/core/contract/index.ts';
import { FEED_TYPES, type Feed, feedProblems, holesOf } from '~~/core/model/feeds.ts';
import { feedSchema } from '~~/core/model/schemas.ts';
import { keyFromLabel, keyProblem } from '~~/core/model/tables.ts';

/* One feed: how it is asked, where in the answer things are, and a panel that tries it as it stands. */
const key = String(useRoute().params.key);
const asked = useFeeds();
await asked.refetch();
const stored = computed(() => asked.data.value?.feeds.find((f) => f.key === key));
const secrets = ref<Record<string, string>>({});
const judged = (feed: Feed) => feedSchema.safeParse(feed);
function problemsOf(feed: Feed): string[] {
  const p = judged(feed);
  return p.success ? feedProblems(p.data) : p.error.issues.map((i) => `${i.path.join(' › ')}: ${i.message}`);
}
const edited = useDocument<Feed>(
  async (feed, revision) => {
    const sent = { ...secrets.value };
    const answer = await api.feeds.save({ key }, { feed, revision, secrets: sent });
    // those typed meanwhile are still to be sent
    secrets.value = Object.fromEntries(Object.entries(secrets.value).filter(([name, secret]) => sent[name] !== secret));
    if (Object.keys(sent).length) await asked.refetch();
    return answer.revision;
  },
  { sound: (feed) => problemsOf(feed).length === 0 },
);
function open(): void {
  // only what a feed's definition has: the answer carries more
  if (stored.value) edited.open(feedSchema.parse(stored.value), stored.value.revision);
}
open();
const { conflict } = edited;
async function readTheirs(): Promise<void> {
  await asked.refetch();
  open();
}
const feed = edited.now;
/** the feed, where there is one: what the page shows */
const shown = computed(() => feed.value as Feed);
useHead({ title: computed(() => `${feed.value?.label ?? 'Feed'} · Brisk Acorn`) });
const problems = computed(() => (feed.value ? problemsOf(feed.value) : []));
const removeFailed = ref('');
const saveWords = computed(() => {
  if (removeFailed.value) return removeFailed.value;
  if (problems.value.length) return 'not saved until the problems are fixed';
  return { saved: edited.canUndo.value ? 'saved' : '', waiting: 'waiting', saving: 'saving…', failed: edited.failure.value || 'not saved' }[
    edited.state.value
  ];
});
onBeforeRouteLeave(() => edited.flush());
/** Makes one change to the feed as it is now, undoable. */
function change(edit: (f: Feed) => void): void {
  if (!feed.value) return;
  const next = structuredClone(toRaw(feed.value));
  edit(next);
  edited.change(next);
}
useEventListener(document, 'keydown', (e: KeyboardEvent) => {
  if (e.ctrlKey && e.key.toLowerCase() === 'z' && !(e.target as HTMLElement).closest('input, textarea')) {
    e.preventDefault();
    if (e.shiftKey) edited.redo();
    else edited.undo();
  }
});
const METHODS = (['GET', 'POST'] as const).map((value) => ({ value, label: value }));
const TYPES = FEED_TYPES.map((value) => ({ value, label: value }));
const text = (e: Event): string => (e.target as HTMLInputElement).value.trim();
function addParam(name = ''): void {
  const label = name === '' ? 'Value' : name.replaceAll('_', ' ').replace(/^./, (c) => c.toUpperCase());
  change((f) => f.params.push({ key: name || keyFromLabel('value', f.params.map((p) => p.key)), label, type: 'text', required: true, example: '' })); // prettier-ignore
}
/** Names that stand in braces and are no values yet. */
const missing = computed(() => {
  const f = feed.value;
  if (!f) return [];
  const holes = [...holesOf(f.url), ...(f.method === 'POST' ? holesOf(f.body) : [])];
  return [...new Set(holes)].filter((h) => keyProblem(h) === null && !f.params.some((p) => p.key === h));
});
/** A path pressed in the raw answer becomes an attribute. */
function addAttribute(path = ''): void {
  const name = path.split('.').at(-1) || 'attribute';
  change((f) => f.attributes.push({ key: keyFromLabel(name, f.attributes.map((a) => a.key)), label: name.replaceAll('_', ' '), type: 'text', path })); // prettier-ignore
}
/** What stands at a place of one of the feed's lists. */
/** The limits as one sentence, each number after the words before it. */
const LIMITS = [
  { part: 'timeout', before: 'Waits at most', label: 'Seconds at most', decimals: 1 },
  { part: 'retries', before: 'seconds, tries', label: 'Further tries', decimals: 0 },
  { part: 'limit', before: 'times more, reads at most', label: 'Kilobytes at most', decimals: 0 },
  { part: 'keep', before: 'kB, keeps an answer for', label: 'Seconds kept', decimals: 0 },
] as const;
type Listed = 'params' | 'headers' | 'attributes';
function changeAt<L extends Listed>(list: L, at: number, edit: (x: Feed[L][number]) => void): void {
  change((f) => {
    const found = f[list][at];
    if (found) edit(found);
  });
}
function setKey(list: 'params' | 'attributes', at: number, value: string): void {
  if (keyProblem(value) === null) change((f) => void (f[list][at]!.key = value));
}

// ---- trying it ----
type Tried = Answer<typeof contract.feeds.attempt>;
const values = reactive<Record<string, string>>({});
watchEffect(() => feed.value?.params.forEach((p) => (values[p.key] ??= p.example)));
const tried = shallowRef<Tried | null>(null);
const trying = ref(false);
const tryFailed = ref('');
async function tryIt(): Promise<void> {
  const now = feed.value;
  if (!now || !judged(now).success) return;
  trying.value = true;
  tryFailed.value = '';
  try {
    const params = Object.fromEntries(now.params.map((p) => [p.key, values[p.key]?.trim() || null]));
    tried.value = await api.feeds.attempt({ feed: now, params, secrets: secrets.value });
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
const confirm = useConfirm();
function remove(): void {
  confirm.require({
    header: 'Delete the feed',
    message: `${shown.value.label} will be deleted, with its secrets. This cannot be undone.`,
    acceptProps: { label: 'Delete', severity: 'danger' },
    rejectProps: { label: 'Keep it', severity: 'secondary' },
    accept: async () => {
      try {
        await api.feeds.remove({ key });
        await navigateTo('/design/feeds');
      } catch (e) {
        removeFailed.value = messageOf(e);
      }
    },
  });
}
</script>

<template>
  <div class="page wide">
    <PlaceTrail :above="[{ label: 'Feeds', to: '/design/feeds' }]" :here="feed?.label ?? key" />
    <Teleport to="#bar-end"
      ><span class="muted" role="status">{{ saveWords }}</span
      ><IconButton aria-label="Undo" :disabled="!edited.canUndo.value" icon="pi pi-undo" @click="edited.undo()"
    /></Teleport>
    <Asked v-if="!feed" :query="asked"
      ><Note kind="bad">There is no feed “{{ key }}”. <NuxtLink to="/design/feeds">All feeds</NuxtLink></Note></Asked
    >
    <div v-else class="halves">
      <div class="how">
        <TextEdit
          class="bare title"
          :value="shown.label"
          aria-label="Label of the feed"
          @change="change((f) => (f.label = text($event) || f.label))"
        />
        <Note v-if="stored?.broken" kind="bad">{{ stored.broken }} Saving replaces it.</Note>
        <Note v-if="problems.length" kind="bad"
          ><ul>
            <li v-for="p in problems" :key="p">{{ p }}</li>
          </ul></Note
        >
        <section>
          <h3>Request</h3>
          <div class="ask">
            <PickOne
              label="Method"
              :options="METHODS"
              :model-value="shown.method"
              @update:model-value="$event && change((f) => (f.method = $event!))"
            />
            <TextEdit
              class="mono"
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
            class="mono"
            :rows="4"
            :value="shown.body"
            aria-label="Body"
            placeholder='{ "code": "{code}" }'
            @change="change((f) => (f.body = text($event)))"
          />
        </section>
        <section>
          <h3>Values</h3>
          <div v-for="(p, i) in shown.params" :key="i" class="line">
            <TextEdit class="mono" :value="p.key" aria-label="Name" @change="setKey('params', i, text($event))" />
            <TextEdit :value="p.label" aria-label="Label" @change="changeAt('params', i, (x) => (x.label = text($event) || x.label))" />
            <PickOne
              label="Type"
              :options="TYPES"
              :model-value="p.type"
              @update:model-value="$event && changeAt('params', i, (x) => (x.type = $event!))"
            />
            <label class="row"
              ><Checkbox binary :model-value="p.required" @update:model-value="changeAt('params', i, (x) => (x.required = !x.required))" />
              needed</label
            >
            <IconButton :aria-label="`Remove ${p.label}`" icon="pi pi-times" @click="change((f) => f.params.splice(i, 1))" />
          </div>
          <p class="row">
            <Button
              v-for="name in missing"
              :key="name"
              size="small"
              severity="warn"
              :label="`+ the value ${name}`"
              @click="addParam(name)"
            />
            <Button link severity="secondary" @click="addParam()">+ value</Button>
          </p>
        </section>
        <section>
          <h3>Headers</h3>
          <div v-for="(h, i) in shown.headers" :key="i" class="line">
            <TextEdit class="mono" :value="h.name" aria-label="Header" @change="changeAt('headers', i, (x) => (x.name = text($event)))" />
            <TextEdit
              v-if="h.value !== null"
              :value="h.value"
              aria-label="Value of the header"
              @change="changeAt('headers', i, (x) => (x.value = text($event)))"
            />
            <InputText
              v-else
              type="password"
              autocomplete="new-password"
              :placeholder="stored?.secrets.includes(h.name) ? 'kept on the server; type to replace it' : 'type the secret'"
              aria-label="Secret"
              @change="((secrets[h.name] = text($event)), change(() => {}))"
            />
            <label class="row"
              ><Checkbox
                binary
                :model-value="h.value === null"
                @update:model-value="changeAt('headers', i, (x) => (x.value = x.value === null ? '' : null))"
              />
              secret</label
            >
            <IconButton :aria-label="`Remove ${h.name}`" icon="pi pi-times" @click="change((f) => f.headers.splice(i, 1))" />
          </div>
          <Button link severity="secondary" @click="change((f) => f.headers.push({ name: 'Authorization', value: null }))">
            + header
          </Button>
        </section>
        <section>
          <h3>Answer</h3>
          <div class="paths">
            <label
              ><span class="label">The items</span
              ><TextEdit class="mono" :value="shown.items" placeholder="the whole answer" @change="change((f) => (f.items = text($event)))"
            /></label>
            <label
              ><span class="label">Value, in an item</span
              ><TextEdit class="mono" :value="shown.value" placeholder="the item itself" @change="change((f) => (f.value = text($event)))"
            /></label>
            <label
              ><span class="label">Label, in an item</span
              ><TextEdit
                class="mono"
                :value="shown.label_path"
                placeholder="the value"
                @change="change((f) => (f.label_path = text($event)))"
            /></label>
          </div>
          <div v-for="(a, i) in shown.attributes" :key="i" class="line">
            <TextEdit class="mono" :value="a.key" aria-label="Name of the attribute" @change="setKey('attributes', i, text($event))" />
            <TextEdit
              :value="a.label"
              aria-label="Label of the attribute"
              @change="changeAt('attributes', i, (x) => (x.label = text($event) || x.label))"
            />
            <PickOne
              label="Type of the attribute"
              :options="TYPES"
              :model-value="a.type"
              @update:model-value="$event && changeAt('attributes', i, (x) => (x.type = $event!))"
            />
            <TextEdit
              class="mono"
              :value="a.path"
              aria-label="Path"
              placeholder="path"
              @change="changeAt('attributes', i, (x) => (x.path = text($event)))"
            />
            <IconButton :aria-label="`Remove ${a.label}`" icon="pi pi-times" @click="change((f) => f.attributes.splice(i, 1))" />
          </div>
          <Button link severity="secondary" @click="addAttribute()">+ attribute</Button>
        </section>
        <section>
          <h3>Limits</h3>
          <p class="limits">
            <template v-for="l in LIMITS" :key="l.part"
              >{{ l.before }}
              <InputNumber
                class="few"
                size="small"
                :model-value="shown[l.part]"
                :use-grouping="false"
                :max-fraction-digits="l.decimals"
                :aria-label="l.label"
                @update:model-value="change((f) => (f[l.part] = $event ?? 0))"
              />
            </template>
            seconds.
          </p>
        </section>
        <p class="row">
          <Button severity="danger" size="small" :disabled="(stored?.usedBy.length ?? 0) > 0" @click="remove">
            <i class="pi pi-trash" aria-hidden="true" /> Delete this feed
          </Button>
          <span class="muted">{{
            stored?.usedBy.length ? `Used by ${stored.usedBy.map((u) => u.label).join(', ')}.` : 'Used by no form.'
          }}</span>
        </p>
      </div>
      <aside class="try" aria-label="Try it">
        <h2>Try it</h2>
        <form class="tryForm" @submit.prevent="tryIt">
          <label v-for="(p, i) in shown.params" :key="p.key"
            ><span class="label">{{ p.label }}</span
            ><InputText v-model="values[p.key]" @change="changeAt('params', i, (x) => (x.example = values[p.key] ?? ''))"
          /></label>
          <Button type="submit" :disabled="trying || problems.length > 0">{{ trying ? 'Asking…' : 'Ask' }}</Button>
        </form>
        <Note v-if="tryFailed" kind="bad">{{ tryFailed }}</Note>
        <template v-if="tried">
          <Note v-if="!tried.ok" kind="bad">{{ tried.message }}</Note>
          <p v-else role="status">
            Answered {{ tried.status }} in {{ tried.milliseconds }} ms<template v-if="(tried.tries ?? 1) > 1">
              at try {{ tried.tries }}</template
            >: <b>{{ tried.items?.length }}</b> {{ tried.items?.length === 1 ? 'item' : 'items' }}.
          </p>
          <div v-if="tried.items?.length" class="scroll">
            <DataTable :value="tried.items.slice(0, 12)" data-key="id" size="small" scrollable>
              <Column v-memo="[]" header="Stored" field="value" />
              <Column v-memo="[]" header="Shown" field="label" />
              <Column v-for="a in shown.attributes" :key="a.key" v-memo="[a.key, a.label]" :header="a.label" :field="a.key" />
            </DataTable>
          </div>
          <p v-if="found.length" class="chips">
            <span class="muted">Also in an item:</span>
            <Button v-for="p in found" :key="p" size="small" severity="warn" @click="addAttribute(p)">+ {{ p }}</Button>
          </p>
          <h3>The raw answer</h3>
          <pre class="raw" tabindex="0">{{ pretty || 'nothing' }}</pre>
        </template>
        <p v-else class="muted">Fill in the values and press Ask to see the answer and what is read from it.</p>
      </aside>
    </div>
    <ConflictDialog v-if="conflict" what="feed" @read="readTheirs" />
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
.line :deep(.p-select) {
  flex: 0 0 104px;
}
.paths {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 10px;
  width: 100%;
}
.few :deep(input) {
  width: 68px;
}
.limits {
  line-height: 2.4;
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
