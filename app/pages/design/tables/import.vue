<script setup lang="ts">
import { SELF } from '~~/core/exchange/match.ts';
import { contract } from '~~/core/contract/index.ts';
import { keyFromLabel, namesTable, targetOf } from '~~/core/model/tables.ts';
import { type ImportCheck, type ImportGuess, type PackageLook, type Repairs } from '~/components/tables/importTypes';

/* From a file to a table in three looks: the file, the columns, what does not fit. */
const route = useRoute();
const asked = useTables();
await asked.refresh();
const tables = computed(() => asked.data.value ?? []);
const job = useJob('importing');
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
useHead({ title: 'Import a file · Brisk Acorn' });

const ownTables = computed(() => tables.value.filter((t) => t.key !== 'people'));
const target = computed(() => tables.value.find((t) => t.key === into.value) ?? null);
const destinations = computed(() => [
  { value: null, label: 'a new table' },
  ...ownTables.value.map((t) => ({ value: t.key, label: t.label })),
]);
const taken = computed(() =>
  (guess.value?.columns ?? []).filter((c) => c.take).map((c) => ({ value: c.key as string | null, label: c.label })),
);
const matches = computed(() => [
  { value: null, label: 'stay as they are: every line is added' },
  ...taken.value.map((c) => ({ value: c.value, label: `are updated where ${c.label} is the same` })),
]);
const label = (key: string | null): string => tables.value.find((t) => t.key === key)?.label ?? key ?? '';
const columnLabel = (key: string): string => guess.value?.columns.find((c) => c.key === key)?.label ?? key;
const targetKey = (key: string): string | null => {
  const column = guess.value?.columns.find((c) => c.key === key);
  const found = column ? targetOf(column) : null;
  return found === SELF ? null : found;
};
const targetLabel = (key: string): string => (targetKey(key) === null ? (guess.value?.label ?? '') : label(targetKey(key)));
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
async function take(file: File): Promise<void> {
  again();
  sending.value = true;
  upload.value = await attempt(() => sendBody(contract.imports.upload, file));
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
  await asked.refetch();
  const body = { upload: upload.value.id, into: into.value };
  const found = await attempt(() => job.run(() => api.imports.guess(body)));
  if (!found) return;
  if ('package' in found) {
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
    columns: g.columns.map((c) => (c.take ? { key: c.key, label: c.label, type: c.type, target: targetOf(c), by: [...c.by] } : null)),
  };
};
async function look(): Promise<void> {
  const g = guess.value;
  check.value = null;
  if (!g || !upload.value) return;
  const taken = g.columns.filter((c) => c.take);
  if (!taken.length || taken.some((c) => namesTable(c.type) && !c.target)) return;
  if (match.value && !taken.some((c) => c.key === match.value)) match.value = null;
  const body = { plan: plan(), upload: upload.value.id };
  check.value = await attempt(() => job.run(() => api.imports.check(body)));
}
function rename(g: ImportGuess): void {
  g.key = keyFromLabel(g.label, tables.value.map((t) => t.key)); // prettier-ignore
}
async function bringIn(): Promise<void> {
  const body = { plan: plan(), upload: upload.value!.id };
  const result = await attempt(() => job.run(() => api.imports.run(body)));
  if (!result) return;
  const words = result.changed
    ? `${count(result.added, 'row', 'rows')} added, ${count(result.changed, 'row', 'rows')} changed in`
    : `${count(result.added, 'row', 'rows')} imported into`;
  done.value = [{ key: result.table, label: guess.value!.label, rows: result.rows, words }];
}
async function bringInPackage(): Promise<void> {
  const result = await attempt(() => job.run(() => api.imports.package({ upload: upload.value!.id })));
  if (result) done.value = result.tables.map((t) => ({ ...t, words: `${count(t.rows, 'row', 'rows')} in` }));
}
/** the table that was just made of a file: what it could become is offered at once */
const fresh = computed(() => (done.value?.length === 1 && into.value === null && done.value[0]!.rows >= 20 ? done.value[0]! : null));
const making = ref(false);
async function makeForm(table: Made): Promise<void> {
  making.value = true;
  const made = await attempt(() => api.forms.make({ label: table.label, table: table.key, fields: true }));
  making.value = false;
  if (made) await navigateTo(`/design/forms/${made.key}/records-say`);
}
function again(): void {
  guess.value = check.value = pack.value = done.value = upload.value = null;
  problem.value = '';
}
</script>

