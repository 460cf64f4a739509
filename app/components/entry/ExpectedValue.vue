<script setup lang="ts">
import { addressOf, parseAddress } from '~~/core/engine/state.ts';
import { storedOf } from '~~/core/engine/candidates.ts';
import { type ShowResult, wordsNow } from '~~/core/engine/why.ts';
import { type Against, whyNotValue } from '~~/core/engine/whyNotValue.ts';
import type { Origin } from '~~/core/model/origin.ts';
import type { Datum } from '~~/core/values/types.ts';
import { rowLabel } from '~/composables/showValue';

/* What stands against a value that one expected in a field. */
const props = defineProps<{ host: EntryHost; name: string; because: (origin: Origin) => string }>();
const emit = defineEmits<{ go: [field: string] }>();
const place = computed(() => parseAddress(props.name));
const view = computed(() => props.host.view(props.name));
const field = computed(() => view.value.field);
const plan = computed(() => props.host.entry.value!.plan);
const control = computed(() => COLUMN_LOOKS[field.value.definition.type].control);
const several = computed(() => ['choices', 'links'].includes(field.value.definition.type));

const expected = shallowRef<Datum>();
watch(() => props.name, () => (expected.value = undefined)); // prettier-ignore
/** what can be expected in a field with choices: all there are, offered now or not */
const options = computed((): { value: string | number; label: string }[] => {
  void props.host.versions[props.name];
  if (control.value === 'yesno') return [{ value: 'TRUE', label: 'yes' }, { value: 'FALSE', label: 'no' }]; // prettier-ignore
  const { choices } = field.value;
  if (!choices) return [];
  const rows = choices.options ?? (choices.table ? props.host.cache().table(choices.table)?.rows : null) ?? view.value.offer?.rows ?? [];
  return rows.flatMap((r) => {
    const value = storedOf(field.value, r);
    const { text } = candidateTexts(plan.value, field.value, r, props.host.cache());
    return typeof value === 'string' || typeof value === 'number' ? [{ value, label: text }] : [];
  });
});
const picked = ref<string | number>();
watch(picked, (v) => (expected.value = control.value === 'yesno' && v !== undefined ? v === 'TRUE' : v));
const show: ShowResult = (type, result) => showResult(plan.value, props.host.cache(), type, result);
const shown = (value: Datum): string => (value === null ? 'empty' : showValue(plan.value, props.host.cache(), field.value, value));

const at = computed(() => ({ field: place.value.field, line: place.value.line ?? null }));
const told = computed(() => {
  void props.host.versions[props.name];
  const entry = props.host.entry.value;
  if (!entry || expected.value === undefined) return null;
  return whyNotValue(entry, at.value.field, at.value.line, expected.value);
});
type Of<K extends Against['kind']> = Extract<Against, { kind: K }>;
const words = (node: Of<'branch'>['condition']): string =>
  field.value.value ? wordsNow(props.host.entry.value!, at.value, field.value.value.formula, node, show) : '';
const gives = (a: Of<'set'> | Of<'default'> | Of<'gives'>): string => show(field.value.type, 'gives' in a ? a.gives : a.value);
const rowsSaid = (a: Of<'name'>): string => {
  if (!a.rows) return '';
  const { count, some, table } = a.rows;
  const label = plan.value.tables.get(table)?.label ?? table;
  if (!count) return ` No row of ${label} has that.`;
  const named = some.map((id) => rowLabel(plan.value, props.host.cache(), table, id)).join(', ');
  return ` ${count} ${count === 1 ? 'row' : 'rows'} of ${label} ${count === 1 ? 'has' : 'have'} that: ${named}${count > some.length ? ', …' : '.'}`;
};
function sentence(a: Against): string {
  switch (a.kind) {
    case 'noFill':
      return 'Nothing fills it: it holds what is typed or chosen.';
    case 'set':
      return `${props.because(a.origin)} Its own formula would give ${gives(a)}${a.wouldFit ? ', as you expected' : ''}.`;
    case 'default':
      return `A default fills new entries only. It would give ${gives(a)} today${a.wouldFit ? ', as you expected' : ''}.`;
    case 'branch':
      return a.wants
        ? `It would be so if ${words(a.condition)}, which is ${a.result === null ? 'not known' : 'not true'} now.`
        : `It would be so if it were not that ${words(a.condition)}, which is true now.`;
    case 'earlier':
      return `It would be so if ${words(a.part)} were empty.`;
    case 'name':
      return `${words(a.name)} would have to be ${show(a.type, a.needed) || 'empty'}.${rowsSaid(a)}`;
    case 'gives':
      return `Its formula gives ${gives(a)}; no single name or condition in it would make it ${shown(expected.value ?? null)}.`;
  }
}
/** Where a sentence leads: the field that would have to be otherwise. */
function leads(a: Against): string | null {
  const of = a.kind === 'name' && a.slot !== null ? plan.value.fields[a.slot] : undefined;
  return of ? addressOf(of.key, of.group === null ? null : at.value.line) : null;
}
const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
</script>

<template>
  <div v-if="!several && control !== 'file'" class="expected">
    <span class="row"
      >I expected
      <PickOne
        v-if="options.length"
        v-model="picked"
        size="small"
        label="What was expected"
        placeholder="something else"
        :options="options" />
      <TypedInput
        v-else
        :type="field.definition.type"
        :value="expected ?? null"
        label="What was expected"
        placeholder="something else"
        @change="expected = $event"
    /></span>
    <ul v-if="told?.length" role="status">
      <li v-for="(a, i) in told" :key="i">
        {{ capital(sentence(a)) }}
        <Button v-if="leads(a)" link size="small" label="Look at it" @click="emit('go', leads(a)!)" />
      </li>
    </ul>
    <p v-else-if="told" role="status">It holds {{ shown(expected ?? null) }}.</p>
  </div>
</template>

<style scoped>
.expected {
  display: grid;
  gap: 6px;
}
ul {
  margin: 0;
  padding-left: 18px;
  font-size: 13px;
  display: grid;
  gap: 3px;
}
</style>
