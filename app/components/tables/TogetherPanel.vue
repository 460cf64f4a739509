<script setup lang="ts">
import type { Answer, ResultOf } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import type { Datum } from '~~/core/values/types.ts';

/*
 * Columns of a table that come together, as each site has one region, and how to make them tables of their own: every row links to what
 * it said before. Drafts follow; it can be undone here.
 */
type Found = ResultOf<typeof contract.tables.together>;
type Group = Found['chains'][number][number];
const props = defineProps<{ table: string; /** says nothing where nothing is found */ quiet?: boolean }>();
const emit = defineEmits<{ changed: [] }>();
const asked = useTables();
const table = computed(() => asked.data.value?.find((t) => t.key === props.table));
const job = useJob('looking at the columns');
const found = shallowRef<Found | null>(null);
const failed = ref('');
/** what the new tables are called, by the column that their rows are known by */
const labels = ref<Record<string, string>>({});
/** the chain that was asked for and would change rows */
const wouldChange = shallowRef<{ chain: number; rows: number } | null>(null);
const done = shallowRef<Answer<typeof contract.tables.split> | null>(null);
const undone = shallowRef<Answer<typeof contract.tables.undoRepair> | null>(null);
const busy = ref(false);
/** the group whose exceptions are listed */
const unfolded = ref<string | null>(null);

