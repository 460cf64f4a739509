<script setup lang="ts">
import QRCode from 'qrcode';
import { storedOf } from '~~/core/engine/candidates.ts';
import { recordTexts } from '~/components/records/recordTexts';

/* Labels to be printed: for records, each with a code that opens it; or for rows that a field offers, each with a code that opens a new entry with that row filled in. */
const route = useRoute();
const key = String(route.params.form);
const MOST = 500;
interface LabelOf {
  readonly id: string;
  readonly title: string;
  readonly lines: readonly string[];
  readonly address: string;
}
const RECORDS = '';
const about = ref('');
const failed = ref('');
const busy = ref(true);
const more = ref(false);
/** what the labels are of: records, or rows of a field */
const of = ref(typeof route.query.of === 'string' ? route.query.of : RECORDS);
const ids = String(route.query.ids ?? '')
  .split(',')
  .map(Number)
  .filter((n) => Number.isSafeInteger(n) && n > 0)
  .slice(0, MOST);
const labels = shallowRef<readonly (LabelOf & { code: string })[]>([]);
const fields = shallowRef<readonly { value: string; label: string }[]>([]);
const perRow = ref(3);
const COUNTS = [2, 3, 4].map((n) => ({ value: n, label: `${n} a row` }));
const place = (path: string): string => new URL(path, location.origin).href;

async function read(): Promise<void> {
  busy.value = true;
  failed.value = '';
  try {
    const views = await api.views.list({ key });
    about.value = views.form.label;
    const page = await api.entries.list(
      { key },
      { limit: MOST, descending: '1', view: ids.length ? JSON.stringify({ where: `choice.id IN (${ids.join(', ')})` }) : undefined },
    );
    const own = views.tables.find((t) => t.key === views.form.table);
    const named = new Map(Object.entries(page.form.fields).map(([k, f]) => [f.column, k]));
    fields.value = (own?.columns ?? []).flatMap((c) => {
      const target = views.tables.find((t) => t.key === (c.target ?? ''));
      const field = named.get(c.key);
      return target?.shown && field && page.form.fields[field]?.source ? [{ value: field, label: c.label }] : [];
    });
    const made = of.value === RECORDS ? ofRecords(page, own?.shown ?? null) : await ofRows();
    labels.value = await Promise.all(
      made.map(async (l) => ({ ...l, code: await QRCode.toDataURL(l.address, { margin: 0, width: 180, errorCorrectionLevel: 'M' }) })),
    );
  } catch (e) {
    failed.value = messageOf(e);
  } finally {
    busy.value = false;
  }
}
type Page = Parameters<typeof recordTexts>[0] & Awaited<ReturnType<typeof api.entries.list>>;
function ofRecords(page: Page, shown: string | null): LabelOf[] {
  const texts = recordTexts(page);
  more.value = page.total > page.rows.length;
  const keys = texts.usual.filter((k) => k !== shown).slice(0, 4);
  return page.rows.map(({ row }) => ({
    id: String(row.id),
    title: (shown && texts.text(shown, row, page.linked)) || `${about.value} ${row.id}`,
    lines: keys.map((k) => texts.text(k, row, page.linked)).filter((t) => t !== ''),
    address: place(`/entry/${key}/${row.id}`),
  }));
}
const host = useEntryHost((wants) => api.entries.wants({ key }, { version: version.value, wants: [...wants] }));
const version = ref(0);
const MOST_ROWS = 200;
/** The rows that a new entry offers, each with a link by what it is called where that is certain, else by its number. */
async function ofRows(): Promise<LabelOf[]> {
  const opened = await api.entries.begin({ key }, {});
  version.value = opened.version;
  host.open(openedPlan(opened), { ...opened.context, url: {}, mode: opened.mode }, null, opened.answered);
  await host.settled();
  const plan = host.entry.value?.plan;
  const field = plan?.own.find((f) => f.key === of.value);
  if (!plan || !field) return [];
  const here = host.view(field.key).offer?.rows;
  const page = here ? { rows: here, more: here.length > MOST_ROWS } : await host.page(field.key, '', 0, MOST_ROWS);
  more.value = page.more;
  const { label } = field.definition;
  return Promise.all(
    page.rows.slice(0, MOST_ROWS).map(async (row): Promise<LabelOf> => {
      const { text, beside } = candidateTexts(plan, field, row, host.cache());
      return {
        id: String(row.id),
        title: text,
        lines: [beside, `${label} of a new ${about.value.toLowerCase()}`].filter((t) => t !== ''),
        address: place(`/entry/${key}/new?${field.key}=${encodeURIComponent(await addressText(host, field, storedOf(field, row)))}`),
      };
    }),
  );
}
await read();
const kinds = computed(() => [
  { value: RECORDS, label: ids.length ? `the ${ids.length} chosen records` : 'the newest records' },
  ...fields.value.map((f) => ({ value: f.value, label: `the rows of ${f.label}, for a new entry` })),
]);
function pick(to: string): void {
  of.value = to;
  void read();
}
const print = (): void => window.print();
useHead({ title: () => `Labels · ${about.value} · Brisk Acorn` });
</script>

<template>
  <div class="page">
    <PlaceTrail
      :above="[
        { label: 'Entries', to: '/entry' },
        { label: about || key, to: `/entry/${key}` },
      ]"
      here="labels"
    />
    <Note v-if="failed" kind="bad" :retry="read">{{ failed }}</Note>
    <template v-else>
      <header class="row no-print">
        <h1>Labels</h1>
        <p>
          of <PickWord :value="of" :options="kinds" label="Labels of what" @pick="pick" />,
          <PickWord :value="perRow" :options="COUNTS" label="How many in a row" @pick="perRow = $event" />
        </p>
        <Button icon="pi pi-print" label="Print" :disabled="busy || !labels.length" @click="print" />
      </header>
      <p class="muted no-print">
        {{
          of === RECORDS ? 'The code opens the record.' : 'The code opens a new entry with this filled in; whoever scans it signs in first.'
        }}
        <template v-if="more">There are more than fit on one sheet: these are the first {{ labels.length }}.</template>
      </p>
      <Skeleton v-if="busy" height="300px" />
      <Note v-else-if="!labels.length" kind="quiet">{{
        of === RECORDS ? 'There is nothing to label yet.' : 'A new entry offers no rows here before something else is chosen.'
      }}</Note>
      <ul v-else class="labels" :style="{ gridTemplateColumns: `repeat(${perRow}, minmax(0, 1fr))` }">
        <li v-for="l in labels" :key="l.id">
          <img :src="l.code" :alt="`Code that leads to ${l.address}`" width="90" height="90" />
          <div>
            <b>{{ l.title }}</b>
            <p v-for="(line, i) in l.lines" :key="i">{{ line }}</p>
          </div>
        </li>
      </ul>
    </template>
  </div>
</template>

<style scoped>
header {
  gap: 18px;
  flex-wrap: wrap;
}
.labels {
  list-style: none;
  margin: 12px 0 0;
  padding: 0;
  display: grid;
  gap: 8px;
}
.labels li {
  display: flex;
  gap: 10px;
  padding: 8px;
  border: 1px solid var(--line);
  break-inside: avoid;
  overflow: hidden;
}
.labels p {
  font-size: 12.5px;
}
.labels img {
  flex: none;
  background: #fff;
  padding: 2px;
}
@media (max-width: 700px) {
  .labels {
    grid-template-columns: 1fr !important;
  }
}
</style>
