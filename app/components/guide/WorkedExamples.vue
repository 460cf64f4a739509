<script setup lang="ts">
import { EXAMPLES, INPUTS, examplePlan, openExamples, settleExamples } from '~~/core/guide/examples.ts';
import { isDatum } from '~~/core/formula/errors.ts';
import type { Datum, Row } from '~~/core/values/types.ts';

/* Formulas to start from, computed as one changes what they rest on; each can be copied into a field. */
const plan = examplePlan();
const today = new Date();
const two = (n: number): string => String(n).padStart(2, '0');
const entry = openExamples(plan, `${today.getFullYear()}-${two(today.getMonth() + 1)}-${two(today.getDate())}`);
/** counts the changes: what is read from the entry is read again when it rises */
const changes = ref(0);
function set(key: string, value: Datum): void {
  entry.apply([value === null ? { kind: 'clear', field: key } : { kind: 'set', field: key, value }]);
  settleExamples(entry);
  changes.value++;
}
const inputs = computed(() => {
  void changes.value;
  return INPUTS.map(({ key }) => {
    const field = entry.field(key);
    const value = entry.value(key);
    return {
      key,
      field,
      label: field.definition.label,
      type: field.definition.type,
      value: isDatum(value) ? value : null,
      rows: entry.offer(key)?.rows ?? [],
    };
  });
});
type Input = (typeof inputs.value)[number];
const textOf = (input: Input, row: Row): string => candidateTexts(entry.plan, input.field, row, entry.cache).text;
const storedIn = (input: Input, row: Row): Datum => (input.field.choices?.stores === 'row' ? row.id : (row.value ?? null));
/** One value, as a list offers it: what holds several is none of the examples. */
const plain = (value: Datum): string | number | boolean | null => (typeof value === 'object' ? null : value);
const choices = (input: Input) => [
  { value: null, label: 'empty' },
  ...input.rows.map((r) => ({ value: plain(storedIn(input, r)), label: textOf(input, r) })),
];
const results = computed(() => {
  void changes.value;
  return EXAMPLES.map((e) => {
    const result = entry.value(e.key);
    const { type } = entry.field(e.key);
    return { ...e, result: showResult(plan, entry.cache, type, result), empty: result === null };
  });
});
const copied = ref('');
async function copy(text: string): Promise<void> {
  await navigator.clipboard?.writeText(text).catch(() => undefined);
  copied.value = text;
}
</script>

<template>
  <div>
    <p class="muted">
      Change what they rest on and see what they come to. There are lines too: 3 packets at 2.40 and one at 1.80. <b>Copy</b> one, then
      paste it into a field’s formula and put your own names in.
    </p>
    <div class="inputs">
      <div v-for="i in inputs" :key="i.key">
        <span class="label" aria-hidden="true">{{ i.label }}</span>
        <PickOne
          v-if="i.rows.length"
          class="wide"
          :label="i.label"
          :options="choices(i)"
          :model-value="plain(i.value)"
          @update:model-value="set(i.key, $event ?? null)"
        />
        <TypedInput v-else :type="i.type" :label="i.label" :value="i.value" @change="set(i.key, $event)" />
      </div>
    </div>
    <DataTable
      :value="results"
      data-key="key"
      :table-props="{ 'aria-label': 'Worked examples' }"
      :pt="{ tbody: { 'aria-live': 'polite' } }"
    >
      <Column v-memo="[]" header="What for" field="title" />
      <Column v-memo="[]" header="Formula" field="formula" body-class="mono formula" />
      <Column v-memo="[]" header="Now" body-class="result">
        <template #body="{ data: x }"
          ><span v-if="x.empty" class="muted">empty</span><b v-else>{{ x.result }}</b></template
        >
      </Column>
      <Column v-memo="[]">
        <template #header><span class="sr">Copy</span></template>
        <template #body="{ data: x }"
          ><Button
            link
            severity="secondary"
            :label="copied === x.formula ? 'copied' : 'copy'"
            :aria-label="`Copy ${x.formula}`"
            @click="copy(x.formula)"
        /></template>
      </Column>
    </DataTable>
  </div>
</template>

<style scoped>
.inputs {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(180px, 1fr));
  gap: 10px 18px;
  margin: 10px 0 14px;
}
.wide {
  width: 100%;
}
:deep(.result) {
  min-width: 170px;
}
:deep(.formula) {
  overflow-wrap: anywhere;
  font-size: 13px;
}
</style>
