<script setup lang="ts">
/* Giving records that exist what the form gives now: choose, look at every change, apply, undo. */
const route = useRoute();
const form = String(route.params.key);
const offer = shallowRef<BackfillOffer | null>(null);
const failed = ref('');
const fields = ref<readonly string[]>([]);
const over = ref<Over>('empty');
const subset = ref<string | null>(null);
/** only the records that a look at a draft, published since, found to change */
const impact = ref<number | null>(null);
const current = shallowRef<BackfillView | null>(null);
const problem = ref('');
const previewing = useJob('looking at records');
const writing = useJob('Backfill', { goesOn: true });
useHead({ title: 'Backfill · Brisk Acorn' });

async function load(): Promise<void> {
  try {
    offer.value = await api.backfills.offer({ key: form });
    failed.value = '';
  } catch (e) {
    failed.value = messageOf(e);
  }
}
await load();
current.value = offer.value?.earlier.find((b) => b.state === 'previewed' && b.current) ?? null;
// what was published just now is chosen already
const asked = String(route.query.fields ?? '').split(',').filter((f) => offer.value?.fields.some((o) => o.field === f)); // prettier-ignore
if (asked.length) {
  current.value = null;
  fields.value = asked;
} else if (current.value) {
  ({ over: over.value, subset: subset.value, fields: fields.value } = current.value.asked);
  impact.value = current.value.asked.impact ?? null;
}
const found = Number(route.query.impact ?? 0);
/** what was found before publishing is previewed at once: the same fields, of the same records */
onMounted(async () => {
  if (!Number.isInteger(found) || found < 1 || !offer.value || current.value?.asked.impact === found) return;
  const last = await api.impacts.last({ key: form }).catch(() => null);
  if (last?.id !== found) {
    problem.value = 'What was found before publishing is no longer kept. Choose the fields here.';
    return;
  }
  current.value = null;
  fields.value = last.fields.filter((f) => offer.value?.fields.some((o) => o.field === f));
  over.value = 'filled';
  subset.value = null;
  impact.value = found;
  await preview();
});

const OVERS: readonly { value: Over; text: string; note: string }[] = [
  { value: 'empty', text: 'Only where it is empty', note: 'no existing value is replaced' },
  { value: 'filled', text: 'Also values the form had filled in', note: 'what people typed or chose stays' },
  { value: 'all', text: 'Everything', note: 'what people typed is replaced too' },
];
const labelOf = (path: string): string => {
  const f = offer.value?.fields.find((x) => x.field === path);
  return f ? (f.lines ? `${f.lines}: ${f.label}` : f.label) : path;
};
const n = (count: number): string => count.toLocaleString(LOCALE);
const records = (count: number): string => `${n(count)} ${count === 1 ? 'record' : 'records'}`;
function toggle(path: string, on: boolean): void {
  fields.value = on ? [...fields.value, path] : fields.value.filter((f) => f !== path);
}

async function working(job: ReturnType<typeof useJob>, begin: () => Promise<Begun<BackfillView>>): Promise<void> {
  problem.value = '';
  try {
    const view = await job.run(begin);
    if (view) current.value = view;
  } catch (e) {
    problem.value = messageOf(e);
  }
  await load();
  const id = current.value?.id;
  // what was stopped half-way stands as the server has it
  if (id) current.value = offer.value?.earlier.find((b) => b.id === id) ?? null;
}
const preview = () =>
  working(previewing, () =>
    api.backfills.preview(
      { key: form },
      { fields: fields.value, over: over.value, subset: impact.value ? null : subset.value, impact: impact.value },
    ),
  );
const apply = () => working(writing, () => api.backfills.apply({ key: form, id: current.value!.id }));
const undo = () => working(writing, () => api.backfills.undo({ key: form, id: current.value!.id }));
async function forget(): Promise<void> {
  await api.backfills.forget({ key: form, id: current.value!.id }).catch((e: unknown) => (problem.value = messageOf(e)));
  current.value = null;
  await load();
}
const busy = computed(() => previewing.running.value || writing.running.value);
const asAsked = computed(
  () =>
    current.value !== null &&
    JSON.stringify([...current.value.asked.fields].sort()) === JSON.stringify([...fields.value].sort()) &&
    current.value.asked.over === over.value &&
    (current.value.asked.impact ?? null) === impact.value &&
    (impact.value !== null || current.value.asked.subset === subset.value),
);
const STATES = { previewed: 'proposed', applied: 'applied', undone: 'undone' } as const;
const done = computed(() => offer.value?.earlier.filter((b) => b.state !== 'previewed') ?? []);
</script>