async function look(): Promise<void> {
  failed.value = '';
  wouldChange.value = null;
  try {
    const answer = await job.run(() => api.tables.together({ key: props.table }, {}));
    if (!answer) return;
    found.value = answer;
    const names = new Set((asked.data.value ?? []).map((t) => t.label.toLowerCase()));
    for (const { by } of answer.chains.flat()) {
      let name = labelOf(by);
      for (let n = 2; names.has(name.toLowerCase()); n++) name = `${labelOf(by)} ${n}`;
      labels.value[by] ??= name;
    }
  } catch (e) {
    failed.value = messageOf(e);
  }
}
const columnOf = (key: string) => table.value?.columns.find((c) => c.key === key);
const labelOf = (key: string): string => columnOf(key)?.label ?? key;
const n = (x: number): string => x.toLocaleString(LOCALE);
const listed = (keys: readonly string[]): string => {
  const words = keys.map((k) => `one ${labelOf(k)}`);
  return words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`;
};
const said = (group: Group, column: string, value: Datum): string =>
  value === null ? 'nothing' : (columnOf(column) && cellText(columnOf(column)!, value, found.value?.linked ?? {})) || '…';
const changedWords = (rows: number): string => (rows === 1 ? '1 row says now what most said.' : `${n(rows)} rows say now what most said.`);
const odd = (chain: readonly Group[]): number => chain.reduce((sum, g) => sum + g.of - g.fits, 0);

async function split(at: number, mayLose: boolean): Promise<void> {
  const chain = found.value?.chains[at];
  if (!chain) return;
  failed.value = '';
  busy.value = true;
  try {
    const groups = chain.map((g) => ({ by: g.by, columns: [...g.columns], label: (labels.value[g.by] ?? '').trim() || labelOf(g.by) }));
    done.value = await api.tables.split({ key: props.table }, { groups, mayLose });
    undone.value = null;
    await asked.refetch();
    emit('changed');
    await look();
  } catch (e) {
    if (e instanceof ApiError && e.code === 'wouldLose') wouldChange.value = { chain: at, rows: Number(e.details.changed ?? 0) };
    else failed.value = messageOf(e);
  } finally {
    busy.value = false;
  }
}
async function undo(): Promise<void> {
  if (!done.value) return;
  failed.value = '';
  busy.value = true;
  try {
    undone.value = await api.tables.undoRepair({ key: props.table, id: done.value.repair }, {});
    done.value = null;
    await asked.refetch();
    emit('changed');
    await look();
  } catch (e) {
    failed.value = messageOf(e);
  } finally {
    busy.value = false;
  }
}
await asked.refresh();
void look();
</script>

<template>
  <section class="together" aria-label="Columns that come together">
    <Note v-if="failed" kind="bad" :retry="found ? undefined : look">{{ failed }}</Note>
    <Note v-if="done" kind="good">
      <p>
        <template v-for="(t, i) in done.tables" :key="t.key"
          >{{ i ? (i === done.tables.length - 1 ? ' and ' : ', ') : ''
          }}<NuxtLink :to="`/design/tables/${t.key}`">{{ t.label }}</NuxtLink> ({{ n(t.rows) }}
          {{ t.rows === 1 ? 'row' : 'rows' }})</template
        >
        {{ done.tables.length === 1 ? 'is a table of its own now' : 'are tables of their own now' }}, and {{ table?.label }} links to
        {{ done.tables.length === 1 ? 'it' : 'them' }}. <span v-if="done.changed">{{ changedWords(done.changed) }}</span>
        <span v-if="done.forms.length"> Written anew with it: the draft of {{ done.forms.join(', ') }}.</span>
      </p>
      <Button link label="Undo" :disabled="busy" @click="undo" />
    </Note>
    <Note v-if="undone" kind="good"
      >The columns are as they were.<template v-if="undone.left">
        {{ n(undone.left) }} rows that were changed meanwhile say what they linked to.</template
      ></Note
    >
    <JobProgress v-if="job.running.value" :progress="job.progress.value" :doing="job.doing.value" @cancel="job.cancel()" />
    <template v-if="found && !job.running.value">
      <p v-if="!found.chains.length && !quiet && !done">
        {{
          found.rows < 20
            ? 'There are too few rows to tell what comes together: it takes twenty.'
            : `No column of ${table?.label} says what another is: nothing is written here again and again that could be said once.`
        }}
      </p>
      <h2 v-if="quiet && found.chains.length">What repeats</h2>
      <article v-for="(chain, at) in found.chains" :key="chain.map((g) => g.by).join()" class="chain">
        <div v-for="g in [...chain].reverse()" :key="g.by" class="group">
          <p>
            Each <b>{{ labelOf(g.by) }}</b> has {{ listed(g.columns) }}
            <span class="muted small"
              >({{ n(g.values) }} different, {{ n(g.fits) }} of {{ n(g.of) }} rows{{ found.older ? ' looked at' : '' }})</span
            >
          </p>
          <label class="row called"
            ><span>as a table called</span>
            <InputText v-model="labels[g.by]" size="small" :aria-label="`Label of the table of ${labelOf(g.by)}`" maxlength="120"
          /></label>
          <div v-if="g.exceptions.length" class="small">
            <Button
              link
              severity="secondary"
              :label="`${n(g.of - g.fits)} ${g.of - g.fits === 1 ? 'row says' : 'rows say'} otherwise`"
              :aria-expanded="unfolded === g.by"
              @click="unfolded = unfolded === g.by ? null : g.by"
            />
            <ul v-if="unfolded === g.by">
              <li v-for="e in g.exceptions" :key="e.row">
                row {{ e.row }}: {{ labelOf(e.column) }} is {{ said(g, e.column, e.said) }}; of most with the same {{ labelOf(g.by) }},
                {{ said(g, e.column, e.mostly) }}
              </li>
            </ul>
          </div>
        </div>
        <p v-if="wouldChange?.chain === at" role="alert">
          {{ n(wouldChange.rows) }} {{ wouldChange.rows === 1 ? 'row says' : 'rows say' }} otherwise and would say what most say. Mend them
          first if that is not right.
        </p>
        <p class="row">
          <Button
            size="small"
            :disabled="busy"
            :label="
              wouldChange?.chain === at
                ? 'Let them say what most say, and split'
                : chain.length === 1
                  ? 'Make it a table of its own'
                  : `Make them ${chain.length} tables`
            "
            @click="split(at, wouldChange?.chain === at)"
          />
          <span v-if="odd(chain) && wouldChange?.chain !== at" class="muted small">You are asked before a row is changed.</span>
        </p>
      </article>
    </template>
  </section>
</template>

<style scoped>
.together {
  display: grid;
  gap: 10px;
}
.chain {
  padding: 10px 14px;
  display: grid;
  gap: 10px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--ground);
}
.group {
  display: grid;
  gap: 4px;
}
.small {
  font-size: 12.5px;
}
label > span {
  white-space: nowrap;
}
label > .p-inputtext {
  width: 240px;
}
.row {
  gap: 8px;
  align-items: center;
}
</style>
