<script setup lang="ts">
import { keyFromLabel } from '~~/core/form/tables.ts';
import {
  type ImportCheck,
  type ImportColumn,
  type ImportGuess,
  type PackageLook,
  type Repairs,
  importTarget,
} from '~/components/tables/importTypes';

/* From a file to a table in three looks: the file, the columns, what does not fit. */
const route = useRoute();
const tables = shallowRef(await fetchTables().catch(() => []));
const job = useJob();
const upload = shallowRef<{ id: string; name: string } | null>(null);
const guess = ref<ImportGuess | null>(null);
const pack = shallowRef<PackageLook | null>(null);
const check = shallowRef<ImportCheck | null>(null);
const repairs = ref<Repairs>({});
const open = ref(0);
const into = ref<string | null>(tables.value.some((t) => t.key === route.query.into) ? String(route.query.into) : null);
const match = ref<string | null>(null);
const problem = ref('');
const sending = ref(false);
interface Made {
  readonly key: string;
  readonly label: string;
  readonly rows: number;
  readonly words: string;
}
const done = shallowRef<readonly Made[] | null>(null);
const over = ref(false);
useHead({ title: 'Bring in a file · Brisk Acorn' });

const ownTables = computed(() => tables.value.filter((t) => t.key !== 'people'));
const target = computed(() => tables.value.find((t) => t.key === into.value) ?? null);
const label = (key: string | null): string => tables.value.find((t) => t.key === key)?.label ?? key ?? '';
const columnLabel = (key: string): string => guess.value?.columns.find((c) => c.key === key)?.label ?? key;
const targetLabel = (key: string): string => {
  const column = guess.value?.columns.find((c) => c.key === key);
  return column ? label(importTarget(column)) : '';
};
const count = (n: number, one: string, many: string): string => `${n.toLocaleString(LOCALE)} ${n === 1 ? one : many}`;

