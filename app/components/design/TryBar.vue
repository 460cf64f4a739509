<script setup lang="ts">
import { feedsReached } from '~~/core/engine/reach.ts';
import { rowLabel } from '~/composables/showValue';

/* Whom, on what and how the live form is being tried: a sentence whose words can be exchanged. */
const draft = useDraft();
const tryout = useTryout();
const emit = defineEmits<{ settings: []; link: []; go: [field: string] }>();
const problem = ref('');

const people = computed(() => {
  void tryout.host.steps.value;
  const rows = tryout.host.cache().table('people')?.rows ?? [];
  return rows.map((r) => ({ value: r.id, label: String(r.name), note: String(r.team ?? '') }));
});
const me = computed(() => people.value.find((p) => p.value === tryout.person)?.label ?? useSession().account?.name ?? 'me');
const tried = computed(() => tryout.tried);
async function tryWith(change: Parameters<typeof tryout.tryWith>[0]): Promise<void> {
  problem.value = '';
  try {
    await tryout.tryWith(change);
  } catch (e) {
    problem.value = messageOf(e);
  }
}
const more = ref(false);
const MODES = [
  { value: 'edit', label: 'be changed' },
  { value: 'view', label: 'be read' },
] as const;
const FEEDS = [
  { value: 'answer', label: 'answer' },
  { value: 'slow', label: 'take 4 seconds', note: 'as a slow one would' },
  { value: 'fail', label: 'fail', note: 'what then?' },
] as const;
const steps = computed(() => [
  { value: null as string | null, label: 'its own step' },
  ...(draft.form?.steps?.list ?? []).map((s) => ({ value: s.value as string | null, label: `the step ${s.label}` })),
]);
const asksFeeds = computed(() => draft.plan !== null && [...feedsReached(draft.plan, draft.feeds.values())].length > 0);
const setMoment = (at: unknown): Promise<void> => tryWith({ at: typeof at === 'string' && at !== '' ? `${at}:00:00`.slice(0, 19) : null });
/** What is tried otherwise than usual, in short. */
const said = computed(() => {
  const { mode, step, at, feeds, url } = tried.value;
  return [
    tried.value.record && mode === 'view' ? 'to be read' : '',
    step === null ? '' : `at ${steps.value.find((s) => s.value === step)?.label ?? step}`,
    at === null ? '' : showMoment(at),
    feeds === 'answer' ? '' : feeds === 'slow' ? 'slow services' : 'failing services',
    Object.keys(url).length ? 'link values' : '',
  ].filter(Boolean).join(', '); // prettier-ignore
});
const parentTable = computed(() => draft.tables.get(draft.form?.parent ?? ''));
const parentText = computed(() => {
  void tryout.host.steps.value;
  const plan = draft.plan;
  return plan && parentTable.value && tried.value.parent !== null
    ? rowLabel(plan, tryout.host.cache(), parentTable.value.key, tried.value.parent)
    : '';
});
// ---- opened by a link: with what, through the form's own controls ----
const linking = ref(false);
const given = shallowRef<Readonly<Record<string, string>>>({});
const linkSaid = computed(() => {
  const entries = Object.entries(tried.value.url).map(([key, text]) => `${tryout.host.label(key)} ${text}`);
  return entries.length
    ? `a link with ${entries.slice(0, 2).join(', ')}${entries.length > 2 ? ` and ${entries.length - 2} more` : ''}`
    : 'no link';
});
const linkValues = ref<{ given(): Promise<Record<string, string>> }>();
async function takeLink(): Promise<void> {
  const url = (await linkValues.value?.given()) ?? given.value;
  linking.value = false;
  await tryWith({ url });
}
watch(linking, (is) => is && (given.value = tried.value.url));
</script>

