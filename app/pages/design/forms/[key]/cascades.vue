<script setup lang="ts">
import { BarChart } from 'echarts/charts';
import { GridComponent, TooltipComponent } from 'echarts/components';
import { use } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import VChart from 'vue-echarts';

/* A form's cascades laid out parent by parent: a picture one can walk through, a table, gaps and near spellings. */
use([SVGRenderer, BarChart, GridComponent, TooltipComponent]);

interface Level {
  readonly field: string;
  readonly label: string;
  readonly table: string;
  readonly tableLabel: string;
  readonly summary: {
    readonly rows: number;
    readonly offered: number;
    readonly orphans: number;
    readonly gaps: number;
    readonly singles: number;
    readonly parents: number;
  };
}
interface Spelled {
  readonly text: string;
  readonly ids: readonly number[];
  readonly count: number;
}
interface SpellingGroup {
  readonly table: string;
  readonly tableLabel: string;
  readonly column: string;
  readonly columnLabel: string;
  readonly kind: 'rows' | 'values';
  readonly spelled: readonly Spelled[];
}
interface Coverage {
  readonly cascades: readonly { readonly levels: readonly Level[] }[];
  readonly spellings: readonly SpellingGroup[];
  readonly notLooked: readonly string[];
}
interface CascadeRow {
  readonly id: number;
  readonly text: string | null;
  readonly offered: boolean;
  readonly children: number | null;
  readonly childrenOffered: number | null;
}
type Only = 'all' | 'gaps' | 'singles' | 'orphans';

const route = useRoute();
const form = String(route.params.key);
const toast = useToast();
const job = useJob();
const coverage = shallowRef<Coverage | null>(null);
const failed = ref('');
const chain = ref(0);
/** the rows gone into, from the top */
const path = ref<readonly { id: number; text: string }[]>([]);
const only = ref<Only>('all');
/** the level shown when a count is followed rather than walked to */
const jumped = ref<number | null>(null);
const rows = shallowRef<readonly CascadeRow[]>([]);
const total = ref(0);
const reading = ref(false);
useHead({ title: 'Cascades · Brisk Acorn' });

async function load(): Promise<void> {
  try {
    const found = await job.run<Coverage>(`forms/${form}/cascades`, {});
    if (found) coverage.value = found;
    failed.value = '';
  } catch (e) {
    failed.value = messageOf(e);
  }
}
const { forms, load: loadForms } = useForms();
await loadForms();
void load();
const formLabel = computed(() => forms.value.find((f) => f.key === form)?.label ?? form);
const levels = computed(() => coverage.value?.cascades[chain.value]?.levels ?? []);
const level = computed(() => jumped.value ?? Math.min(path.value.length, levels.value.length - 1));
const below = computed(() => levels.value[level.value + 1]);

let asked = 0;
async function read(): Promise<void> {
  if (!levels.value.length) return;
  const mine = ++asked;
  reading.value = true;
  try {
    const parent = jumped.value === null ? path.value.at(-1)?.id : undefined;
    const answer = await api<{ rows: CascadeRow[]; total: number }>(`forms/${form}/cascades/rows`, {
      query: { cascade: chain.value, level: level.value, parent, only: only.value, limit: 300 },
    });
    if (mine !== asked) return;
    rows.value = answer.rows;
    total.value = answer.total;
  } catch (e) {
    failed.value = messageOf(e);
  } finally {
    reading.value = false;
  }
}
watch([chain, path, only, jumped, coverage], read);
function choose(i: number): void {
  chain.value = i;
  home();
}
function home(): void {
  path.value = [];
  only.value = 'all';
  jumped.value = null;
}
function go(row: CascadeRow): void {
  if (!below.value) return;
  if (jumped.value !== null) {
    // a row found through a count: what is below it, without the way from the top
    path.value = [...Array.from({ length: jumped.value }, () => ({ id: 0, text: '…' })), { id: row.id, text: row.text ?? `row ${row.id}` }];
    jumped.value = null;
  } else path.value = [...path.value, { id: row.id, text: row.text ?? `row ${row.id}` }];
  only.value = 'all';
}
function follow(levelNumber: number, what: Only): void {
  path.value = [];
  jumped.value = levelNumber;
  only.value = what;
}
const barRows = computed(() => (below.value ? rows.value.slice(0, 60) : []));
const colours = ref({ act: '#1f5c42', wash: '#e2decf', bad: '#a51d1d', ink: '#16241c', line: '#dedac9' });
onMounted(() => {
  const css = getComputedStyle(document.documentElement);
  const read = (name: string): string => css.getPropertyValue(name).trim();
  colours.value = { act: read('--act'), wash: read('--quiet-track'), bad: read('--bad'), ink: read('--ink'), line: read('--line') };
});
const option = computed(() => ({
  animation: false,
  textStyle: { fontFamily: 'Atkinson Hyperlegible Next Variable' },
  grid: { left: 150, right: 56, top: 4, bottom: 4 },
  xAxis: { type: 'value', show: false },
  yAxis: { type: 'category', inverse: true, data: barRows.value.map((r) => r.text ?? `row ${r.id}`), axisTick: { show: false }, axisLine: { show: false }, axisLabel: { color: colours.value.ink, width: 140, overflow: 'truncate', fontSize: 13 } },
  tooltip: { trigger: 'axis', axisPointer: { type: 'shadow' } },
  series: [
    { name: 'offered', type: 'bar', stack: 'n', barMaxWidth: 14, itemStyle: { color: colours.value.act }, data: barRows.value.map((r) => r.childrenOffered) },
    {
      name: 'not offered',
      type: 'bar',
      stack: 'n',
      barMaxWidth: 14,
      itemStyle: { color: colours.value.wash },
      data: barRows.value.map((r) => (r.children ?? 0) - (r.childrenOffered ?? 0)),
      label: { show: true, position: 'right', color: colours.value.ink, formatter: (p: { dataIndex: number }) => (barRows.value[p.dataIndex]?.childrenOffered === 0 ? 'none' : String(barRows.value[p.dataIndex]?.childrenOffered ?? '')) },
    },
  ],
})); // prettier-ignore

