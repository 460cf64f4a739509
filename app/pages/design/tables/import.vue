<script setup lang="ts">
import { COLUMN_TYPES, COLUMN_TYPE_LABELS, type ColumnType, keyFromLabel } from '~~/core/form/tables.ts';

/* From a file to a table in three looks: the file, the columns, what does not fit. */
interface Guess {
  label: string;
  key: string;
  shown: string | null;
  columns: {
    header: string;
    key: string;
    label: string;
    type: ColumnType;
    target: string | null;
    examples: string[];
    filled: number;
    distinct: number;
    take: boolean;
  }[];
  rows: number;
}
interface Named {
  readonly id: number;
  readonly text: string;
}
interface Unmatched {
  readonly value: string;
  readonly count: number;
  readonly firstLine: number;
  readonly near: readonly Named[];
}
interface Check {
  readonly rows: number;
  readonly bad: readonly { line: number; column: string; text: string; message: string }[];
  readonly badCount: number;
  readonly unmatched: Readonly<Record<string, readonly Unmatched[]>>;
}
type Repair = { to: number } | { empty: true } | { add: true };

const tables = await fetchTables().catch(() => []);
const text = ref('');
const fileName = ref('');
const guess = ref<Guess | null>(null);
const check = shallowRef<Check | null>(null);
const repairs = reactive<Record<string, Record<string, Repair>>>({});
const problem = ref('');
const busy = ref(false);
const done = shallowRef<{ table: string; rows: number } | null>(null);
const over = ref(false);
useHead({ title: 'Bring in a file · Brisk Acorn' });

const types = COLUMN_TYPES.filter((t) => t !== 'choice');
const linkable = computed(() => tables.filter((t) => t.shown));
const label = (key: string | null): string => tables.find((t) => t.key === key)?.label ?? key ?? '';
const targetOf = (c: { type: ColumnType; target: string | null }): string | null =>
  c.type === 'person' ? 'people' : c.type === 'link' ? c.target : null;

async function attempt<T>(work: () => Promise<T>): Promise<T | null> {
  busy.value = true;
  problem.value = '';
  try {
    return await work();
  } catch (e) {
    problem.value = messageOf(e);
    return null;
  } finally {
    busy.value = false;
  }
}
async function take(file: File | undefined): Promise<void> {
  over.value = false;
  if (!file) return;
  if (file.size > 30_000_000) {
    problem.value = 'The file is larger than 30 MB. Split it, or import it in parts.';
    return;
  }
  await readText(file.name, await file.text());
}
async function readText(name: string, content: string): Promise<void> {
  fileName.value = name;
  text.value = content;
  guess.value = null;
  check.value = null;
  for (const key of Object.keys(repairs)) Reflect.deleteProperty(repairs, key);
  const found = await attempt(() => api<Guess>('imports/guess', { body: { name, text: content } }));
  if (found) {
    found.columns = found.columns.map((c) => ({ ...c, take: true }));
    guess.value = found;
    await look();
  }
}
const plan = () => {
  const g = guess.value!;
  return {
    key: g.key,
    label: g.label,
    shown: g.shown,
    repairs,
    columns: g.columns.map((c) => (c.take ? { key: c.key, label: c.label, type: c.type, target: targetOf(c) } : null)),
  };
};
async function look(): Promise<void> {
  const g = guess.value;
  if (!g || g.columns.some((c) => c.take && c.type === 'link' && !c.target)) {
    check.value = null;
    return;
  }
  const found = await attempt(() => api<Check>('imports/check', { body: { plan: plan(), text: text.value } }));
  if (found) check.value = found;
}
function retype(c: Guess['columns'][number], type: ColumnType): void {
  c.type = type;
  if (type !== 'link') c.target = null;
  void look();
}
function rename(g: Guess): void {
  g.key = keyFromLabel(
    g.label,
    tables.map((t) => t.key),
  );
}
const columnLabel = (key: string): string => guess.value?.columns.find((c) => c.key === key)?.label ?? key;
function repair(column: string, value: string, choice: string): void {
  const all = (repairs[column] ??= {});
  if (choice === '') Reflect.deleteProperty(all, value);
  else all[value] = choice === 'empty' ? { empty: true } : choice === 'add' ? { add: true } : { to: Number(choice) };
}
const repairOf = (column: string, value: string): string => {
  const r = repairs[column]?.[value];
  return !r ? '' : 'to' in r ? String(r.to) : 'empty' in r ? 'empty' : 'add';
};
/** All unmatched values as first seen, repaired or not: a repaired line stays where it is. */
const open = computed(() =>
  Object.entries(check.value?.unmatched ?? {}).reduce((n, [column, list]) => n + list.filter((u) => !repairOf(column, u.value)).length, 0),
);
const unmatchedCount = computed(() => Object.values(check.value?.unmatched ?? {}).reduce((n, list) => n + list.length, 0));
function takeNearest(): void {
  for (const [column, list] of Object.entries(check.value?.unmatched ?? {}))
    for (const u of list) if (!repairOf(column, u.value) && u.near[0]) repair(column, u.value, String(u.near[0].id));
}
async function bringIn(): Promise<void> {
  const result = await attempt(() => api<{ table: string; rows: number }>('imports', { body: { plan: plan(), text: text.value } }));
  if (result) done.value = result;
}
function again(): void {
  guess.value = check.value = done.value = null;
  text.value = problem.value = '';
}
</script>

