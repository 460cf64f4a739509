<script setup lang="ts">
import { MOST_AT_ONCE } from '~~/core/contract/limits.ts';
import type { Result } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import type { Right } from '~~/core/form/rights.ts';

/* What can be done with the records that are chosen: one field changed, looked at first; deleted; labels for them. All can be taken back. */
const props = defineProps<{ form: string; may: readonly Right[] }>();
const picked = defineModel<ReadonlyMap<number, number>>('picked', { required: true });
const emit = defineEmits<{ done: []; changed: [] }>();
const records = useRecordViews();
const job = useJob('records');
const problem = ref('');
type Outcome = Result<typeof contract.many.undo>['records'][number];
const seen = computed(() => [...picked.value].map(([id, revision]) => ({ id, revision })));
const count = computed(() => picked.value.size);
const words = (n: number): string => `${n.toLocaleString(LOCALE)} ${n === 1 ? 'record' : 'records'}`;

async function during<T>(act: () => Promise<T | null>): Promise<T | null> {
  problem.value = '';
  try {
    return await act();
  } catch (e) {
    problem.value = messageOf(e);
    return null;
  }
}
/** All that the view shows, as many as can be done with at once. */
const chooseAll = (): Promise<unknown> =>
  during(async () => {
    const next = new Map<number, number>();
    for (let offset = 0; offset < MOST_AT_ONCE; offset += 500) {
      const page = await api.entries.list({ key: props.form }, { view: JSON.stringify(records.view), search: records.search, offset, limit: 500, descending: '1' });
      for (const r of page.rows) next.set(r.row.id, r.revision);
      if (page.rows.length < 500) break;
    }
    picked.value = next;
    return null;
  }); // prettier-ignore

// ---- what was done, and taking it back ----
const done = shallowRef<{
  readonly text: string;
  readonly refused: readonly Outcome[];
  readonly back: (() => Promise<void>) | null;
} | null>(null);
function tell(what: string, all: readonly Outcome[], back: ((of: readonly Outcome[]) => Promise<void>) | null): void {
  const good = all.filter((r) => r.message === null);
  done.value = { text: `${words(good.length)} ${what}.`, refused: all.filter((r) => r.message !== null), back: back && good.length ? () => back(good) : null }; // prettier-ignore
  picked.value = new Map();
  emit('changed');
}

// ---- one field ----
const host = useEntryHost((wants) => api.entries.wants({ key: props.form }, { version: version.value, wants: [...wants] }));
const version = ref(0);
const changing = ref(false);
const field = ref<string | null>(null);
type Tried = Result<typeof contract.many.change>;
const tried = shallowRef<Tried | null>(null);
const fields = computed(() => addressFields(host).map((f) => ({ value: f.key, label: f.definition.label })));
/** The first of them is opened: the field is filled in as it would be there, with its own control. */
const beginChange = (): Promise<unknown> =>
  during(async () => {
    const first = seen.value[0];
    if (!first) return null;
    const opened = openedOf(await api.entries.open({ key: props.form, id: first.id }));
    version.value = opened.version;
    host.open(openedPlan(opened), { ...opened.context, url: {}, mode: opened.mode }, opened.record, opened.answered);
    field.value = null;
    tried.value = null;
    changing.value = true;
    return null;
  });
const valueNow = computed(() => (field.value === null ? null : host.view(field.value).value));
const asText = computed(() => JSON.stringify([field.value, valueNow.value]));
watch(asText, () => (tried.value = null));
const ask = (dry: boolean) =>
  job.run(() =>
    api.many.change({ key: props.form }, { version: version.value, records: seen.value, field: field.value!, value: valueNow.value, dry }),
  );
const look = (): Promise<unknown> =>
  during(async () => {
    const at = asText.value;
    const answer = await ask(true);
    // what was asked before is not what stands there
    if (at === asText.value) tried.value = answer;
    return null;
  });
const apply = (): Promise<unknown> =>
  during(async () => {
    const label = fields.value.find((f) => f.value === field.value)?.label ?? '';
    const answer = await ask(false);
    changing.value = false;
    if (answer)
      tell(
        `changed: ${label}`,
        answer.records.filter((r) => r.message !== null || Object.keys(r.changes).length),
        undo,
      );
    return null;
  });
async function undo(of: readonly Outcome[]): Promise<void> {
  await during(async () => {
    const back = of.flatMap((r) => (r.revision === null ? [] : [{ id: r.id, revision: r.revision }]));
    const answer = await job.run(() => api.many.undo({ key: props.form }, { records: back }));
    if (answer) tell('as before', answer.records, null);
    return null;
  });
}
const labelOf = (key: string): string => host.label(key);
function shown(key: string, value: unknown): string {
  const type = host.entry.value?.plan.own.find((f) => f.key === key)?.type;
  const linked = type?.kind === 'row' && typeof value === 'number' ? tried.value?.linked[type.table]?.[value] : undefined;
  return linked ?? (host.show(key, value as never) || 'empty');
}
const changesTold = computed(() => {
  const all = tried.value?.records ?? [];
  const good = all.filter((r) => r.message === null && Object.keys(r.changes).length);
  const fields = new Map<string, number>();
  for (const r of good) for (const k of Object.keys(r.changes)) if (k !== field.value) fields.set(k, (fields.get(k) ?? 0) + 1);
  return { good, refused: all.filter((r) => r.message !== null), same: all.length - good.length - all.filter((r) => r.message !== null).length, follows: [...fields] };
}); // prettier-ignore

