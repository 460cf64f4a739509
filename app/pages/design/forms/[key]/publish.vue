<script setup lang="ts">
import { contract } from '~~/core/contract/index.ts';
import { fieldAt } from '~~/core/form/definition.ts';
import { formChanges } from '~~/core/review/differences.ts';
import { type RehearsalStep, stepWords } from '~~/core/form/rehearsal.ts';
import type { ImpactKind, ImpactView } from '~/composables/impacts';
import type { KeptRehearsal } from '~/composables/rehearsals';

/* Before publishing: what is different, and what that does to every record that exists. */
const route = useRoute();
const draft = useDraft();
await draft.open(String(route.params.key));
const form = computed(() => draft.formKey);
const next = computed(() => (draft.version ?? 0) + 1);
useHead({ title: computed(() => `Before publishing ${draft.form?.label ?? ''} · Brisk Acorn`) });

const differences = computed(() => (draft.form && draft.published ? formChanges(draft.published, draft.form) : []));
const nothing = computed(() => draft.version !== null && !differences.value.length);
const impact = shallowRef<ImpactView | null>(null);
const picked = ref<{ field: string; kind: ImpactKind } | null>(null);
const looking = useJob('looking at records');
const problem = ref('');
const failed = ref('');
const note = ref('');
const busy = ref(false);
const published = ref<number | null>(null);

async function look(): Promise<void> {
  failed.value = '';
  try {
    await draft.flush();
    const found = await looking.run(() => api.impacts.find({ key: form.value }, {}));
    if (found) take(found);
  } catch (e) {
    failed.value = messageOf(e);
  }
}
function take(found: ImpactView): void {
  impact.value = found;
  const first = found.counts.find((c) => c.kind !== 'follow');
  picked.value = first ? { field: first.field, kind: first.kind } : null;
}
onMounted(async () => {
  if (!draft.form || draft.errors.length || nothing.value) return;
  const last = await api.impacts.last({ key: form.value }).catch(() => null);
  if (last?.current) take(last);
  else await look();
});
const labelOf = (path: string): string => {
  const [group = '', inner] = path.split('.');
  const of = draft.form && fieldAt(draft.form, path)?.label;
  return inner === undefined
    ? (of ?? draft.form?.lines[group]?.label ?? path)
    : `${draft.form?.lines[group]?.label ?? group}: ${of ?? inner}`;
};
const values = computed(() => impact.value?.counts.filter((c) => c.kind === 'change').reduce((n, c) => n + c.values, 0) ?? 0);
const n = (count: number): string => count.toLocaleString(LOCALE);
const records = (count: number): string => `${n(count)} ${count === 1 ? 'record' : 'records'}`;
const seconds = computed(() => ((impact.value?.milliseconds ?? 0) / 1000).toFixed(1));

// ---- rehearsals, run beside ----
const { all: rehearsals, results, running: rehearsing, stateOf, red, load, run } = useRehearsals(() => form.value);
onMounted(async () => {
  try {
    await load();
    if (rehearsals.value.length && !draft.errors.length) await run();
  } catch {
    // said as not run; whoever publishes is told by the server
  }
});
/** What is not as expected, in a few words. */
function against({ id, rehearsal }: KeptRehearsal): string[] {
  const r = results.value.get(id);
  if (!r || r.ok || !draft.form) return [];
  if (r.problem) return [r.problem];
  return r.steps.filter((s) => !s.ok).slice(0, 3).map((s) => {
    const expected = stepWords(draft.form!, rehearsal.steps[s.step] as RehearsalStep);
    return s.problem ?? `expected: ${expected}; found: ${s.found ? stepWords(draft.form!, s.found as RehearsalStep) : 'something else'}`;
  }); // prettier-ignore
}
const barred = computed(() => draft.errors.length > 0 || nothing.value || (red.value > 0 && draft.form?.red === 'refuse'));

async function publish(backfill: boolean): Promise<void> {
  busy.value = true;
  problem.value = '';
  const found = impact.value;
  try {
    published.value = await draft.publish(note.value);
    if (backfill && found) await navigateTo({ path: `/design/forms/${form.value}/backfill`, query: { impact: found.id } });
  } catch (e) {
    problem.value = messageOf(e);
  } finally {
    busy.value = false;
  }
}
</script>