<template>
  <div class="page">
    <Teleport to="#bar-place"
      ><span class="muted"><NuxtLink to="/design/tables">Tables</NuxtLink> ›</span> <b>Bring in a file</b></Teleport
    >
    <header><h1>Bring in a file</h1></header>
    <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
    <div v-if="done" class="note good" role="status">
      <p>
        <b>{{ done.rows.toLocaleString(LOCALE) }} rows</b> are in {{ guess?.label }}.
        <NuxtLink :to="`/design/tables/${done.table}`">Look at them</NuxtLink> or
        <button class="word" type="button" @click="again">bring in another file</button>.
      </p>
    </div>
    <label
      v-else-if="!guess"
      class="dropzone"
      :class="{ over }"
      @dragover.prevent="over = true"
      @dragleave="over = false"
      @drop.prevent="take($event.dataTransfer?.files[0])"
    >
      <i class="pi pi-upload" aria-hidden="true" />
      <span><b>Choose a CSV file</b> or drop it here.</span>
      <span class="muted"
        >UTF-8, first line names the columns; comma, semicolon, tab or bar between values. Bring in parents before their children, so that
        links find their rows.</span
      >
      <input
        class="sr"
        type="file"
        accept=".csv,.tsv,.txt,text/csv"
        aria-label="CSV file"
        @change="take(($event.target as HTMLInputElement).files?.[0])"
      />
      <span v-if="busy" role="status">Reading {{ fileName }}…</span>
    </label>
    <template v-else>
      <section class="head">
        <label><span class="label">Table</span><input v-model="guess.label" class="in" @change="rename(guess)" /></label>
        <label><span class="label">Name in formulas</span><input v-model="guess.key" class="in mono" @change="look" /></label>
        <label
          ><span class="label">Rows are known by</span
          ><select v-model="guess.shown" class="in">
            <option v-for="c in guess.columns.filter((x) => x.take)" :key="c.key" :value="c.key">{{ c.label }}</option>
          </select></label
        >
        <p class="muted">
          {{ fileName }}: {{ guess.rows.toLocaleString(LOCALE) }} rows.
          <button class="word light" type="button" @click="again">another file</button>
        </p>
      </section>
      <table class="plainTable columns">
        <thead>
          <tr>
            <th><span class="sr">Take</span></th>
            <th>In the file</th>
            <th>Label</th>
            <th>Name</th>
            <th>Holds</th>
            <th>For example</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in guess.columns" :key="c.header" :class="{ out: !c.take }">
            <td><input v-model="c.take" type="checkbox" :aria-label="`Take ${c.header}`" @change="look" /></td>
            <td>
              <code>{{ c.header }}</code>
            </td>
            <td><input v-model="c.label" class="in" :aria-label="`Label of ${c.header}`" :disabled="!c.take" /></td>
            <td><input v-model="c.key" class="in mono" :aria-label="`Name of ${c.header}`" :disabled="!c.take" @change="look" /></td>
            <td>
              <div class="row">
                <select
                  class="in"
                  :value="c.type"
                  :aria-label="`Type of ${c.header}`"
                  :disabled="!c.take"
                  @change="retype(c, ($event.target as HTMLSelectElement).value as ColumnType)"
                >
                  <option v-for="t in types" :key="t" :value="t">{{ COLUMN_TYPE_LABELS[t] }}</option>
                </select>
                <select
                  v-if="c.type === 'link'"
                  v-model="c.target"
                  class="in"
                  :class="{ missing: !c.target }"
                  :aria-label="`Table ${c.header} links to`"
                  @change="look"
                >
                  <option :value="null" disabled>of which table?</option>
                  <option v-for="t in linkable" :key="t.key" :value="t.key">of {{ t.label }}</option>
                </select>
              </div>
            </td>
            <td class="muted examples">
              {{ c.examples.join(' · ')
              }}<template v-if="c.filled < guess.rows"> ({{ (guess.rows - c.filled).toLocaleString(LOCALE) }} empty)</template>
            </td>
          </tr>
        </tbody>
      </table>
      <section v-if="check?.badCount" class="block">
        <h2>{{ check.badCount }} {{ check.badCount === 1 ? 'value does' : 'values do' }} not convert</h2>
        <p class="muted">Choose another type for the column, mend the file, or leave the column out.</p>
        <ul class="bads">
          <li v-for="b in check.bad.slice(0, 12)" :key="b.line + b.column">
            <b>line {{ b.line }}</b
            >, {{ columnLabel(b.column) }}: {{ b.message }}
          </li>
        </ul>
      </section>
      <section v-if="unmatchedCount" class="block">
        <div class="row spread">
          <h2>{{ unmatchedCount }} {{ unmatchedCount === 1 ? 'value names' : 'values name' }} no row, {{ open }} still open</h2>
          <button class="btn small" type="button" :disabled="!open" @click="takeNearest">Take the nearest spelling for all</button>
        </div>
        <template v-for="(list, column) in check?.unmatched" :key="column">
          <table v-if="list.length" class="plainTable">
            <thead>
              <tr>
                <th>{{ columnLabel(String(column)) }} in the file</th>
                <th class="num">Lines</th>
                <th>Means</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="u in list" :key="u.value" :class="{ mended: repairOf(String(column), u.value) }">
                <td>
                  <code class="value">{{ u.value }}</code> <span class="muted">line {{ u.firstLine + 1 }}</span>
                </td>
                <td class="num">{{ u.count }}</td>
                <td class="means">
                  <button
                    v-if="u.near[0] && !repairOf(String(column), u.value)"
                    class="word"
                    type="button"
                    @click="repair(String(column), u.value, String(u.near[0].id))"
                  >
                    {{ u.near[0].text }}?
                  </button>
                  <select
                    class="in"
                    :value="repairOf(String(column), u.value)"
                    :aria-label="`What “${u.value}” means`"
                    @change="repair(String(column), u.value, ($event.target as HTMLSelectElement).value)"
                  >
                    <option value="">choose…</option>
                    <option v-for="n in u.near" :key="n.id" :value="String(n.id)">{{ n.text }}</option>
                    <option value="empty">leave it empty</option>
                    <option value="add">a new row of {{ label(targetOf(guess!.columns.find((c) => c.key === column)!)) }}</option>
                  </select>
                </td>
              </tr>
            </tbody>
          </table>
        </template>
      </section>
      <footer class="row">
        <button class="btn act" type="button" :disabled="busy || !check || !!check.badCount || open > 0" @click="bringIn">
          {{ busy ? 'Working…' : `Bring in ${guess.rows.toLocaleString(LOCALE)} rows` }}
        </button>
        <span class="muted">{{ check && !check.badCount && !open ? 'Everything fits.' : 'All of it is written, or nothing.' }}</span>
      </footer>
    </template>
  </div>