// ---- deleting ----
const remove = (): Promise<unknown> =>
  during(async () => {
    const answer = await job.run(() => api.many.remove({ key: props.form }, { records: seen.value }));
    if (answer) tell('deleted', answer.records, restore);
    return null;
  });
async function restore(of: readonly Outcome[]): Promise<void> {
  await during(async () => {
    const answer = await job.run(() => api.many.restore({ key: props.form }, { ids: of.map((r) => r.id) }));
    if (answer) tell('restored', answer.records.map((r) => ({ ...r, message: r.revision === null ? r.message : null })), null);
    return null;
  });
} // prettier-ignore
</script>

<template>
  <div class="chosen" role="group" aria-label="Chosen records">
    <b>{{ words(count) }} chosen</b>
    <Button link label="all that are shown" @click="chooseAll" />
    <Button v-if="count" link severity="secondary" label="none" @click="picked = new Map()" />
    <Button
      v-if="may.includes('edit')"
      size="small"
      severity="secondary"
      :disabled="!count || job.running.value"
      label="Change a field…"
      @click="beginChange"
    />
    <Button
      v-if="may.includes('delete')"
      size="small"
      severity="secondary"
      :disabled="!count || job.running.value"
      label="Delete"
      @click="remove"
    />
    <Button
      as="router-link"
      size="small"
      severity="secondary"
      :disabled="!count"
      label="Labels…"
      :to="`/entry/${form}/labels?ids=${[...picked.keys()].slice(0, 500).join(',')}`"
    />
    <Button link severity="secondary" label="Done choosing" @click="emit('done')" />
    <JobProgress v-if="job.running.value && !changing" :progress="job.progress.value" :doing="job.doing.value" @cancel="job.cancel()" />
    <span v-if="problem" class="bad" role="alert">{{ problem }}</span>
    <div v-if="done" class="did" role="status">
      {{ done.text }} <Button v-if="done.back" link label="Undo" @click="done.back()" />
      <template v-if="done.refused.length">
        {{ words(done.refused.length) }} stayed:
        <ul>
          <li v-for="r in done.refused.slice(0, 5)" :key="r.id">
            <NuxtLink :to="`/entry/${form}/${r.id}`">{{ r.id }}</NuxtLink>: {{ r.message }}
          </li>
          <li v-if="done.refused.length > 5" class="muted">and {{ done.refused.length - 5 }} more</li>
        </ul></template
      >
    </div>
    <StayDialog v-model:visible="changing" modal :header="`Change a field of ${words(count)}`" :style="{ width: '560px' }">
      <div class="dialog">
        <Select
          v-model="field"
          aria-label="Which field"
          :options="fields"
          option-label="label"
          option-value="value"
          filter
          placeholder="Which field?"
          fluid
        />
        <EntryField v-if="field" :key="field" :host="host" :name="field" prefix="bulk" />
        <p v-if="field" class="muted">It is filled in as in record {{ seen[0]?.id }}; each record judges it for itself.</p>
        <JobProgress v-if="job.running.value" :progress="job.progress.value" :doing="job.doing.value" @cancel="job.cancel()" />
        <template v-if="tried">
          <Note kind="quiet"
            ><b>{{ words(changesTold.good.length) }}</b> would change<template v-if="changesTold.same"
              >, {{ words(changesTold.same) }} have it already</template
            ><template v-if="changesTold.follows.length"
              >. With it: {{ changesTold.follows.map(([k, n]) => `${labelOf(k)} (${n})`).join(', ') }}</template
            >.</Note
          >
          <ul class="examples">
            <li v-for="r in changesTold.good.slice(0, 4)" :key="r.id">
              {{ r.id }}:
              <span v-for="(c, k) in r.changes" :key="k"
                >{{ labelOf(String(k)) }} {{ shown(String(k), c[0]) }} → <b>{{ shown(String(k), c[1]) }}</b>{{ ' ' }}</span
              >
            </li>
          </ul>
          <Note v-if="changesTold.refused.length" kind="note"
            >{{ words(changesTold.refused.length) }} would stay as they are:
            <ul>
              <li v-for="r in changesTold.refused.slice(0, 4)" :key="r.id">{{ r.id }}: {{ r.message }}</li>
            </ul></Note
          >
        </template>
        <span v-if="problem" class="bad" role="alert">{{ problem }}</span>
      </div>
      <template #footer>
        <Button text severity="secondary" label="Cancel" @click="changing = false" />
        <Button v-if="!tried" :disabled="!field || job.running.value" label="See what would change" @click="look" />
        <Button
          v-else
          :disabled="!changesTold.good.length || job.running.value"
          :label="`Change ${words(changesTold.good.length)}`"
          @click="apply"
        />
      </template>
    </StayDialog>
  </div>
</template>

<style scoped>
.chosen {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 14px;
  padding: 4px 16px 8px;
}
.did {
  flex-basis: 100%;
}
.dialog {
  display: grid;
  gap: 10px;
}
.examples {
  font-size: 13px;
}
</style>