<template>
  <div class="screen">
    <PlaceTrail
      :above="[
        { label: 'Forms', to: '/design/forms' },
        { label: draft.form?.label ?? form, to: `/design/forms/${form}` },
      ]"
      :here="published ? `Version ${published}` : `Before publishing version ${next}`"
    />
    <Teleport v-if="impact" to="#bar-end"
      ><span class="muted" role="status">{{ records(impact.looked) }} looked through in {{ seconds }} s</span></Teleport
    >
    <div v-if="draft.failed" class="page">
      <Note kind="bad" :retry="() => draft.open(form)">{{ draft.failed }}</Note>
    </div>
    <div v-else-if="published" class="page">
      <Note kind="good">Version {{ published }} is published. New entries use it from now on; open ones are told.</Note>
      <p class="row">
        <Button as="router-link" :to="`/entry/${form}/new`">Open the published form</Button>
        <Button as="router-link" severity="secondary" :to="`/design/forms/${form}`">Back to the draft</Button>
        <Button as="router-link" severity="secondary" :to="`/design/forms/${form}/versions`">Versions</Button>
      </p>
    </div>
    <template v-else>
      <div class="two">
        <section class="left" aria-labelledby="p-different">
          <h2 id="p-different">What is different</h2>
          <p v-if="draft.version === null" class="muted">The form has not been published yet: all of it is new.</p>
          <p v-else-if="nothing" class="muted">Nothing has changed since version {{ draft.version }}.</p>
          <WhatChanged v-else :differences="differences" />
          <template v-if="rehearsals.length">
            <h2 id="p-rehearsals" class="rehearsals">Rehearsals</h2>
            <JobProgress
              v-if="rehearsing.running.value"
              :progress="rehearsing.progress.value"
              :doing="rehearsing.doing.value"
              @cancel="rehearsing.cancel"
            />
            <ul class="list" aria-labelledby="p-rehearsals">
              <li v-for="r in rehearsals" :key="r.id">
                <RehearsalMark :state="stateOf(r.id)" />
                <span
                  ><NuxtLink :to="`/design/forms/${form}/rehearsals?rehearsal=${r.id}`" :class="{ bad: stateOf(r.id) === 'red' }">{{
                    r.rehearsal.label
                  }}</NuxtLink
                  ><span v-for="w in against(r)" :key="w" class="against">{{ w }}</span></span
                >
              </li>
            </ul>
          </template>
        </section>
        <section class="right" aria-labelledby="p-does">
          <h2 id="p-does">What it does to the records that exist</h2>
          <Note v-if="draft.errors.length" kind="bad">
            {{ draft.errors.length === 1 ? 'One problem' : `${draft.errors.length} problems` }} must be fixed first; then this can be worked
            out. <NuxtLink :to="`/design/forms/${form}`">To the form</NuxtLink>
          </Note>
          <p v-else-if="nothing" class="muted">Nothing: there is nothing to publish.</p>
          <JobProgress
            v-if="looking.running.value"
            :progress="looking.progress.value"
            :doing="looking.doing.value"
            @cancel="looking.cancel"
          />
          <Note v-if="failed" kind="bad" :retry="look">{{ failed }}</Note>
          <template v-if="impact && !looking.running.value">
            <Note v-if="!impact.current">The draft was changed since. <Button link label="Look again" @click="look" /></Note>
            <p v-if="!impact.looked" class="muted">There are no records yet.</p>
            <p v-else-if="!impact.counts.length" role="status">
              <b>Nothing.</b> All {{ records(impact.looked) }} come out as they do now: no value, no choice and no message is another.
            </p>
            <template v-else>
              <ImpactBars v-model:picked="picked" :impact="impact" :labels="labelOf" />
              <div v-if="picked" class="found">
                <div class="row spread">
                  <h3>
                    {{ picked.field ? labelOf(picked.field) : 'Who sees them' }}:
                    {{ IMPACT_WORDS[picked.kind] }}
                  </h3>
                  <Button
                    as="a"
                    severity="secondary"
                    size="small"
                    icon="pi pi-download"
                    label="All of it as CSV"
                    :href="routeAddress(contract.impacts.export, { key: form, id: impact.id })"
                    download
                  />
                </div>
                <ImpactRecords :form="form" :impact="impact" :field="picked.field" :kind="picked.kind" />
              </div>
            </template>
          </template>
          <p v-else-if="!looking.running.value && !failed && !nothing && !draft.errors.length">
            <Button severity="secondary" label="Look through the records" @click="look" />
          </p>
        </section>
      </div>
      <footer>
        <span v-if="problem" class="bad" role="alert">{{ problem }}</span>
        <span v-else-if="red" class="bad"
          ><b>{{ red === 1 ? '1 rehearsal fails.' : `${red} rehearsals fail.` }}</b>
          <span class="muted">{{
            draft.form?.red === 'refuse' ? 'This form is not published while one does.' : 'This form lets you publish all the same.'
          }}</span></span
        >
        <label class="note"
          ><span class="sr">What is this version for?</span
          ><InputText v-model="note" maxlength="500" placeholder="What is this version for? (a note for those who look at it later)"
        /></label>
        <Button as="router-link" severity="secondary" :to="`/design/forms/${form}`">Back to the draft</Button>
        <Button v-if="impact?.current && impact.changing" severity="secondary" :disabled="busy || barred" @click="publish(true)"
          >Publish and backfill {{ n(values) }} {{ values === 1 ? 'value' : 'values' }}…</Button
        >
        <Button :disabled="busy || barred" @click="publish(false)">{{ busy ? 'Publishing…' : `Publish version ${next}` }}</Button>
      </footer>
    </template>
  </div>
</template>

<style scoped>
.screen {
  min-height: 100%;
  display: flex;
  flex-direction: column;
}
.two {
  flex: 1;
  display: grid;
  grid-template-columns: minmax(260px, 380px) minmax(0, 1fr);
}
.left {
  background: var(--ground-2);
  border-right: 1px solid var(--line);
  padding: 18px 20px;
  min-width: 0;
}
.right {
  padding: 18px 24px;
  min-width: 0;
}
h2 {
  margin-bottom: 12px;
}
.rehearsals {
  margin-top: 22px;
}
.list {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
}
.list li {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
.against {
  color: var(--bad);
  display: block;
  font-size: 13px;
}
.found {
  padding-top: 18px;
}
.page {
  display: grid;
  gap: 14px;
  align-content: start;
}
footer {
  position: sticky;
  bottom: 0;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
  padding: 12px 20px;
  background: var(--ground);
  border-top: 1px solid var(--line);
  z-index: 2;
}
.note {
  flex: 1;
  min-width: 220px;
}
.note .p-inputtext {
  width: 100%;
  max-width: 520px;
}
footer .bad {
  flex: 1;
}
footer .bad .muted {
  margin-left: 6px;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
  .left {
    border-right: 0;
    border-bottom: 1px solid var(--line);
  }
}
</style>