// ---- repair ----
async function repair(work: () => Promise<string>): Promise<void> {
  try {
    toast.add({ severity: 'success', summary: await work(), life: 5000 });
    await load();
  } catch (e) {
    toast.add({ severity: 'error', summary: 'Not repaired', detail: messageOf(e), life: 8000 });
  }
}
const respell = (g: SpellingGroup, to: string): Promise<void> =>
  repair(async () => {
    const { changed } = await api<{ changed: number }>(`tables/${g.table}/respell`, {
      body: { column: g.column, from: g.spelled.map((s) => s.text), to },
    });
    return `${changed} ${changed === 1 ? 'row says' : 'rows say'} “${to}” now.`;
  });
const merge = (g: SpellingGroup, keep: Spelled): Promise<void> =>
  repair(async () => {
    let moved = 0;
    const [first, ...same] = keep.ids;
    for (const id of [...same, ...g.spelled.filter((s) => s !== keep).flatMap((s) => s.ids)]) {
      moved += (await api<{ moved: number }>(`tables/${g.table}/merge`, { body: { keep: first, drop: id } })).moved;
    }
    return `One row “${keep.text}” is left; ${moved} ${moved === 1 ? 'link leads' : 'links lead'} to it now.`;
  });
const rowText = (r: CascadeRow): string => r.text ?? `row ${r.id}`;
</script>

