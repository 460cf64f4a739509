<script setup lang="ts">
import { changeField } from '~~/core/form/edit.ts';
import type { FieldSource } from '~~/core/choices/sources/index.ts';
import { parseAddress } from '~~/core/engine/state.ts';
import { why } from '~~/core/engine/why.ts';
import { fieldAt } from '~~/core/form/definition.ts';
import { MORE } from './sources/useSource';

/* Where a field's choices come from, which of them are offered, and what happens as drivers change. */
const props = defineProps<{ name: string }>();
const draft = useDraft();
const tryout = useTryout();
const field = computed(() => fieldAt(draft.form!, props.name)!);
const source = computed(() => field.value.source);
const view = computed(() => tryout.viewAt(props.name));
const table = computed(() => (source.value && 'table' in source.value ? (draft.tables.get(source.value.table) ?? null) : null));
const set = (change: Partial<FieldSource>): void => {
  const base = source.value;
  if (base) draft.change(changeField(draft.form!, props.name, { source: { ...base, ...change } as FieldSource }));
};

const offer = computed(() => view.value.offer);
const counted = shallowRef<{ all: number; remaining: readonly number[] } | null>(null);
const large = computed(() => offer.value?.status === 'ready' && offer.value.rows === null);
watch([large, () => offer.value?.key, () => source.value?.where], async () => {
  counted.value = null;
  const address = tryout.addressAt(props.name);
  if (large.value && address) counted.value = await tryout.host.funnel(address).catch(() => null);
}, { immediate: true }); // prettier-ignore
const funnel = computed(() => {
  const address = tryout.addressAt(props.name);
  const entry = tryout.host.entry.value;
  // the view depends on what of the entry changed
  if (!address || !entry || view.value.offer?.status !== 'ready') return null;
  const { field: path, line } = parseAddress(address);
  const list = why(entry, path, line).list;
  const all = counted.value?.all ?? list?.all ?? null;
  return list && all !== null ? { all, parts: toldParts(tryout.host, address, { ...list, all }, counted.value?.remaining ?? null) } : null;
});
const labelOf = (slot: number): string => draft.plan!.fields[slot]!.definition.label;
const drivers = computed(() => (view.value.field.choices?.narrowing?.drivers ?? []).map(labelOf));
const equated = computed(() =>
  (view.value.field.choices?.narrowing?.parts ?? []).flatMap((p) => (p.equates ? [labelOf(p.equates.slot)] : [])),
);
/** A value of a column in a large table may stand in any number of rows: what stands above it cannot be told. */
const unfillable = computed(() => source.value?.fillUp === true && view.value.field.choices?.fills.length === 0);
const WAITING = [
  { value: 'none', label: 'offers nothing' },
  { value: 'all', label: 'offers all' },
  { value: 'hide', label: 'is hidden' },
] as const;
const ON_CHANGE = [
  { value: 'clearIfGone', label: 'clear the choice if it no longer fits' },
  { value: 'clear', label: 'always clear the choice' },
  { value: 'keep', label: 'keep the choice and mark it' },
] as const;
const SINGLE = [
  { value: 'take', label: 'choose it' },
  { value: 'leave', label: 'leave it to be chosen' },
] as const;
const FILL = [
  { value: 'yes', label: 'also fills' },
  { value: 'no', label: 'does not fill' },
] as const;
/** What stands at its usual setting is told on asking. */
const more = ref(false);
provide(MORE, more);
watch(() => props.name, () => (more.value = false)); // prettier-ignore
const told = computed(() => {
  const s = source.value;
  const waits = drivers.value.length > 0;
  return (
    s && {
      waiting: waits && (more.value || s.waiting !== 'none'),
      change: waits && (more.value || s.onDriverChange !== 'clearIfGone'),
      single: more.value || s.single !== 'leave',
      fill: equated.value.length > 0 && (more.value || (s.waiting === 'all' && !s.fillUp)),
    }
  );
});
const sourceName = computed(() => (table.value ? `all rows of ${table.value.label}` : 'all choices'));
</script>

<template>
  <section>
    <h3>Choices</h3>
    <SourceSentence :name="name" />
    <template v-if="source">
      <ConditionList :name="name" :where="source.where" :table="table" :base="draft.scope!" @change="set({ where: $event })" />
      <FunnelBars
        v-if="funnel && (table || funnel.parts.length)"
        class="bars"
        :source="sourceName"
        :all="funnel.all"
        :parts="funnel.parts"
      />
      <p v-else-if="offer?.status === 'waiting'" class="muted small">
        Waiting for {{ offer.waitsFor.map(tryout.host.label).join(' and ') }}: choose there to see the numbers.
      </p>
      <p v-else-if="offer?.status === 'failed'" class="bad small">
        {{ offer.reason }} <Button link @click="tryout.host.retry()">Try again</Button>
      </p>
      <p class="behave">
        <template v-if="told?.waiting">
          Until {{ drivers.join(' and ') }} {{ drivers.length > 1 ? 'are' : 'is' }} chosen, it
          <PickWord :value="source.waiting" :options="WAITING" label="While waiting" @pick="set({ waiting: $event })" />.{{ ' ' }}
        </template>
        <template v-if="told?.change">
          When {{ drivers.length > 1 ? 'one of them' : drivers[0] }} changes,
          <PickWord
            :value="source.onDriverChange"
            :options="ON_CHANGE"
            label="When a driver changes"
            @pick="set({ onDriverChange: $event })"
          />.{{ ' ' }}
        </template>
        <template v-if="told?.single">
          When only one is left,
          <PickWord :value="source.single" :options="SINGLE" label="The only one left" @pick="set({ single: $event })" />.{{ ' ' }}
        </template>
        <template v-if="told?.fill">
          <template v-if="source.waiting !== 'all'">
            {{ field.label }} cannot be chosen first, since nothing is offered until then:
            <Button link @click="set({ waiting: 'all' })">offer all</Button>, and choosing it first
            {{ source.fillUp ? 'also fills' : 'can also fill' }} {{ equated.join(' and ') }}.
          </template>
          <template v-else-if="unfillable">
            Choosing {{ field.label }} first cannot fill {{ equated.join(' and ') }}: the table is too large to look at all rows of a value.
          </template>
          <template v-else>
            Choosing {{ field.label }} first
            <PickWord :value="source.fillUp ? 'yes' : 'no'" :options="FILL" label="Filling up" @pick="set({ fillUp: $event === 'yes' })" />
            {{ equated.join(' and ') }}.</template
          >{{ ' ' }}
        </template>
        <Button link severity="secondary" class="small" :aria-expanded="more" @click="more = !more">{{ more ? 'less' : 'more…' }}</Button>
      </p>
    </template>
  </section>
</template>

<style scoped>
.bars {
  margin: 6px 0;
}
.behave {
  padding-top: 4px;
}
.small {
  font-size: 13px;
}
</style>
