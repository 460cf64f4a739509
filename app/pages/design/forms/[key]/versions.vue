<script setup lang="ts">
import { useQuery } from '@pinia/colada';
import { contract } from '~~/core/contract/index.ts';
import { type Form } from '~~/core/form/definition.ts';
import { parseForm } from '~~/core/form/schemas.ts';
import { formChanges } from '~~/core/review/differences.ts';

/* The versions of a form: who published which, when and what for, what differs between any two, and going back to one. */
const route = useRoute();
const draft = useDraft();
const toast = useToast();
const key = String(route.params.key);
await draft.open(key);
useHead({ title: computed(() => `Versions of ${draft.form?.label ?? key} · Brisk Acorn`) });

interface Version {
  readonly version: number;
  readonly at: string;
  readonly by: string;
  readonly note: string;
  readonly form: Form;
}
const asked = useQuery({ key: ['versions', key], query: () => api.forms.versions({ key }) });
const versions = computed((): Version[] => (asked.data.value ?? []).map((v) => ({ ...v, form: parseForm(v.form) })));
/** what is compared: a version by its number, the draft by 0 */
const from = ref<number | null>(null);
const to = ref<number | null>(null);
watch(
  versions,
  (all) => {
    if (!all.length) return;
    to.value ??= draft.differences.length ? 0 : (all[0]?.version ?? 0);
    from.value ??= (to.value === 0 ? all[0] : all[1])?.version ?? all[0]?.version ?? 0;
  },
  { immediate: true },
);
const sides = computed(() => [
  { value: 0, label: 'the draft' },
  ...versions.value.map((v) => ({ value: v.version, label: `version ${v.version}` })),
]);
const formOf = (side: number | null): Form | null =>
  side === 0 ? (draft.form ?? null) : (versions.value.find((v) => v.version === side)?.form ?? null);
const differences = computed(() => {
  const [a, b] = [formOf(from.value), formOf(to.value)];
  return a && b ? formChanges(a, b) : null;
});
function compare(v: Version): void {
  const at = versions.value.findIndex((x) => x.version === v.version);
  to.value = v.version;
  from.value = versions.value[at + 1]?.version ?? v.version;
}
const back = shallowRef<Version | null>(null);
const busy = ref(false);
const problem = ref('');
async function goBack(): Promise<void> {
  const { version } = back.value!;
  busy.value = true;
  problem.value = '';
  try {
    const { version: made, draftStays } = await api.forms.goBack({ key, version }, {});
    back.value = null;
    const detail = draftStays
      ? `Version ${made} is what version ${version} was. The draft keeps what is not published yet.`
      : `Version ${made} is what version ${version} was, and so is the draft.`;
    toast.add({ severity: 'success', summary: 'Published', detail, life: 6000 });
    await draft.open(key);
    from.value = to.value = null;
    await asked.refetch();
  } catch (e) {
    const problems = e instanceof ApiError ? (e.details.problems as { message: string }[] | undefined) : undefined;
    problem.value = [messageOf(e), ...(problems ?? []).slice(0, 5).map((p) => p.message)].join(' ');
  } finally {
    busy.value = false;
  }
}
const reads = computed(() => (back.value && draft.published ? formChanges(draft.published, back.value.form) : []));
</script>

<template>
  <div class="page wide">
    <PlaceTrail
      :above="[
        { label: 'Forms', to: '/design/forms' },
        { label: draft.form?.label ?? key, to: `/design/forms/${key}` },
      ]"
      here="Versions"
    />
    <header class="row spread">
      <h1>Versions</h1>
      <span class="row"
        ><span v-if="draft.differences.length" class="muted"
          >{{ draft.differences.length }} {{ draft.differences.length === 1 ? 'change' : 'changes' }} not published</span
        ><Button as="router-link" severity="secondary" :to="`/design/forms/${key}/publish`">What publishing would do</Button></span
      >
    </header>
    <Note v-if="draft.failed" kind="bad" :retry="() => draft.open(key)">{{ draft.failed }}</Note>
    <Asked v-else v-slot="{ data }" :query="asked">
      <Note v-if="!data.length">This form has not been published yet.</Note>
      <div v-else class="two">
        <DataTable :value="versions" data-key="version" size="small" :table-props="{ 'aria-label': 'Published versions, newest first' }">
          <Column header="Version"
            ><template #body="{ data: v }"
              ><b>{{ (v as Version).version }}</b> <Tag v-if="v.version === draft.version" severity="success" value="in use" /></template
          ></Column>
          <Column header="Published"
            ><template #body="{ data: v }"
              >{{ showMoment((v as Version).at) }} <span class="muted">by {{ (v as Version).by }}</span></template
            ></Column
          >
          <Column header="Note"
            ><template #body="{ data: v }">{{ (v as Version).note }}</template></Column
          >
          <Column
            ><template #header><span class="sr">Do</span></template>
            <template #body="{ data: v }"
              ><span class="row acts"
                ><Button link severity="secondary" label="Compare" @click="compare(v)" /><Button
                  as="a"
                  link
                  severity="secondary"
                  label="File"
                  :href="routeAddress(contract.forms.file, { key }, { version: v.version })"
                  download /><Button
                  v-if="v.version !== draft.version"
                  link
                  severity="secondary"
                  label="Go back to it…"
                  @click="
                    problem = '';
                    back = v;
                  " /></span></template
          ></Column>
        </DataTable>
        <section aria-labelledby="v-diff">
          <h2 id="v-diff" class="row">
            From <PickWord :value="from ?? 0" :options="sides" label="The version before" @pick="from = $event" /> to
            <PickWord :value="to ?? 0" :options="sides" label="The version after" @pick="to = $event" />
          </h2>
          <p v-if="differences && !differences.length" class="muted">They are the same.</p>
          <WhatChanged v-else-if="differences" :differences="differences" />
        </section>
      </div>
    </Asked>
    <StayDialog
      :visible="back !== null"
      modal
      :header="`Go back to version ${back?.version}`"
      :style="{ width: '520px' }"
      @update:visible="back = null"
    >
      <div class="dialog">
        <p>
          What version {{ back?.version }} was is published again, as version {{ (draft.version ?? 0) + 1 }}: new entries use it, open ones
          are told, and no record is changed.
          {{ draft.differences.length ? 'Your draft keeps what is not published yet.' : 'The draft becomes it too.' }}
        </p>
        <WhatChanged :differences="reads" />
        <Note v-if="problem" kind="bad">{{ problem }}</Note>
      </div>
      <template #footer
        ><Button severity="secondary" label="Cancel" @click="back = null" /><Button :disabled="busy" autofocus @click="goBack">{{
          busy ? 'Publishing…' : `Publish version ${back?.version} again`
        }}</Button></template
      >
    </StayDialog>
  </div>
</template>

<style scoped>
.wide {
  max-width: none;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 28px;
  align-items: start;
}
.acts {
  justify-content: flex-end;
  gap: 12px;
  white-space: nowrap;
}
h2 {
  margin-bottom: 12px;
  flex-wrap: wrap;
}
.dialog {
  display: grid;
  gap: 12px;
  max-height: 50vh;
  overflow: auto;
}
@media (max-width: 1000px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