<template>
  <div class="page wide">
    <Teleport to="#bar-place"
      ><span class="muted"
        ><NuxtLink to="/design/forms">Forms</NuxtLink> › <NuxtLink :to="`/design/forms/${form}`">{{ formLabel }}</NuxtLink> ›</span
      >
      <b>Cascades</b></Teleport
    >
    <p v-if="failed" class="note bad" role="alert">{{ failed }} <button class="word" type="button" @click="load">Try again</button></p>
    <JobProgress v-else-if="!coverage" :progress="job.progress.value" :doing="job.doing.value" @cancel="job.cancel" />
    <template v-else>
      <h1 class="sr">Cascades</h1>
      <p v-if="!coverage.cascades.length" class="note">
        No list of this form is narrowed by a link to another field’s row, so there is no cascade to lay out.
      </p>
      <div v-else class="tabs" role="tablist" aria-label="Cascades">
        <button
          v-for="(c, i) in coverage.cascades"
          :key="i"
          class="btn"
          role="tab"
          type="button"
          :aria-selected="i === chain"
          :class="{ on: i === chain }"
          @click="choose(i)"
        >
          {{ c.levels.map((l) => l.label).join(' › ') }}
        </button>
      </div>
      <ol v-if="levels.length" class="levels">
        <li v-for="(l, i) in levels" :key="l.field" :class="{ on: i === level }">
          <b>{{ l.label }}</b> <span class="muted">{{ l.tableLabel }}</span>
          <div>
            {{ l.summary.rows.toLocaleString(LOCALE) }} rows<template v-if="l.summary.offered !== l.summary.rows"
              >, {{ l.summary.offered.toLocaleString(LOCALE) }} offered</template
            >
          </div>
          <template v-if="i > 0">
            <button class="word light" :class="{ bad: l.summary.gaps }" type="button" @click="follow(i - 1, 'gaps')">
              {{ l.summary.gaps.toLocaleString(LOCALE) }} of {{ l.summary.parents.toLocaleString(LOCALE) }} above have none
            </button>
            <button class="word light" type="button" @click="follow(i - 1, 'singles')">
              {{ l.summary.singles.toLocaleString(LOCALE) }} have one
            </button>
            <button class="word light" :class="{ bad: l.summary.orphans }" type="button" @click="follow(i, 'orphans')">
              {{ l.summary.orphans.toLocaleString(LOCALE) }} hang on nothing
            </button>
          </template>
        </li>
      </ol>
      <section v-if="levels.length" class="walk">
        <p class="crumbs">
          <button class="word light" type="button" @click="home">all {{ levels[0]?.tableLabel }}</button>
          <template v-for="(p, i) in path" :key="i">
            ›
            <button class="word light" type="button" @click="((path = path.slice(0, i + 1)), (only = 'all'))">
              {{ p.text }}
            </button></template
          >
          <span v-if="only !== 'all'" class="chip flow">{{
            only === 'gaps'
              ? `${levels[level]?.tableLabel} with no ${below?.label} offered`
              : only === 'singles'
                ? `${levels[level]?.tableLabel} with one ${below?.label}`
                : `${levels[level]?.tableLabel} that hang on nothing`
          }}</span>
          <span class="muted"
            >{{ total.toLocaleString(LOCALE) }} {{ total === 1 ? 'row' : 'rows' }} of {{ levels[level]?.tableLabel
            }}{{ rows.length < total ? `, the first ${rows.length} shown` : '' }}</span
          >
        </p>
        <div class="two">
          <div v-if="barRows.length" class="chart" aria-hidden="true">
            <VChart
              :option="option"
              autoresize
              :style="{ height: `${Math.max(60, barRows.length * 22 + 8)}px` }"
              @click="(p: { dataIndex: number }) => barRows[p.dataIndex] && go(barRows[p.dataIndex]!)"
            />
          </div>
          <table class="plainTable">
            <thead>
              <tr>
                <th>{{ levels[level]?.label }}</th>
                <th v-if="below" class="num">{{ below.label }}: offered</th>
                <th v-if="below" class="num">all</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="r in rows" :key="r.id">
                <td>
                  <button v-if="below" class="word light" type="button" @click="go(r)">{{ rowText(r) }}</button><template v-else>{{
                    rowText(r)
                  }}</template>
                  <span v-if="!r.offered" class="muted"> (not offered)</span>
                </td>
                <td v-if="below" class="num" :class="{ bad: r.childrenOffered === 0 }">
                  {{ r.childrenOffered === 0 ? 'none' : r.childrenOffered?.toLocaleString(LOCALE) }}
                </td>
                <td v-if="below" class="num">{{ r.children?.toLocaleString(LOCALE) }}</td>
              </tr>
              <tr v-if="!rows.length && !reading">
                <td :colspan="3" class="muted">Nothing here.</td>
              </tr>
            </tbody>
          </table>
        </div>
      </section>
      <section class="block">
        <h2>Names that differ only in spelling</h2>
        <p v-if="!coverage.spellings.length" class="muted">None found.</p>
        <table v-else class="plainTable spellings">
          <thead>
            <tr>
              <th>Where</th>
              <th>Written as</th>
              <th>Keep</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="g in coverage.spellings" :key="g.table + g.column + g.spelled[0]?.text">
              <td>{{ g.tableLabel }}, {{ g.columnLabel }}</td>
              <td>
                <span v-for="s in g.spelled" :key="s.text" class="spelled"
                  ><code>{{ s.text }}</code> <span class="muted">{{ s.count.toLocaleString(LOCALE) }}×</span></span
                >
              </td>
              <td>
                <button
                  v-for="s in g.spelled"
                  :key="s.text"
                  class="btn small"
                  type="button"
                  @click="g.kind === 'values' ? respell(g, s.text) : merge(g, s)"
                >
                  “{{ s.text }}”
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="coverage.notLooked.length" class="muted">
          Too large to be looked through for spellings: {{ coverage.notLooked.join(', ') }}.
        </p>
      </section>
    </template>
  </div>
</template>

<style scoped>
.wide {
  max-width: none;
}
.tabs {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
  margin-bottom: 14px;
}
.tabs .on {
  background: var(--act-wash);
  border-color: var(--act);
}
.levels {
  display: flex;
  gap: 12px;
  margin: 0 0 16px;
  padding: 0;
  list-style: none;
  flex-wrap: wrap;
}
.levels li {
  border-left: 3px solid var(--line-strong);
  padding: 2px 12px;
  display: grid;
  align-content: start;
  justify-items: start;
  gap: 2px;
  font-size: 13px;
  min-width: 170px;
}
.levels li.on {
  border-color: var(--flow);
  background: var(--flow-wash);
}
.crumbs {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
  margin-bottom: 8px;
}
.crumbs > :last-child {
  margin-left: auto;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1.1fr) minmax(0, 1fr);
  gap: 24px;
  align-items: start;
  max-height: 420px;
  overflow: auto;
  border-top: 1px solid var(--line);
  padding-top: 6px;
}
.block {
  padding-top: 20px;
}
.spelled {
  margin-right: 14px;
}
.spelled code {
  white-space: pre;
  background: var(--ground-3);
  padding: 1px 4px;
}
.spellings .btn {
  margin-right: 6px;
  white-space: pre;
}
</style>