<template>
  <div class="page">
    <PlaceTrail :above="[{ label: 'Tables', to: '/design/tables' }]" here="Import a file" />
    <header><h1>Import a file</h1></header>
    <Note v-if="problem" kind="bad">{{ problem }}</Note>
    <Note v-if="done" kind="good">
      <p v-for="t in done" :key="t.key">
        <b>{{ t.words }}</b> <NuxtLink :to="`/design/tables/${t.key}`">{{ t.label }}</NuxtLink>.
      </p>
      <Button link @click="again">Import another file</Button>
    </Note>
    <template v-if="done && fresh">
      <TogetherPanel class="next" :table="fresh.key" quiet />
      <section class="next">
        <h2>From records to a form</h2>
        <p>A form with a field for each column of {{ fresh.label }}; what its rows say of how fields fill and narrow is proposed for it.</p>
        <p class="row"><Button :disabled="making" label="Make a form of it" @click="makeForm(fresh)" /></p>
      </section>
    </template>
    <FileDrop
      v-if="!done && !guess && !pack"
      v-slot="{ choose }"
      class="dropzone"
      label="File to import"
      accept=".csv,.tsv,.txt,.json,.xlsx,.zip,text/csv"
      @file="take"
    >
      <div class="drop">
        <i class="pi pi-upload" aria-hidden="true" />
        <span
          ><Button severity="secondary" label="Choose a file" @click="choose" /> or drop it here: CSV, XLSX, JSON, or a data package
          (ZIP).</span
        >
        <span class="muted"
          >The first line names the columns. CSV is read as UTF-8, with comma, semicolon, tab or bar between values. Import parents before
          their children, so that links find their rows; a data package does so by itself.</span
        >
        <span v-if="sending" role="status">Sending…</span>
        <JobProgress v-else-if="job.running.value" :progress="job.progress.value" :doing="job.doing.value" @cancel="job.cancel" />
      </div>
    </FileDrop>
    <template v-else-if="!done && pack">
      <p class="muted">{{ upload?.name }} <Button link severity="secondary" @click="again">another file</Button></p>
      <DataTable :value="[...pack.tables]" data-key="key">
        <Column v-memo="[]" header="Table that is made"
          ><template #body="{ data: t }"
            ><b>{{ t.label }}</b></template
          ></Column
        >
        <Column v-memo="[]" header="Name in formulas"
          ><template #body="{ data: t }"
            ><code>{{ t.key }}</code></template
          ></Column
        >
        <Column v-memo="[]" header="Columns" field="columns" class="num" />
        <Column v-memo="[]" header="Links to"
          ><template #body="{ data: t }">{{ t.links.join(', ') || '–' }}</template></Column
        >
      </DataTable>
      <footer class="row">
        <JobProgress v-if="job.running.value" :progress="job.progress.value" :doing="job.doing.value" @cancel="job.cancel" />
        <Button v-else @click="bringInPackage"> Import {{ count(pack.tables.length, 'table', 'tables') }} </Button>
        <span class="muted">Either everything is imported, or nothing.</span>
      </footer>
    </template>
    <template v-else-if="!done && guess">
      <section class="head">
        <div>
          <span class="label" aria-hidden="true">Import into</span>
          <PickOne v-model="into" label="Import into" :options="destinations" @update:model-value="read" />
        </div>
        <template v-if="!target">
          <label><span class="label">Label</span><InputText v-model="guess.label" @change="rename(guess)" /></label>
          <label><span class="label">Name in formulas</span><InputText v-model="guess.key" class="mono" @change="look" /></label>
          <div>
            <span class="label" aria-hidden="true">Rows are called by</span>
            <PickOne v-model="guess.shown" label="Rows are called by" :options="taken" />
          </div>
        </template>
        <div v-else>
          <span class="label" aria-hidden="true">Existing rows</span>
          <PickOne v-model="match" label="Existing rows" :options="matches" @update:model-value="look" />
        </div>
      </section>
      <p class="muted">
        {{ upload?.name }}: {{ count(guess.rows, 'row', 'rows') }}.
        <Button link severity="secondary" @click="again">another file</Button>
      </p>
      <ImportColumns :columns="guess.columns" :rows="guess.rows" :tables="tables" :into="target" @changed="look" />
      <section v-if="check?.badCount" class="block">
        <h2>{{ check.badCount }} {{ check.badCount === 1 ? 'value does' : 'values do' }} not convert</h2>
        <p class="muted">Choose another type for the column, correct the file, or leave the column out.</p>
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
        :table="targetKey"
      />
      <footer class="row">
        <JobProgress v-if="job.running.value" :progress="job.progress.value" :doing="job.doing.value" @cancel="job.cancel" />
        <Button v-else :disabled="!check || !!check.badCount || open > 0" @click="bringIn">
          Import {{ count(guess.rows, 'row', 'rows') }}
        </Button>
        <span class="muted">{{
          check && !check.badCount && !open ? 'Everything matches.' : 'Either everything is imported, or nothing.'
        }}</span>
      </footer>
    </template>
  </div>
</template>

<style scoped>
.drop {
  max-width: 760px;
  display: grid;
  gap: 8px;
  justify-items: center;
  text-align: center;
  border: 2px dashed var(--line-strong);
  border-radius: 6px;
  padding: 56px 24px;
}
.drop > .pi {
  font-size: 26px;
  color: var(--act);
}
.dropzone :deep(.p-fileupload-highlight) .drop {
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
.head > * {
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
.next {
  max-width: 760px;
  padding-top: 14px;
}
footer {
  padding-top: 18px;
}
</style>