</template>

<style scoped>
.dropzone {
  display: grid;
  gap: 8px;
  justify-items: center;
  text-align: center;
  border: 2px dashed var(--line-strong);
  border-radius: 6px;
  padding: 56px 24px;
  cursor: pointer;
  max-width: 760px;
}
.dropzone .pi {
  font-size: 26px;
  color: var(--act);
}
.dropzone.over,
.dropzone:focus-within {
  border-color: var(--flow);
  background: var(--flow-wash);
}
.head {
  display: grid;
  grid-template-columns: 220px 200px 200px 1fr;
  gap: 16px;
  align-items: end;
  margin-bottom: 12px;
}
.columns .in {
  min-width: 110px;
}
.examples {
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.out {
  opacity: 0.55;
}
.missing {
  border-color: var(--bad);
}
.block {
  padding: 18px 0 0;
}
.means {
  display: grid;
  grid-template-columns: 180px 1fr;
  gap: 12px;
  align-items: center;
}
.means select {
  grid-column: 2;
}
.bads {
  padding: 6px 0;
  display: grid;
  gap: 2px;
}
.value {
  white-space: pre;
  background: var(--ground-3);
  padding: 1px 4px;
}
.mended {
  background: var(--act-wash);
}
.note.good {
  background: var(--act-wash);
  border-color: var(--act);
}
footer {
  padding-top: 18px;
}
</style>
