<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core';
import { groupTexts } from '~/components/records/groupTexts';
import { type ListedRecord, type RecordsPage, recordTexts } from '~/components/records/recordTexts';

/* The records of a view as a sheet to be printed: all of them, where the list draws only those in sight. */
const route = useRoute();
const router = useRouter();
const key = String(route.params.form);
/** the most rows on a sheet, and how many are asked for at once */
const MOST = 2000;
const PAGE = 500;
const records = useRecordViews();
const one = (name: string): string | undefined => (typeof route.query[name] === 'string' ? route.query[name] : undefined);
await records.open(key, { view: one('view'), with: one('with'), q: one('q'), as: undefined, step: undefined, day: undefined });

const said = shallowRef<RecordsPage | null>(null);
const rows = shallowRef<readonly ListedRecord[]>([]);
const linked = shallowRef<RecordsPage['linked']>({});
const failed = ref('');
async function read(): Promise<void> {
  failed.value = '';
  try {
    let first: RecordsPage | null = null;
    const found: ListedRecord[] = [];
    const names: Record<string, Record<number, string>> = {};
    do {
      const page = await api.entries.list({ key }, { view: JSON.stringify(records.view), search: records.search, offset: found.length, limit: PAGE, whole: found.length ? '0' : '1' }); // prettier-ignore
      first ??= page;
      found.push(...page.rows);
      for (const [table, texts] of Object.entries(page.linked)) names[table] = { ...names[table], ...texts };
      if (page.rows.length < PAGE) break;
    } while (found.length < MOST);
    [said.value, rows.value, linked.value] = [first, found, names];
  } catch (e) {
    failed.value = messageOf(e);
  }
}
if (!records.failed) await read();
watch(() => JSON.stringify([records.view, records.search]), useDebounceFn(read, 200)); // prettier-ignore

const texts = computed(() => said.value && recordTexts(said.value));
const groups = computed(() =>
  texts.value
    ? groupTexts({ view: records.view, whole: said.value?.whole ?? null, columns: records.columns, options: records.options, texts: texts.value, linked: linked.value })
    : null,
); // prettier-ignore
/** in the order they were put in, else those that stand there usually */
const columns = computed(() => {
  const keys = records.view.columns ?? texts.value?.usual ?? [];
  return keys.flatMap((k) => texts.value?.columns.find((c) => c.key === k) ?? []);
});
const shown = computed(() => new Set(columns.value.map((c) => c.key)));
interface SheetLine {
  readonly id: string;
  readonly group: number | null;
  readonly row: ListedRecord | null;
}
/** Heads of groups before their rows. */
const lines = computed<SheetLine[]>(() => {
  const heads = new Map<number, number>();
  let at = 0;
  for (const [i, g] of ((records.view.group && said.value?.whole?.groups) || []).entries()) {
    heads.set(at, i);
    at += g.count;
  }
  return rows.value.flatMap((row, i): SheetLine[] => {
    const group = heads.get(i);
    const line = { id: `r${row.row.id}`, group: null, row };
    return group === undefined ? [line] : [{ id: `g${group}`, group, row: null }, line];
  });
});
const title = computed(() => records.kept?.label ?? records.about?.form.label ?? key);
const now = showMoment(new Date(Date.now() - new Date().getTimezoneOffset() * 60_000).toISOString().slice(0, 19));
const print = (): void => window.print();
useHead({ title: () => `${title.value} · Brisk Acorn` });
</script>

<template>
  <div class="page">
    <PlaceTrail
      :above="[
        { label: 'Entries', to: '/entry' },
        { label: records.about?.form.label ?? key, to: router.resolve({ path: `/entry/${key}`, query: records.address }).fullPath },
      ]"
      here="print"
    />
    <Note v-if="records.failed || failed" kind="bad" :retry="records.failed ? () => records.read(key) : read">{{
      records.failed?.message ?? failed
    }}</Note>
    <Skeleton v-else-if="!said || !texts" height="300px" />
    <template v-else>
      <header class="row">
        <h1>{{ title }}</h1>
        <Button class="no-print" icon="pi pi-print" label="Print" :disabled="!rows.length" @click="print" />
      </header>
      <ViewSentence />
      <p class="muted">
        {{ said.total.toLocaleString(LOCALE) }} {{ said.total === 1 ? 'record' : 'records'
        }}<template v-for="t in groups?.totals" :key="t.words">
          · {{ t.words }} <b>{{ t.value }}</b></template
        >
        · as of {{ now }}<template v-if="records.search"> · found by “{{ records.search }}”</template>
      </p>
      <Note v-if="said.total > rows.length"
        >These are the first {{ rows.length.toLocaleString(LOCALE) }}: more do not go onto one print. Narrow the sentence on the list, or
        export it as a file.</Note
      >
      <Note v-if="!rows.length" kind="quiet">No record is so.</Note>
      <DataTable
        v-else
        :value="lines"
        data-key="id"
        size="small"
        class="sheet"
        :row-class="(l: SheetLine) => ({ head: l.group !== null })"
        :table-props="{ 'aria-label': title }"
      >
        <Column v-if="records.colours.length" header="Colour"
          ><template #body="{ data: l }: { data: SheetLine }"
            ><ViewMark
              v-if="l.row && l.row.colour !== null && records.colours[l.row.colour]"
              :colour="records.colours[l.row.colour]!" /></template
        ></Column>
        <Column header="Nr" class="num"
          ><template #body="{ data: l }: { data: SheetLine }">{{ l.row?.row.id }}</template></Column
        >
        <Column v-for="(c, place) in columns" :key="c.key" :header="c.label" :class="{ num: COLUMN_LOOKS[c.type].figures }"
          ><template #body="{ data: l }: { data: SheetLine }"
            ><template v-if="l.row"
              ><StepMark v-if="texts.step(c.key, l.row.row)" :step="texts.step(c.key, l.row.row)!" /><template v-else>{{
                texts.text(c.key, l.row.row, linked)
              }}</template></template
            ><template v-else-if="l.group !== null && groups"
              ><template v-if="place === 0"
                ><StepMark v-if="groups.step(l.group)" :step="groups.step(l.group)!" /><b v-else>{{ groups.head(l.group) }}</b>
                <span class="muted">{{ ` ${groups.count(l.group).toLocaleString(LOCALE)} ` }}</span>{{
                  groups.sumsAside(l.group, shown).join(' · ')
                }}</template
              >
              {{ groups.sumsIn(l.group, c.key) }}</template
            ></template
          ></Column
        >
      </DataTable>
    </template>
  </div>
</template>

<style scoped>
header {
  gap: 18px;
  flex-wrap: wrap;
}
.sheet {
  margin-top: 8px;
  overflow-x: auto;
}
.sheet :deep(.head td) {
  background: var(--ground-2);
}
@media print {
  .sheet {
    overflow: visible;
    font-size: 11px;
  }
  .sheet :deep(tr) {
    break-inside: avoid;
  }
  .sheet :deep(thead) {
    display: table-header-group;
  }
}
</style>
