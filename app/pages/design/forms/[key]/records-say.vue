<script setup lang="ts">
import { FillOverTime } from '~/components/lateParts';
import { type FieldUse, type FillsUse, OUTCOME_WORDS, daysWords, share, sharesOf, valueWords } from '~/components/evidence/fillWords';

/* What the records of a form say about it: how well each of its fills works. It is about fields, never about people. */
const route = useRoute();
const key = String(route.params.key);
const draft = useDraft();
await draft.open(key);
const job = useJob('counting');
const use = shallowRef<FillsUse | null>(null);
const failed = ref('');

// ---- which records ----
const ALL = '';
const SPANS = {
  all: 'since the first',
  month: 'of the last 30 days',
  quarter: 'of the last 90 days',
  year: 'of the last 365 days',
} as const;
const DAYS = { all: null, month: 30, quarter: 90, year: 365 } as const;
type Span = keyof typeof SPANS;
const one = (name: string): string => (typeof route.query[name] === 'string' ? route.query[name] : '');
const span = ref<Span>(one('span') in SPANS ? (one('span') as Span) : 'all');
const version = ref(one('version'));
const step = ref(one('step'));
const spans = Object.entries(SPANS).map(([value, label]) => ({ value: value as Span, label }));
const versions = computed(() => [
  { value: ALL, label: 'any version' },
  ...Array.from({ length: draft.version ?? 0 }, (_, i) => ({ value: String(i + 1), label: `version ${i + 1}` })).reverse(),
]);
const steps = computed(() => [
  { value: ALL, label: 'at any step' },
  ...(draft.published?.steps?.list ?? []).map((s) => ({ value: s.value, label: `now ${s.label}` })),
]);
function since(): string | null {
  const days = DAYS[span.value];
  return days === null ? null : new Date(Date.now() - days * 86_400_000).toISOString().slice(0, 10);
}
async function load(): Promise<void> {
  if (draft.version === null) return;
  try {
    const asked = { since: since(), version: version.value === ALL ? null : Number(version.value), step: step.value || null };
    const found = await job.run(() => api.evidence.fills({ key }, asked));
    if (found) use.value = found;
    failed.value = '';
  } catch (e) {
    failed.value = messageOf(e);
  }
}
void load();
watch([span, version, step], () => {
  void navigateTo({ query: { ...route.query, span: span.value === 'all' ? undefined : span.value, version: version.value || undefined, step: step.value || undefined } }, { replace: true }); // prettier-ignore
  void load();
});

// ---- which fields ----
const own = computed(() => use.value?.fields.filter((u) => !u.field.includes('.')) ?? []);
const filling = computed(() => own.value.filter((u) => u.fill !== null || u.counts.kept > 0));
const byHand = computed(() => own.value.filter((u) => !filling.value.includes(u)));
const ofLines = computed(() => {
  const groups = new Map<string, FieldUse[]>();
  for (const u of use.value?.fields ?? []) {
    const [group = '', inner] = u.field.split('.');
    if (inner !== undefined) groups.set(group, [...(groups.get(group) ?? []), u]);
  }
  return [...groups].map(([group, fields]) => ({ group, label: draft.published?.lines[group]?.label ?? group, fields }));
});
const picked = ref<string | null>(one('field') || null);
const shown = computed((): FieldUse | null => use.value?.fields.find((u) => u.field === picked.value) ?? null); // prettier-ignore
const shares = computed(() => sharesOf(Object.values(shown.value?.counts ?? {})));
const keys = computed(() => {
  const sum = (of: 'pressed' | 'saved'): number => Math.round((use.value?.fields ?? []).reduce((n, u) => n + (u.keys[of] * u.records) / Math.max(1, use.value!.records), 0)); // prettier-ignore
  return { pressed: sum('pressed'), saved: sum('saved') };
});
const costly = computed(() => [...(use.value?.fields ?? [])].sort((a, b) => b.keys.pressed - a.keys.pressed).filter((u) => u.keys.pressed >= 0.5).slice(0, 3)); // prettier-ignore
const unchosen = computed(() => (use.value?.fields ?? []).filter((u) => u.unchosen.length > 0));
/** An option by its label. */
function optionWords(u: FieldUse, value: FieldUse['unchosen'][number]): string {
  const source = draft.published?.fields[u.field]?.source;
  const option = source?.kind === 'options' ? source.options.find((o) => o.value === value) : undefined;
  return option?.label ?? valueWords(u.column, value, use.value!.linked);
}
const label = computed(() => draft.form?.label ?? key);
useHead({ title: computed(() => `What the records of ${label.value} say · Brisk Acorn`) });
</script>