<template>
  <div class="page wide">
    <header>
      <PlaceTrail
        :above="[
          { label: 'Forms', to: '/design/forms' },
          { label: offer?.form ?? form, to: `/design/forms/${form}` },
        ]"
        here="Backfill"
      />
      <h1>Backfill</h1>
      <p v-if="offer" class="muted">
        Gives existing records what version {{ offer.version }} of the form gives. You see every change first; nothing is written until you
        apply it, and all of it can be undone at once.
      </p>
    </header>
    <Note v-if="failed" kind="bad" :retry="load">{{ failed }}</Note>
    <Note v-else-if="offer && !offer.fields.length">
      No field of version {{ offer.version }} has a default, a prefill or a calculation. Give one to a field and publish; then its records
      can be given it here.
    </Note>
    <div v-else-if="offer" class="two">
      <form class="ask" @submit.prevent="preview">
        <section aria-labelledby="bf-fields">
          <h3 id="bf-fields" class="row">
            Fields
            <Button
              link
              severity="secondary"
              :disabled="busy"
              :label="fields.length ? 'none' : 'all'"
              @click="fields = fields.length ? [] : offer.fields.map((f) => f.field)"
            />
          </h3>
          <ul class="fields">
            <li v-for="f in offer.fields" :key="f.field">
              <label
                ><Checkbox binary :disabled="busy" :model-value="fields.includes(f.field)" @update:model-value="toggle(f.field, $event)" />
                <b>{{ labelOf(f.field) }}</b> <span class="muted">{{ f.kind }}</span></label
              >
              <code v-tooltip.bottom="f.formula">{{ f.formula }}</code>
            </li>
          </ul>
        </section>
        <section role="radiogroup" aria-labelledby="bf-values">
          <h3 id="bf-values">Values</h3>
          <label v-for="o in OVERS" :key="o.value" class="radio"
            ><RadioButton v-model="over" name="over" :value="o.value" :disabled="busy" />
            <span
              >{{ o.text }}<br /><span class="muted">{{ o.note }}</span></span
            ></label
          >
        </section>
        <section>
          <h3>Records</h3>
          <p v-if="impact !== null">
            only those that were found to change before publishing
            <Button link severity="secondary" :disabled="busy" label="All instead" @click="impact = null" />
          </p>
          <PickOne
            v-else
            v-model="subset"
            class="whole"
            label="Records"
            :disabled="busy"
            :options="[
              { value: null, label: `all ${n(offer.records)}` },
              ...offer.subsets.map((s) => ({ value: s.key as string | null, label: s.label })),
            ]"
          />
        </section>
        <div class="row">
          <Button type="submit" :severity="asAsked ? 'secondary' : undefined" label="Preview" :disabled="!fields.length || busy" />
          <span v-if="!fields.length" class="muted">Choose at least one field.</span>
        </div>
        <p class="muted small">“me” is whoever entered the record; today is today.</p>
      </form>
      <section class="found" aria-label="What it does">
        <JobProgress
          v-if="previewing.running.value"
          :progress="previewing.progress.value"
          :doing="previewing.doing.value"
          @cancel="previewing.cancel"
        />
        <Note v-if="problem" kind="bad">{{ problem }}</Note>
        <template v-if="current && !previewing.running.value">
          <div class="row spread head">
            <p role="status">
              <template v-if="current.state === 'previewed'">
                <b>{{ records(current.records.proposed) }}</b> of {{ n(current.looked) }} would change{{
                  current.records.refused ? `; in ${n(current.records.refused)} something prevents it` : ''
                }}.
              </template>
              <template v-else-if="current.state === 'applied'">
                <b>{{ records(current.records.written) }}</b> changed{{
                  current.records.skipped ? `, ${n(current.records.skipped)} left unchanged` : ''
                }}{{ current.records.proposed ? `; ${n(current.records.proposed)} still to be written` : '' }}.
              </template>
              <template v-else>
                <b>{{ records(current.records.putBack) }}</b> restored{{
                  current.records.skipped ? `, ${n(current.records.skipped)} left unchanged` : ''
                }}.
              </template>
              <span class="muted">{{ current.asked.fields.map(labelOf).join(', ') }}</span>
            </p>
            <JobProgress
              v-if="writing.running.value"
              :progress="writing.progress.value"
              :doing="writing.doing.value"
              @cancel="writing.cancel"
            />
            <div v-else class="row">
              <Button v-if="current.state === 'previewed'" severity="secondary" @click="forget">Discard</Button>
              <Button v-if="current.state === 'applied' && current.records.written" severity="secondary" @click="undo">
                Undo it all
              </Button>
              <Button
                v-if="current.state !== 'undone' && current.records.proposed && current.current"
                :disabled="current.state === 'previewed' && !asAsked"
                :title="asAsked ? '' : 'What is chosen has changed since this preview: preview it again'"
                @click="apply"
              >
                {{ current.state === 'applied' ? 'Write the rest' : `Apply to ${records(current.records.proposed)}` }}
              </Button>
            </div>
          </div>
          <Note v-if="!current.current && current.state === 'previewed'">
            The form was published again since this preview. Preview it again.
          </Note>
          <BackfillRecords :key="`${current.id} ${current.state} ${current.records.written}`" :form="form" :backfill="current" />
        </template>
        <p v-else-if="!previewing.running.value" class="muted empty">
          Choose fields on the left and press Preview to see, record by record, what would change.
        </p>
        <section v-if="done.length" class="block">
          <h2>Earlier backfills</h2>
          <DataTable :value="done" data-key="id">
            <Column v-memo="[]" header="No." field="id" />
            <Column v-memo="[]" header="Fields"
              ><template #body="{ data: b }">{{ (b as BackfillView).asked.fields.map(labelOf).join(', ') }}</template></Column
            >
            <Column v-memo="[]" header="By" field="by" />
            <Column v-memo="[]" header="Records" class="num"
              ><template #body="{ data: b }">{{ n(b.records.written + b.records.putBack) }}</template></Column
            >
            <Column v-memo="[]" header="State"
              ><template #body="{ data: b }"
                >{{ STATES[(b as BackfillView).state] }} <span class="muted">{{ showMoment(b.undoneAt ?? b.appliedAt) }}</span></template
              ></Column
            >
            <Column v-memo="[]">
              <template #header><span class="sr">Look</span></template>
              <template #body="{ data: b }"
                ><Button link severity="secondary" :disabled="busy" label="Open" @click="current = b"
              /></template>
            </Column>
          </DataTable>
        </section>
      </section>
    </div>
  </div>
</template>

<style scoped>
.wide {
  max-width: none;
}
.two {
  display: grid;
  grid-template-columns: 330px minmax(0, 1fr);
  gap: 28px;
  align-items: start;
}
.ask > section {
  min-width: 0;
  margin-bottom: 16px;
}
.whole {
  width: 100%;
}
.fields label {
  display: flex;
  gap: 6px;
  align-items: center;
}
.fields {
  list-style: none;
  margin: 0;
  padding: 4px 10px;
  border: 1px solid var(--line);
  border-radius: var(--r);
  max-height: 300px;
  overflow: auto;
}
.fields li {
  padding: 3px 0;
}
.fields code {
  display: block;
  padding-left: 24px;
  font-size: 12px;
  color: var(--ink-2);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.radio {
  display: flex;
  gap: 8px;
  align-items: baseline;
  padding: 2px 0;
}
.radio .muted,
.small {
  font-size: 13px;
}
.head {
  align-items: baseline;
  margin-bottom: 8px;
}
.empty {
  padding: 40px 0;
  text-align: center;
}
.block {
  padding-top: 28px;
}
</style>
