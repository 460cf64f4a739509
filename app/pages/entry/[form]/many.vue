<script setup lang="ts">
import { useDebounceFn, useSessionStorage } from '@vueuse/core';
import { type SheetField, cellsOf, sheetOf } from '~/components/records/sheetText';
import { MOST_AT_ONCE } from '~~/core/contract/limits.ts';
import type { Result } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import { contract as routes } from '~~/core/contract/index.ts';
import type { PlanField } from '~~/core/engine/plan.ts';

/* Rows of a sheet entered through a form: what fills in and what is wrong is seen first, mended in place, then saved. */
const route = useRoute();
const key = String(route.params.form);
type Tried = Result<typeof contract.many.rows>['rows'][number];
interface SheetRow {
  readonly number: number;
  readonly texts: readonly string[];
  /** by this key it is saved once, however often it is sent */
  readonly request: string;
  readonly tried: Tried | null;
  /** said when it was to be saved */
  readonly said: Tried['wrong'];
}
const host = useEntryHost((wants) => api.entries.wants({ key }, { version: version.value, wants: [...wants] }));
const version = ref(0);
const label = ref(key);
const failed = ref('');
async function open(): Promise<void> {
  failed.value = '';
  try {
    const opened = await api.entries.begin({ key }, {});
    [version.value, label.value] = [opened.version, opened.form.label];
    host.open(openedPlan(opened), { ...opened.context, url: {}, mode: 'new' }, null, opened.answered);
  } catch (e) {
    failed.value = messageOf(e);
  }
}
await open();
const byKey = computed(() => new Map((host.entry.value?.plan.own ?? []).map((f) => [f.key, f])));
const fields = computed<SheetField[]>(() => addressFields(host).map((f) => ({ key: f.key, label: f.definition.label })));
const choices = computed(() => [
  { value: null, label: 'leave out' },
  ...fields.value.map((f) => ({ value: f.key as string | null, label: f.label })),
]);

// ---- the sheet ----
/** what was pasted stays until it is saved, also when one looks at something else in between */
const kept = useSessionStorage<{ columns: (string | null)[]; texts: string[][] } | null>(`brisk-many ${key}`, null, {
  serializer: { read: (text: string) => JSON.parse(text) as never, write: (x: unknown) => JSON.stringify(x) },
});
const columns = ref<(string | null)[]>(kept.value?.columns ?? []);
const headers = shallowRef<readonly string[] | null>(null);
const fresh = (number: number, texts: readonly string[]): SheetRow => ({
  number,
  texts,
  request: crypto.randomUUID(),
  tried: null,
  said: [],
});
const rows = shallowRef<readonly SheetRow[]>((kept.value?.texts ?? []).map((t, i) => fresh(i + 1, t)));
const linked = shallowRef<Record<string, Readonly<Record<number, string>>>>({});
const typed = ref('');
const problem = ref('');
const note = ref('');
const keep = (): void => {
  const text = rows.value.map((r) => [...r.texts]);
  // what is too much for the browser to keep is not kept; it stands here still
  kept.value = rows.value.length && JSON.stringify(text).length < 2_000_000 ? { columns: [...columns.value], texts: text } : null;
};
function take(cells: readonly (readonly string[])[], more = false): void {
  const sheet = sheetOf(cells, fields.value);
  if (!sheet.rows.length) return void (problem.value = 'There are no rows in it, only what stands above them.');
  note.value =
    more || sheet.rows.length > MOST_AT_ONCE
      ? `Only the first ${MOST_AT_ONCE.toLocaleString(LOCALE)} rows are taken; enter the others after them.`
      : '';
  columns.value = [...sheet.columns];
  headers.value = sheet.headers;
  rows.value = sheet.rows.slice(0, MOST_AT_ONCE).map((texts, i) => fresh(i + 1, texts));
  saved.value = [];
  typed.value = '';
  keep();
  void tryAll();
}
function pasted(): void {
  problem.value = '';
  try {
    if (typed.value.trim() !== '') take(cellsOf(typed.value));
  } catch (e) {
    problem.value = `This cannot be read as rows: ${messageOf(e)}`;
  }
}
/** What is pasted stands in the box only after the event. */
const pasteSoon = (): void => void setTimeout(pasted);
async function dropped(file: File): Promise<void> {
  problem.value = '';
  try {
    const response = await fetch(routeAddress(routes.many.file, { key }, { name: file.name }), { method: 'POST', body: file });
    const answer = (await response.json()) as { headers: string[]; rows: string[][]; more: boolean; message?: string };
    if (!response.ok) throw new Error(answer.message ?? 'The file could not be read.');
    take([answer.headers, ...answer.rows], answer.more);
  } catch (e) {
    problem.value = `${file.name}: ${messageOf(e)}`;
  }
}

