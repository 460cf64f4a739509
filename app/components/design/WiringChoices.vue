<script setup lang="ts">
import { changeField } from '~~/core/form/edit.ts';
import type { FieldSource } from '~~/core/choices/sources/index.ts';
import { fieldAt } from '~~/core/form/definition.ts';

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
  const o = offer.value;
  const parts = view.value.field.choices?.narrowing?.parts ?? [];
  if (!o || o.status !== 'ready') return null;
  const all = counted.value?.all ?? o.all;
  if (all === null) return null;
  let before = all;
  return {
    all,
    parts: parts.flatMap((p, i) => {
      const step = o.funnel?.[i];
      const skipped = step?.skipped ?? o.open.includes(i);
      // what follows from the levels above is told while it counts
      if (p.through && skipped) return [];
      const remaining = counted.value?.remaining[i] ?? step?.remaining ?? null;
      const emptied = remaining === 0 && before > 0 && !skipped;
      before = remaining ?? before;
      return [{ text: p.text.replaceAll('choice.', ''), remaining, skipped, emptied }];
    }),
  };
});
const labelOf = (slot: number): string => draft.plan!.fields[slot]!.definition.label;
const drivers = computed(() => (view.value.field.choices?.narrowing?.drivers ?? []).map(labelOf));
const equated = computed(() =>
  (view.value.field.choices?.narrowing?.parts ?? []).flatMap((p) => (p.equates ? [labelOf(p.equates.slot)] : [])),
);
/** A value of a column in a large table may stand in any number of rows: what stands above it cannot be told. */
const unfillable = computed(() => source.value?.fillUp === true && view.value.field.choices?.fills.length === 0);
const WAITING = [
  { value: 'none', label: 'offer nothing' },
  { value: 'all', label: 'offer all' },
  { value: 'hide', label: 'hide the field' },
] as const;
const ON_CHANGE = [
  { value: 'clearIfGone', label: 'clear the choice if it is no longer offered' },
  { value: 'clear', label: 'always clear the choice' },
  { value: 'keep', label: 'keep the choice and flag it' },
] as const;
const SINGLE = [
  { value: 'take', label: 'take it' },
  { value: 'leave', label: 'leave it to be chosen' },
] as const;
const FILL = [
  { value: 'yes', label: 'also fills' },
  { value: 'no', label: 'does not fill' },
] as const;
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
        <template v-if="drivers.length">
          Until {{ drivers.join(' and ') }} {{ drivers.length > 1 ? 'are' : 'is' }} chosen:
          <PickWord :value="source.waiting" :options="WAITING" label="While waiting" @pick="set({ waiting: $event })" />. When
          {{ drivers.length > 1 ? 'one of them' : drivers[0] }} changes:
          <PickWord
            :value="source.onDriverChange"
            :options="ON_CHANGE"
            label="When a driver changes"
            @pick="set({ onDriverChange: $event })"
          />.
        </template>
        When one is left: <PickWord :value="source.single" :options="SINGLE" label="The only one left" @pick="set({ single: $event })" />.
        <template v-if="equated.length && source.waiting !== 'all'">
          {{ field.label }} cannot be chosen first, since nothing is offered until then:
          <Button link @click="set({ waiting: 'all' })">offer all</Button>, and choosing it first
          {{ source.fillUp ? 'also fills' : 'can also fill' }} {{ equated.join(' and ') }}.
        </template>
        <template v-else-if="equated.length && unfillable">
          Choosing {{ field.label }} first cannot fill {{ equated.join(' and ') }}: the table is too large for all rows of a value to be
          looked at.
        </template>
        <template v-else-if="equated.length">
          Choosing {{ field.label }} first
          <PickWord :value="source.fillUp ? 'yes' : 'no'" :options="FILL" label="Filling up" @pick="set({ fillUp: $event === 'yes' })" />
          {{ equated.join(' and ') }}.</template
        >
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
