<script setup lang="ts">
import { partWords } from '~~/core/engine/why.ts';
import { parseAddress } from '~~/core/engine/state.ts';
import { whyNot } from '~~/core/engine/whyNot.ts';
import type { Row } from '~~/core/values/types.ts';

/* Why a row that one looked for is not among the choices: each condition asked of that row, with what the row has. */
const props = defineProps<{ host: EntryHost; name: string }>();
const place = computed(() => parseAddress(props.name));
const field = computed(() => props.host.view(props.name).field);
const offer = computed(() => props.host.view(props.name).offer);
/** what the list is made of, where all of it is known here */
const all = computed((): readonly Row[] => {
  void props.host.versions[props.name];
  const { choices } = field.value;
  if (!choices || choices.values !== null) return [];
  return choices.options ?? (choices.table ? (props.host.cache().table(choices.table)?.rows ?? []) : []);
});
const missing = computed(() => {
  const offered = new Set((offer.value?.rows ?? []).map((r) => r.id));
  const { plan } = props.host.entry.value!;
  return all.value
    .filter((r) => !offered.has(r.id))
    .map((r) => ({ value: r.id, label: candidateTexts(plan, field.value, r, props.host.cache()).text }));
});
/** its rows are too many to be here: one is found by searching */
const large = computed(() => {
  const { table } = field.value.choices ?? {};
  return table && !props.host.cache().table(table) && all.value.length === 0 ? table : null;
});
const picked = ref<number>();
const pickedText = ref('');
watch(() => props.name, () => (picked.value = undefined)); // prettier-ignore
const row = computed(() => {
  void props.host.versions[props.name];
  const { choices } = field.value;
  if (picked.value === undefined) return null;
  return (
    all.value.find((r) => r.id === picked.value) ?? (choices?.table ? (props.host.cache().row(choices.table, picked.value) ?? null) : null)
  );
});
/** A row that is not here is fetched, with those it is asked through. */
async function take(found: { id: number; text: string } | null): Promise<void> {
  picked.value = found?.id;
  pickedText.value = found?.text ?? '';
  const { entry } = props.host;
  const { table } = field.value.choices ?? {};
  if (!found || !table) return;
  await props.host.learn([{ kind: 'row', table, id: found.id }]);
  // a path may lead through several links, and each is known only when the one before it is
  for (let round = 0; round < 6; round++) {
    const lacking = (row.value && entry.value?.wantedBy(() => ask(row.value!))) ?? [];
    if (!lacking.length || picked.value !== found.id) return;
    await props.host.learn(lacking);
  }
}
const ask = (of: Row) => whyNot(props.host.entry.value!, place.value.field, place.value.line ?? null, of);
const told = computed(() => {
  void props.host.versions[props.name];
  const entry = props.host.entry.value;
  if (!entry || !row.value) return null;
  const { plan } = entry;
  const at = { field: place.value.field, line: place.value.line ?? null };
  return ask(row.value).map((p) => ({
    ...p,
    words: partWords(entry, at, p, (type, result) => showResult(plan, props.host.cache(), type, result)),
    own: p.has.map((h) => `${h.name.replaceAll('.', ' › ').replaceAll('_', ' ')} ${showResult(plan, props.host.cache(), h.type, h.value)}`),
  }));
});
const pickedLabel = computed(() => missing.value.find((m) => m.value === picked.value)?.label ?? pickedText.value);
const against = computed(() => told.value?.filter((p) => !p.skipped && p.holds !== true).length ?? 0);
</script>

<template>
  <div v-if="(missing.length || large) && offer?.status !== 'failed'" class="not">
    <span v-if="large"
      >Why is one missing?
      <FindWord :table="large" :text="pickedText || 'find it'" label="A choice that is missing" @pick="take" />
    </span>
    <PickOne v-else v-model="picked" size="small" label="A choice that is missing" placeholder="Why is one missing?" :options="missing" />
    <div v-if="told" role="status">
      <p v-if="!told.length || !against">
        {{
          offer?.status === 'waiting'
            ? `Nothing stands against ${pickedLabel} but that the list still waits.`
            : `Nothing stands against ${pickedLabel}.`
        }}
      </p>
      <p v-else>
        <b>{{ pickedLabel }}</b> is not offered:
      </p>
      <ul>
        <li v-for="p in told" :key="p.part" :class="{ stands: !p.skipped && p.holds !== true }">
          <i
            role="img"
            class="pi"
            :class="p.skipped ? 'pi-minus' : p.holds === true ? 'pi-check' : 'pi-times'"
            :aria-label="p.skipped ? 'does not count now' : p.holds === true ? 'true' : 'not true'"
          />
          <span :title="p.text"
            >{{ p.words }}<template v-if="p.own.length && p.holds !== true && !p.skipped">; it has {{ p.own.join(', ') }}</template
            ><template v-if="p.skipped">: does not count while that is empty</template></span
          >
        </li>
      </ul>
    </div>
  </div>
</template>

<style scoped>
.not {
  display: grid;
  gap: 6px;
}
ul {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
  display: grid;
  gap: 3px;
  font-size: 13px;
}
li {
  display: flex;
  gap: 8px;
  align-items: baseline;
  color: var(--ink-2);
}
.stands {
  color: var(--bad);
}
.pi {
  font-size: 11px;
}
</style>