// ---- through the form ----
const job = useJob('rows of a sheet');
const saving = useJob('saving rows');
async function tryRows(which: readonly SheetRow[]): Promise<void> {
  if (!which.length) return;
  problem.value = '';
  try {
    const answer = await job.run(() => api.many.rows({ key }, { columns: columns.value, rows: which.map((r) => [...r.texts]) }));
    if (!answer) return;
    version.value = answer.version;
    const all: Record<string, Readonly<Record<number, string>>> = { ...linked.value };
    for (const [table, texts] of Object.entries(answer.linked)) all[table] = { ...all[table], ...texts };
    linked.value = all;
    const tried = new Map(which.map((r, i) => [r.number, [r.texts, answer.rows[i]] as const]));
    rows.value = rows.value.map((r) => {
      const [texts, found] = tried.get(r.number) ?? [];
      // what was mended meanwhile is tried for itself
      return found && texts === r.texts ? { ...r, tried: found, said: [] } : r;
    });
  } catch (e) {
    problem.value = messageOf(e);
  }
}
const tryAll = (): Promise<void> => tryRows(rows.value);
const trySoon = useDebounceFn(tryAll, 300);
function setColumn(at: number, to: string | null): void {
  columns.value = columns.value.map((c, i) => (i === at ? to : c === to && to !== null ? null : c));
  rows.value = rows.value.map((r) => ({ ...r, tried: null, request: crypto.randomUUID() }));
  keep();
  void trySoon();
}
async function mend(row: SheetRow, at: number, text: string): Promise<void> {
  if ((row.texts[at] ?? '') === text) return;
  const texts = columns.value.map((_, i) => (i === at ? text : (row.texts[i] ?? '')));
  const mended = { ...row, texts, tried: null, said: [], request: crypto.randomUUID() };
  rows.value = rows.value.map((r) => (r.number === row.number ? mended : r));
  keep();
  // those whose trying this would end are tried with it
  await tryRows(rows.value.filter((r) => r.tried === null));
}
function drop(row: SheetRow): void {
  rows.value = rows.value.filter((r) => r.number !== row.number);
  keep();
}
onMounted(() => rows.value.length && void tryAll());

// ---- saving ----
const saved = ref<number[]>([]);
const passing = computed(() => rows.value.filter((r) => r.tried && !r.tried.wrong.length && !r.said.length));
const wrongRows = computed(() => rows.value.filter((r) => (r.tried && r.tried.wrong.length) || r.said.length));
async function save(): Promise<void> {
  const which = passing.value;
  problem.value = '';
  try {
    const answer = await saving.run(() => api.many.save({ key }, { version: version.value, rows: which.map((r) => ({ edits: r.tried!.edits, request: r.request })) })); // prettier-ignore
    if (!answer) return;
    const of = new Map(which.map((r, i) => [r.number, answer.rows[i]]));
    saved.value = [...saved.value, ...answer.rows.flatMap((r) => (r.id === null ? [] : [r.id]))];
    rows.value = rows.value.flatMap((r) => {
      const found = of.get(r.number);
      return typeof found?.id === 'number' ? [] : [found ? { ...r, said: found.wrong } : r];
    });
    keep();
  } catch (e) {
    problem.value = messageOf(e);
  }
}