<template>
  <div>
    <div class="try">
      <span>Try as <PickWord :value="tryout.person" :text="me" :options="people" label="Person" @pick="tryout.tryAs($event)" /></span>
      <span
        >on
        <FindWord
          :table="draft.form?.table ?? ''"
          :text="tried.record?.text ?? 'a new entry'"
          label="What it is tried on"
          none="a new entry"
          @pick="tryWith({ record: $event })"
      /></span>
      <span v-if="parentTable"
        >under
        <FindWord
          :table="parentTable.key"
          :text="parentText || 'nothing'"
          :label="`Under which row of ${parentTable.label}`"
          none="nothing"
          @pick="tryWith({ parent: $event?.id ?? null })"
      /></span>
      <Button class="otherwise" link severity="secondary" :aria-expanded="more" @click="more = !more">{{
        more ? 'less' : said || 'otherwise…'
      }}</Button>
      <span v-if="problem" class="bad" role="alert">{{ problem }}</span>
      <span class="end">
        <TriedSave @go="emit('go', $event)" />
        <Button link severity="secondary" @click="emit('link')">Create a link</Button>
        <Button link severity="secondary" @click="emit('settings')">Form settings</Button>
        <Button as="router-link" severity="secondary" size="small" :to="`/design/forms/${draft.formKey}/rules`"
          >Rules{{ draft.form?.rules.length ? ` (${draft.form.rules.length})` : '' }}</Button
        >
        <Button as="router-link" severity="secondary" size="small" :to="`/design/forms/${draft.formKey}/steps`"
          >Steps{{ draft.form?.steps ? ` (${draft.form.steps.list.length})` : '' }}</Button
        >
        <Button as="router-link" severity="secondary" size="small" :to="`/design/forms/${draft.formKey}/rehearsals`">Rehearsals</Button>
        <Button as="router-link" severity="secondary" size="small" :to="`/design/forms/${draft.formKey}/cascades`">Cascades</Button>
        <Button as="router-link" severity="secondary" size="small" :to="`/design/forms/${draft.formKey}/records-say`"
          >What the records say</Button
        >
        <Button v-if="draft.version" as="router-link" severity="secondary" size="small" :to="`/design/forms/${draft.formKey}/backfill`"
          >Backfill</Button
        >
        <Button v-tooltip.bottom="'Nothing tried here is saved as a record'" link severity="secondary" @click="tryout.startOver()">
          Start over
        </Button>
      </span>
    </div>
    <StayDialog v-model:visible="linking" modal header="Opened by a link that fills in" :style="{ width: '760px' }"
      ><LinkValues v-if="linking" ref="linkValues" :url="tried.url" @change="given = $event" /><template #footer
        ><Button label="Try it so" @click="takeLink" /></template
    ></StayDialog>
    <div v-if="more" class="try second" role="group" aria-label="More of how it is tried">
      <span v-if="tried.record"
        >to <PickWord :value="tried.mode" :options="MODES" label="How it is opened" @pick="tryWith({ mode: $event })"
      /></span>
      <span v-if="tried.record && steps.length > 1"
        >at <PickWord :value="tried.step" :options="steps" label="At which step" @pick="tryWith({ step: $event })"
      /></span>
      <label
        >as if it were
        <TypedInput
          class="moment"
          type="datetime"
          :value="tried.at"
          label="The moment it is taken to be; empty is now"
          placeholder="now"
          @change="setMoment"
      /></label>
      <span v-if="asksFeeds"
        >services <PickWord :value="tried.feeds" :options="FEEDS" label="How services answer" @pick="tryWith({ feeds: $event })"
      /></span>
      <span
        >opened by
        <Button link :aria-label="`Link values: ${linkSaid}`" aria-haspopup="dialog" @click="linking = true">{{ linkSaid }}</Button></span
      >
      <TrySituations />
    </div>
  </div>
</template>

<style scoped>
.try {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: center;
  padding: 5px 16px;
  background: var(--ground-2);
  border-bottom: 1px solid var(--line);
  white-space: nowrap;
}
label {
  display: flex;
  align-items: center;
  gap: 5px;
}
.try :deep(.p-inputtext) {
  width: 150px;
}
.moment {
  width: 200px;
}
.try .moment :deep(.p-inputtext) {
  width: 100%;
}
.otherwise {
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.end {
  margin-left: auto;
  display: flex;
  gap: 14px;
  align-items: center;
}
</style>
