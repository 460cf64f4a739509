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
function changed(input: Input, text: string): void {
  if (text === '') return set(input.key, null);
  if (input.rows.length) return set(input.key, storedIn(input, input.rows[Number(text)]!));
  set(input.key, input.type === 'number' ? Number(text) : text);
}
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
      <label v-for="i in inputs" :key="i.key"
        ><span class="label">{{ i.label }}</span>
        <select
          v-if="i.rows.length"
          class="in"
          :aria-label="i.label"
          :value="i.rows.findIndex((r) => storedIn(i, r) === i.value)"
          @change="changed(i, ($event.target as HTMLSelectElement).value)"
        >
          <option value="">empty</option>
          <option v-for="(r, at) in i.rows" :key="r.id" :value="at">{{ textOf(i, r) }}</option>
        </select>
        <input
          v-else
          class="in"
          :aria-label="i.label"
          :type="i.type"
          step="any"
          :value="i.value ?? ''"
          @input="changed(i, ($event.target as HTMLInputElement).value)"
      /></label>
    </div>
    <table class="plainTable">
      <thead>
        <tr>
          <th>What for</th>
          <th>Formula</th>
          <th>Now</th>
          <th><span class="sr">Copy</span></th>
        </tr>
      </thead>
      <tbody aria-live="polite">
        <tr v-for="x in results" :key="x.key">
          <td>{{ x.title }}</td>
          <td class="mono">{{ x.formula }}</td>
          <td class="result">
            <span v-if="x.empty" class="muted">empty</span><b v-else>{{ x.result }}</b>
          </td>
          <td>
            <button class="word light" type="button" :aria-label="`Copy ${x.formula}`" @click="copy(x.formula)">
              {{ copied === x.formula ? 'copied' : 'copy' }}
            </button>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.inputs {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(180px, 1fr));
  gap: 10px 18px;
  margin: 10px 0 14px;
}
.result {
  min-width: 170px;
}
td.mono {
  overflow-wrap: anywhere;
  font-size: 13px;
}
</style>