<template>
  <div class="page wide">
    <PlaceTrail
      :above="[
        { label: 'Forms', to: '/design/forms' },
        { label, to: `/design/forms/${key}` },
      ]"
      here="What the records say"
    />
    <h1>What the records say</h1>
    <Note v-if="draft.failed" kind="bad" :retry="() => draft.open(key)">{{ draft.failed }}</Note>
    <template v-else-if="draft.version === null">
      <Note kind="quiet"
        >This form has not been published yet, so no record was saved by it. What the rows of its table propose for the draft:</Note
      >
      <ProposalList :form="key" class="proposals alone" />
    </template>
    <template v-else>
      <p class="sentence">
        The records <PickWord :value="span" :options="spans" label="Since when" @pick="span = $event as Span" />, saved by
        <PickWord :value="version" :options="versions" label="By which version" @pick="version = $event" /><template v-if="steps.length > 1"
          >, <PickWord :value="step" :options="steps" label="At which step" @pick="step = $event" /></template
        >.
        <span v-if="use && !job.running.value" role="status"
          >{{ use.records.toLocaleString(LOCALE) }} {{ use.records === 1 ? 'record' : 'records' }}:
          <b>{{ keys.pressed }} keys each, the fills save {{ keys.saved }}</b
          >, as they were first saved.</span
        >
      </p>
      <JobProgress v-if="job.running.value" :progress="job.progress.value" :doing="job.doing.value" @cancel="job.cancel()" />
      <Note v-if="failed" kind="bad" :retry="load">{{ failed }}</Note>
      <Note v-else-if="use && !use.records" kind="quiet">No record was saved so.</Note>
      <template v-if="use && use.records">
        <Note v-if="use.older" kind="quiet">These are the newest 200,000 saves; older ones are not counted.</Note>
        <Note v-if="use.unknown" kind="quiet"
          >Of {{ use.unknown.toLocaleString(LOCALE) }} further records it was not noted how they came to be.</Note
        >
        <div class="two">
          <section aria-label="How well it fills">
            <FillKey />
            <FillTable v-model:picked="picked" :use="use" :fields="filling" label="How well it fills" />
            <div class="asides">
              <p v-if="costly.length">
                <b>Cost most keys</b><br /><template v-for="(u, i) in costly" :key="u.field"
                  >{{ i ? ' · ' : '' }}{{ u.label }} {{ u.keys.pressed.toFixed(1) }}</template
                >
              </p>
              <p v-if="unchosen.length">
                <b>Options nobody chose</b><br /><template v-for="(u, i) in unchosen" :key="u.field"
                  >{{ i ? '; ' : '' }}{{ u.label }}:
                  {{
                    u.unchosen
                      .slice(0, 6)
                      .map((v) => optionWords(u, v))
                      .join(', ')
                  }}{{ u.unchosen.length > 6 ? ` and ${u.unchosen.length - 6} more` : '' }}</template
                >
              </p>
            </div>
            <h2>Filled in by hand</h2>
            <FillTable v-model:picked="picked" :use="use" :fields="byHand" label="Filled in by hand" />
            <template v-for="g in ofLines" :key="g.group">
              <h2>{{ g.label }}</h2>
              <FillTable v-model:picked="picked" :use="use" :fields="g.fields" :label="g.label" lines />
            </template>
            <ListsUse :entered="use.entered" />
          </section>
          <div class="beside">
            <aside v-if="shown" class="told" :aria-label="shown.label">
              <div class="row spread">
                <h2>{{ shown.label }}</h2>
                <span class="row"
                  ><NuxtLink :to="`/design/forms/${key}?field=${shown.field}`">in the design</NuxtLink
                  ><IconButton icon="pi pi-times" aria-label="Close" @click="picked = null"
                /></span>
              </div>
              <FillOverTime v-if="use.spans.length > 1" :use="use" :field="shown" />
              <p v-if="use.spans.length > 1" class="muted small">Kept, over time; dotted: a version was published.</p>
              <dl>
                <template v-for="(n, o, i) in shown.counts" :key="o"
                  ><dt>{{ OUTCOME_WORDS[o] }}</dt>
                  <dd>
                    {{ n.toLocaleString(LOCALE) }} <span class="muted">{{ shares[i] }}</span>
                  </dd></template
                ><template v-if="shown.later"
                  ><dt>changed by hand later</dt>
                  <dd>{{ shown.later.toLocaleString(LOCALE) }}</dd></template
                >
                <dt>keys a record</dt>
                <dd>
                  {{ shown.keys.pressed.toFixed(1) }} <span class="muted">saves {{ shown.keys.saved.toFixed(1) }}</span>
                </dd>
              </dl>
              <template v-if="shown.over.length">
                <h3>Typed over with</h3>
                <ol>
                  <li v-for="o in shown.over" :key="String(o.value) + o.days">
                    {{ o.days === null ? optionWords(shown, o.value) : daysWords(o.days) }}
                    <span class="muted">{{ o.count.toLocaleString(LOCALE) }} of {{ shown.counts.over.toLocaleString(LOCALE) }}</span>
                  </li>
                </ol>
              </template>
              <template v-if="shown.where">
                <h3>Where</h3>
                <p>
                  Of the {{ shown.where.of.toLocaleString(LOCALE) }} with {{ shown.where.label }}
                  <b>{{ valueWords(shown.where.column, shown.where.value, use.linked) }}</b>,
                  {{ shown.where.over.toLocaleString(LOCALE) }} ({{ share(shown.where.over, shown.where.of) }}): that is
                  {{ share(shown.where.over, shown.counts.over) }} of all.
                </p>
              </template>
            </aside>
            <ProposalList :form="key" class="proposals" />
          </div>
        </div>
      </template>
    </template>
  </div>
</template>

<style scoped>
.sentence {
  font-size: 15px;
  line-height: 1.9;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 340px;
  gap: 24px;
  align-items: start;
}
.beside {
  display: grid;
  gap: 16px;
}
.alone {
  max-width: 760px;
}
.told,
.proposals {
  padding: 12px 16px;
  background: var(--ground-2);
}
.told {
  border-left: 3px solid var(--flow);
}
.small {
  font-size: 12.5px;
}
.asides {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 32px;
  padding: 6px 0;
}
.asides p {
  max-width: 420px;
}
dl {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 2px 12px;
  font-size: 13.5px;
}
dd {
  margin: 0;
  text-align: end;
}
ol {
  padding-left: 20px;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