// ---- what is shown ----
const onlyWrong = ref(false);
const lines = computed(() => [...(onlyWrong.value ? wrongRows.value : rows.value)]);
const shownColumns = computed(() =>
  columns.value.flatMap((field, at) => (field === null ? [] : [{ at, field, label: byKey.value.get(field)?.definition.label ?? field }])),
);
const MOST_FILLED = 8;
/** fields that fill in by themselves in some row, as many as one sees beside the others */
const filled = computed(() => {
  const found = new Set(rows.value.flatMap((r) => [...(r.tried?.filled ?? [])]));
  return [...byKey.value.values()]
    .filter((f) => found.has(f.key) && !columns.value.includes(f.key) && (COLUMN_LOOKS[f.definition.type].lines ?? 1) === 1)
    .slice(0, MOST_FILLED);
});
function shown(field: PlanField | undefined, row: SheetRow): string {
  const value = field && row.tried?.values[field.key];
  if (value === undefined || value === null || !field) return '';
  const table = field.type.kind === 'row' ? field.type.table : null;
  const text = (v: unknown): string =>
    table !== null && typeof v === 'number' ? (linked.value[table]?.[v] ?? `row ${v}`) : host.show(field.key, v as never);
  return Array.isArray(value) ? value.map(text).join(', ') : text(value);
}
const wrongAt = (row: SheetRow, field: string | null): string =>
  [...(row.tried?.wrong ?? []), ...row.said]
    .filter((w) => w.field === field)
    .map((w) => w.message)
    .join(' ');
/** What is wrong with a row and stands at none of its columns. */
const otherwise = (row: SheetRow): string =>
  [...(row.tried?.wrong ?? []), ...row.said]
    .filter((w) => !columns.value.includes(w.field))
    .map((w) => (w.field ? `${byKey.value.get(w.field)?.definition.label ?? w.field}: ` : '') + w.message)
    .join(' ');
const isOtherwise = computed(() => rows.value.some((r) => otherwise(r) !== ''));
const count = (n: number, word: string): string => `${n.toLocaleString(LOCALE)} ${word}${n === 1 ? '' : 's'}`;
useHead({ title: () => `Many at once · ${label.value} · Brisk Acorn` });
</script>

