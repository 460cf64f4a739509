<script setup lang="ts">
import { RecordCalendar } from '~/components/lateParts';
import { contract } from '~~/core/contract/index.ts';
import { provideConditionValues } from '~/components/design/conditionValues';

/* The records of a form, as a view shows them: a list or a calendar. */
const route = useRoute();
const router = useRouter();
const key = String(route.params.form);
const here = route.path;
const records = useRecordViews();
provideConditionValues({
  has: (table) => records.tables.has(table),
  read: ({ table, key: column }, asked) => api.views.values({ key }, { table, column, search: asked.search, limit: asked.limit }),
});
const one = (name: string): string | undefined => (typeof route.query[name] === 'string' ? route.query[name] : undefined);
await records.open(key, { view: one('view'), with: one('with'), q: one('q'), as: one('as'), step: one('step'), day: one('day') });

// Back from a record finds the records as they were left
watch(
  () => records.address,
  (query) => {
    if (router.currentRoute.value.path === here) void navigateTo({ path: here, query }, { replace: true });
  },
);
const { data: forms } = useForms();
/** what one may do with these records */
const may = computed(() => forms.value?.find((f) => f.key === key)?.may ?? []);
const list = ref<{ again(): Promise<void>; shown(): string[] }>();
/** The columns that stand there; null where the list is not drawn yet: those that are usual. */
function columnsShown(): string[] | null {
  const shown = list.value?.shown() ?? [];
  return shown.length ? shown : null;
}
const files = computed(() =>
  (
    [
      { as: 'csv', label: 'CSV', note: 'text, one line a record' },
      { as: 'xlsx', label: 'XLSX', note: 'a workbook' },
    ] as const
  ).map((f) => ({
    ...f,
    // exactly what the screen shows, with the columns that stand there
    url: () => routeAddress(contract.entries.export, { key }, { as: f.as, view: JSON.stringify({ ...records.view, columns: records.view.columns ?? columnsShown() }), search: records.search || undefined }),
  })),
); // prettier-ignore
/** a record that was deleted a moment ago, to be put back */
const gone = ref(Number(one('gone') ?? 0) || null);
const putBack = useJob('putting a record back');
const backProblem = ref('');
async function restore(): Promise<void> {
  const id = gone.value;
  if (id === null) return;
  try {
    const answer = await putBack.run(() => api.many.restore({ key }, { ids: [id] }));
    const [told] = answer?.records ?? [];
    if (!told || told.revision === null) return void (backProblem.value = told?.message ?? 'It was not put back.');
    gone.value = null;
    await navigateTo(`/entry/${key}/${id}`);
  } catch (e) {
    backProblem.value = messageOf(e);
  }
}
const coloursOpen = ref(false);
const picking = ref(false);
const picked = shallowRef<ReadonlyMap<number, number>>(new Map());
function stopPicking(): void {
  picking.value = false;
  picked.value = new Map();
}
const AS = [
  { value: 'list', label: 'List', icon: 'pi pi-list' },
  { value: 'calendar', label: 'Calendar', icon: 'pi pi-calendar' },
] as const;
const hasDays = computed(() => records.columns.some((c) => c.type === 'date' || c.type === 'datetime'));
useHead({ title: computed(() => `${records.about?.form.label ?? 'Records'} · Brisk Acorn`) });
</script>

<template>
  <div class="screen">
    <PlaceTrail :above="[{ label: 'Entries', to: '/entry' }]" :here="records.about?.form.label ?? key" />
    <Note v-if="records.failed" class="out" kind="bad" :retry="records.failed.code === 'notPublished' ? undefined : () => records.read(key)"
      >{{ records.failed.message }}
      <NuxtLink v-if="records.failed.code === 'notPublished'" :to="`/design/forms/${key}`">Open it in the Design area</NuxtLink></Note
    >
    <template v-else-if="records.about">
      <header>
        <h1>{{ records.about.form.label }}</h1>
        <ViewKeep />
        <span class="row tools"
          ><SelectButton
            v-if="hasDays"
            v-model="records.looksAs"
            :options="[...AS]"
            option-label="label"
            option-value="value"
            size="small"
            :allow-empty="false"
            aria-label="How the records are looked at" /><Button
            v-if="records.looksAs === 'list'"
            as="router-link"
            size="small"
            severity="secondary"
            icon="pi pi-print"
            label="Print…"
            :to="{ path: `/entry/${key}/print`, query: records.address }" /><ExportButton
            v-if="may.includes('export')"
            :files="files" /><Button
            v-if="may.includes('enter')"
            as="router-link"
            size="small"
            severity="secondary"
            icon="pi pi-table"
            label="Many at once"
            :to="`/entry/${key}/many`" /><Button
            v-if="may.includes('enter')"
            as="router-link"
            icon="pi pi-plus"
            label="New entry"
            :to="`/entry/${key}/new`"
        /></span>
      </header>
      <Note v-if="gone" kind="good" class="gone"
        >Record {{ gone }} was deleted. <Button link label="Undo" :disabled="putBack.running.value" @click="restore" />
        <span v-if="backProblem" class="bad" role="alert">{{ backProblem }}</span></Note
      >
      <ViewSentence class="sentence" :colours-open="coloursOpen" @colours="coloursOpen = !coloursOpen" />
      <div class="body">
        <div class="main">
          <RecordsChosen
            v-if="picking && records.looksAs === 'list'"
            v-model:picked="picked"
            :form="key"
            :may="may"
            @done="stopPicking"
            @changed="list?.again()"
          />
          <RecordList
            v-if="records.looksAs === 'list'"
            ref="list"
            :key="`${key} ${records.about.version}`"
            v-model:picked="picked"
            :form="key"
            :label="records.about.form.label"
            :picking="picking"
            @open="navigateTo(`/entry/${key}/${$event}`)"
          >
            <template #bar><Button v-if="!picking" link severity="secondary" label="Choose several…" @click="picking = true" /></template>
          </RecordList>
          <RecordCalendar
            v-else
            :key="`calendar ${key} ${records.about.version}`"
            :form="key"
            :may-enter="may.includes('enter')"
            :may-edit="may.includes('edit')"
            @open="navigateTo(`/entry/${key}/${$event}`)"
          />
        </div>
        <div v-if="coloursOpen" class="side"><ViewColours @close="coloursOpen = false" /></div>
      </div>
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
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 2px 16px;
  padding: 12px 16px 0;
}
header > * {
  min-width: 0;
}
.tools {
  flex-wrap: wrap;
  margin-left: auto;
}
/* long words of a condition break rather than run off a phone */
.sentence {
  overflow-wrap: anywhere;
  padding: 2px 16px 6px;
  border-bottom: 1px solid var(--line);
}
.out {
  margin: 20px;
}
.gone {
  margin: 4px 16px;
}
.body {
  flex: 1;
  min-height: 0;
  display: flex;
}
.main {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  padding-top: 6px;
}
.side {
  width: 360px;
  overflow: auto;
  padding: 14px 16px;
  background: var(--ground-2);
  border-left: 1px solid var(--line);
}
@media (max-width: 900px) {
  .side {
    position: fixed;
    inset: auto 0 0 0;
    width: auto;
    max-height: 70%;
    z-index: 5;
  }
}
</style>