async function attempt<T>(work: () => Promise<T | null>): Promise<T | null> {
  problem.value = '';
  try {
    return await work();
  } catch (e) {
    problem.value = messageOf(e);
    return null;
  }
}
async function take(file: File | undefined): Promise<void> {
  over.value = false;
  if (!file) return;
  again();
  sending.value = true;
  upload.value = await attempt(() => sendBody<{ id: string; name: string }>('uploads', file));
  sending.value = false;
  await read();
}
/** Looks at the file: for a new table, or for the columns of an existing one. */
async function read(): Promise<void> {
  guess.value = check.value = pack.value = null;
  match.value = null;
  repairs.value = {};
  if (!upload.value) return;
  // a table that was just brought in can be linked to
  tables.value = await fetchTables().catch(() => tables.value);
  const body = { upload: upload.value.id, into: into.value };
  const found = await attempt(() => job.run<Omit<ImportGuess, 'columns'> & { columns: Omit<ImportColumn, 'take'>[]; package?: PackageLook }>('imports/guess', body)); // prettier-ignore
  if (!found) return;
  if (found.package) {
    pack.value = found.package;
    return;
  }
  guess.value = { ...found, columns: found.columns.map((c) => ({ ...c, take: into.value === null || c.known })) };
  await look();
}
const plan = () => {
  const g = guess.value!;
  return {
    key: g.key,
    label: g.label,
    shown: g.shown,
    repairs: repairs.value,
    into: into.value,
    match: match.value,
    columns: g.columns.map((c) => (c.take ? { key: c.key, label: c.label, type: c.type, target: importTarget(c) } : null)),
  };
};
async function look(): Promise<void> {
  const g = guess.value;
  check.value = null;
  if (!g || !upload.value) return;
  const taken = g.columns.filter((c) => c.take);
  if (!taken.length || taken.some((c) => (c.type === 'link' || c.type === 'links') && !c.target)) return;
  if (match.value && !taken.some((c) => c.key === match.value)) match.value = null;
  const body = { plan: plan(), upload: upload.value.id };
  check.value = await attempt(() => job.run<ImportCheck>('imports/check', body));
}
function rename(g: ImportGuess): void {
  g.key = keyFromLabel(g.label, tables.value.map((t) => t.key)); // prettier-ignore
}
async function bringIn(): Promise<void> {
  const body = { plan: plan(), upload: upload.value!.id };
  const result = await attempt(() => job.run<{ table: string; rows: number; added: number; changed: number }>('imports', body));
  if (!result) return;
  const words = result.changed
    ? `${count(result.added, 'row', 'rows')} added, ${count(result.changed, 'row', 'rows')} changed in`
    : `${count(result.added, 'row', 'rows')} brought into`;
  done.value = [{ key: result.table, label: guess.value!.label, rows: result.rows, words }];
}
async function bringInPackage(): Promise<void> {
  const result = await attempt(() => job.run<{ tables: { key: string; label: string; rows: number }[] }>('imports/package', { upload: upload.value!.id })); // prettier-ignore
  if (result) done.value = result.tables.map((t) => ({ ...t, words: `${count(t.rows, 'row', 'rows')} in` }));
}
function again(): void {
  guess.value = check.value = pack.value = done.value = upload.value = null;
  problem.value = '';
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
      <p v-for="t in done" :key="t.key">
        <b>{{ t.words }}</b> <NuxtLink :to="`/design/tables/${t.key}`">{{ t.label }}</NuxtLink>.
      </p>
      <button class="word" type="button" @click="again">Bring in another file</button>
    </div>
    <label
      v-else-if="!guess && !pack"
      class="dropzone"
      :class="{ over }"
      @dragover.prevent="over = true"
      @dragleave="over = false"
      @drop.prevent="take($event.dataTransfer?.files[0])"
    >
      <i class="pi pi-upload" aria-hidden="true" />
      <span><b>Choose a file</b> or drop it here: CSV, XLSX, JSON, or a data package (ZIP).</span>
      <span class="muted"
        >The first line names the columns. CSV is read as UTF-8, with comma, semicolon, tab or bar between values. Bring in parents before
        their children, so that links find their rows; a data package does so by itself.</span
      >
      <input
        class="sr"
        type="file"
        accept=".csv,.tsv,.txt,.json,.xlsx,.zip,text/csv"
        aria-label="File to bring in"
        @change="take(($event.target as HTMLInputElement).files?.[0])"
      />
      <span v-if="sending" role="status">Sending…</span>
      <JobProgress v-else-if="job.running.value" :progress="job.progress.value" :doing="job.doing.value" @cancel="job.cancel" />
    </label>
    <template v-else-if="pack">
      <p class="muted">{{ upload?.name }} <button class="word light" type="button" @click="again">another file</button></p>
      <table class="plainTable">
        <thead>
          <tr>
            <th>Table that is made</th>
            <th>Name in formulas</th>
            <th class="num">Columns</th>
            <th>Links to</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="t in pack.tables" :key="t.key">
            <td>
              <b>{{ t.label }}</b>
            </td>
            <td>
              <code>{{ t.key }}</code>
            </td>
            <td class="num">{{ t.columns }}</td>
            <td>{{ t.links.join(', ') || '–' }}</td>
          </tr>
        </tbody>
      </table>
      <footer class="row">
        <JobProgress v-if="job.running.value" :progress="job.progress.value" :doing="job.doing.value" @cancel="job.cancel" />
        <button v-else class="btn act" type="button" @click="bringInPackage">
          Bring in {{ count(pack.tables.length, 'table', 'tables') }}
        </button>
        <span class="muted">All of it is written, or nothing.</span>
      </footer>
    </template>
    <template v-else-if="guess">
      <section class="head">
        <label
          ><span class="label">Rows go into</span
          ><select v-model="into" class="in" @change="read">
            <option :value="null">a new table</option>
            <option v-for="t in ownTables" :key="t.key" :value="t.key">{{ t.label }}</option>
          </select></label
        >
        <template v-if="!target">
          <label><span class="label">Label</span><input v-model="guess.label" class="in" @change="rename(guess)" /></label>
          <label><span class="label">Name in formulas</span><input v-model="guess.key" class="in mono" @change="look" /></label>
          <label
            ><span class="label">Rows are known by</span
            ><select v-model="guess.shown" class="in">
              <option v-for="c in guess.columns.filter((x) => x.take)" :key="c.key" :value="c.key">{{ c.label }}</option>
            </select></label
          >
        </template>
        <label v-else
          ><span class="label">Rows that are there</span
          ><select v-model="match" class="in" @change="look">
            <option :value="null">stay as they are: all lines are added</option>
            <option v-for="c in guess.columns.filter((x) => x.take)" :key="c.key" :value="c.key">
              are changed where {{ c.label }} is the same
            </option>
          </select></label
        >
      </section>
      <p class="muted">
        {{ upload?.name }}: {{ count(guess.rows, 'row', 'rows') }}.
        <button class="word light" type="button" @click="again">another file</button>
      </p>
      <ImportColumns :columns="guess.columns" :rows="guess.rows" :tables="tables" :into="target" @changed="look" />
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
      <ImportRepairs
        v-if="check"
        v-model:open="open"
        v-model:repairs="repairs"
        :unmatched="check.unmatched"
        :label="columnLabel"
        :target="targetLabel"
      />
      <footer class="row">
        <JobProgress v-if="job.running.value" :progress="job.progress.value" :doing="job.doing.value" @cancel="job.cancel" />
        <button v-else class="btn act" type="button" :disabled="!check || !!check.badCount || open > 0" @click="bringIn">
          Bring in {{ count(guess.rows, 'row', 'rows') }}
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
  display: flex;
  flex-wrap: wrap;
  gap: 16px;
  align-items: end;
  margin-bottom: 4px;
}
.head label {
  min-width: 190px;
}
.block {
  padding: 18px 0 0;
}
.bads {
  padding: 6px 0;
  display: grid;
  gap: 2px;
}
.note.good {
  background: var(--act-wash);
  border-color: var(--act);
}
footer {
  padding-top: 18px;
}
</style>