<template>
  <div class="screen">
    <PlaceTrail
      :above="[
        { label: 'Entries', to: '/entry' },
        { label, to: `/entry/${key}` },
      ]"
      here="many at once"
    />
    <Note v-if="failed" class="out" kind="bad" :retry="open">{{ failed }}</Note>
    <template v-else>
      <header>
        <h1>{{ label }}: many at once</h1>
        <p class="muted">
          Rows of a spreadsheet go through the form as if each were typed: choices are found by what they show, the rest fills in, and what
          is wrong is said. Nothing is saved until you say so.
        </p>
      </header>
      <Note v-if="saved.length" kind="good" class="out"
        >{{ count(saved.length, 'record') }} saved. <NuxtLink :to="`/entry/${key}`">See the records</NuxtLink></Note
      >
      <Note v-if="problem" kind="bad" class="out" :retry="rows.length ? tryAll : undefined">{{ problem }}</Note>
      <Note v-if="note" class="out">{{ note }}</Note>
      <FileDrop v-if="!rows.length" label="A sheet of rows" accept=".csv,.tsv,.txt,.xlsx" class="take" @file="dropped">
        <template #default="{ choose }">
          <label class="label" for="paste">Paste rows here, with or without the names of the fields above them</label>
          <Textarea
            id="paste"
            v-model="typed"
            rows="10"
            fluid
            :placeholder="
              fields
                .slice(0, 5)
                .map((f) => f.label)
                .join('\t')
            "
            @paste="pasteSoon"
          />
          <p class="row">
            <Button label="Take these rows" :disabled="!typed.trim()" @click="pasted" />
            <Button severity="secondary" label="Choose a file…" @click="choose()" />
            <span class="muted">or drop a CSV or XLSX file here; up to {{ MOST_AT_ONCE.toLocaleString(LOCALE) }} rows</span>
          </p>
        </template>
      </FileDrop>
      <template v-else>
        <div class="bar">
          <span role="status"
            ><b>{{ count(passing.length, 'row') }} pass</b
            ><template v-if="wrongRows.length"
              >, <b class="bad">{{ wrongRows.length.toLocaleString(LOCALE) }} do not</b></template
            ></span
          >
          <label v-if="wrongRows.length" class="row"><Checkbox v-model="onlyWrong" binary /> only those that do not</label>
          <JobProgress v-if="job.running.value" :progress="job.progress.value" :doing="job.doing.value" @cancel="job.cancel()" />
          <JobProgress
            v-else-if="saving.running.value"
            :progress="saving.progress.value"
            :doing="saving.doing.value"
            @cancel="saving.cancel()"
          />
          <span class="row end"
            ><Button
              severity="secondary"
              size="small"
              label="Begin again"
              @click="
                rows = [];
                keep();
              " /><Button
              :disabled="!passing.length || job.running.value || saving.running.value"
              :label="
                wrongRows.length ? `Save the ${passing.length.toLocaleString(LOCALE)} that pass` : `Save ${count(passing.length, 'record')}`
              "
              @click="save"
          /></span>
        </div>
        <p class="bar columns" role="group" aria-label="What each column is for">
          <span v-for="(c, i) in columns" :key="i"
            >{{ headers?.[i] ? `${headers[i]}: ` : `column ${i + 1}: `
            }}<PickWord :value="c" :options="choices" :label="`Column ${i + 1} is for`" @pick="setColumn(i, $event)"
          /></span>
        </p>
        <DataTable
          :value="lines"
          data-key="number"
          scrollable
          scroll-height="flex"
          edit-mode="cell"
          :virtual-scroller-options="{ itemSize: 46 }"
          class="sheet"
          size="small"
          :pt="{ table: { 'aria-label': 'The rows' } }"
          @cell-edit-complete="mend($event.data as SheetRow, Number($event.field), String($event.newData.text ?? ''))"
        >
          <Column header="Row" style="width: 64px"
            ><template #body="{ data: r }: { data: SheetRow }"
              ><i
                v-if="r.tried"
                role="img"
                class="pi"
                :class="r.tried.wrong.length || r.said.length ? 'pi-times-circle bad' : 'pi-check-circle ok'"
                :aria-label="r.tried.wrong.length || r.said.length ? 'does not pass' : 'passes'"
              />
              {{ r.number }}</template
            ></Column
          >
          <Column v-if="isOtherwise" header="Also wrong" style="min-width: 220px"
            ><template #body="{ data: r }: { data: SheetRow }"
              ><small class="bad">{{ otherwise(r) }}</small></template
            ></Column
          >
          <Column v-for="c in shownColumns" :key="c.at" :field="String(c.at)" :header="c.label" style="min-width: 150px">
            <template #body="{ data: r }: { data: SheetRow }"
              ><span :class="{ wrong: wrongAt(r, c.field) }">{{
                wrongAt(r, c.field) || !r.tried ? (r.texts[c.at] ?? '') : shown(byKey.get(c.field), r)
              }}</span
              ><small v-if="wrongAt(r, c.field)" class="bad">{{ wrongAt(r, c.field) }}</small></template
            >
            <template #editor="{ data: r }: { data: SheetRow & { text?: string } }"
              ><InputText
                :default-value="r.texts[c.at] ?? ''"
                size="small"
                fluid
                autofocus
                :aria-label="`${c.label}, row ${r.number}`"
                @update:model-value="r.text = $event ?? ''"
            /></template>
          </Column>
          <Column v-for="f in filled" :key="f.key" :header="f.definition.label" style="min-width: 120px"
            ><template #body="{ data: r }: { data: SheetRow }"
              ><span class="self">{{ shown(f, r) }}</span></template
            ></Column
          >
          <Column style="width: 44px"
            ><template #body="{ data: r }: { data: SheetRow }"
              ><IconButton icon="pi pi-trash" :aria-label="`Leave out row ${r.number}`" @click="drop(r)" /></template
          ></Column>
        </DataTable>
      </template>
    </template>
  </div>
</template>

<style scoped>
.screen {
  height: 100%;
  display: flex;
  flex-direction: column;
}
header {
  padding: 12px 16px 6px;
}
header p {
  max-width: 90ch;
}
.out {
  margin: 4px 16px;
}
.take {
  margin: 0 16px;
  max-width: 900px;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 18px;
  padding: 4px 16px;
}
.end {
  margin-left: auto;
}
.columns {
  font-size: 13px;
  border-bottom: 1px solid var(--line);
}
.sheet {
  flex: 1;
  min-height: 0;
}
.sheet :deep(td) {
  height: 46px;
  vertical-align: middle;
  line-height: 1.2;
}
.wrong {
  text-decoration: underline wavy var(--bad);
}
small {
  display: block;
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.self {
  background: var(--act-wash);
  border-radius: 3px;
  padding: 1px 4px;
}
.self:empty {
  padding: 0;
}
.ok {
  color: var(--act);
}
</style>
