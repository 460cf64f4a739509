<script setup lang="ts">
import type { ValueMapDefinition } from '~~/core/form/definition.ts';
import { keyFromLabel } from '~~/core/form/tables.ts';

/* The form's value maps: small tables from keys to a value, edited in place. Rows can be pasted from a spreadsheet. */
const draft = useTheDraft();
const maps = computed(() => Object.entries(draft.form.value!.maps));
const put = (all: Record<string, ValueMapDefinition>): void => draft.change({ ...draft.form.value!, maps: all });
const set = (key: string, change: Partial<ValueMapDefinition>): void =>
  put({ ...draft.form.value!.maps, [key]: { ...draft.form.value!.maps[key]!, ...change } });
function add(): void {
  const key = keyFromLabel('value map', maps.value.map(([k]) => k)); // prettier-ignore
  put({ ...draft.form.value!.maps, [key]: { label: 'Value map', lines: [{ keys: ['key'], value: 0 }] } });
}
function rename(key: string, label: string): void {
  if (!label) return;
  set(key, { label });
}
function rekey(key: string, text: string): void {
  const fresh = keyFromLabel(text, maps.value.map(([k]) => k).filter((k) => k !== key)); // prettier-ignore
  if (fresh === key) return;
  put(Object.fromEntries(maps.value.map(([k, m]) => [k === key ? fresh : k, m])));
}
const remove = (key: string): void => put(Object.fromEntries(maps.value.filter(([k]) => k !== key)));
/** A value as it is meant: a number where the text is one. */
const read = (text: string): string | number => {
  const plain = text.trim().replace(',', '.');
  return plain !== '' && Number.isFinite(Number(plain)) ? Number(plain) : text.trim();
};
const keysOf = (text: string): string[] => [...new Set(text.split(/\s*;\s*/).map((k) => k.trim()).filter(Boolean))]; // prettier-ignore
function setLine(key: string, i: number, change: Partial<ValueMapDefinition['lines'][number]>): void {
  const lines = draft.form.value!.maps[key]!.lines;
  set(key, { lines: lines.map((l, j) => (j === i ? { ...l, ...change } : l)) });
}
function paste(event: ClipboardEvent, key: string, i: number): void {
  const text = event.clipboardData?.getData('text/plain') ?? '';
  const rows = text.split(/\r?\n/).map((l) => l.split('\t')).filter((c) => c.length >= 2); // prettier-ignore
  if (!rows.length) return;
  event.preventDefault();
  const made = rows.map(([keys = '', value = '']) => ({ keys: keysOf(keys), value: read(value) })).filter((l) => l.keys.length);
  const { lines } = draft.form.value!.maps[key]!;
  set(key, { lines: [...lines.slice(0, i), ...made, ...lines.slice(i + 1)] });
}
const problems = computed(() => draft.problems.value.filter((p) => p.code === 'valueMap'));
</script>

<template>
  <section class="maps">
    <h3>Value maps</h3>
    <p v-for="p in problems" :key="p.message" class="note bad">{{ p.message }}</p>
    <p v-if="!maps.length" class="muted">
      A value map is a small table from keys to a value, such as delivery method → fee. Formulas read it with
      <code>VALUEMAP(name, key)</code>.
    </p>
    <div v-for="[key, map] in maps" :key="key" class="map">
      <div class="row">
        <TextEdit
          class="in"
          :value="map.label"
          aria-label="Label of the value map"
          @change="rename(key, ($event.target as HTMLInputElement).value.trim())"
        />
        <TextEdit
          class="in mono"
          :value="key"
          :aria-label="`Name of ${map.label} in formulas`"
          @change="rekey(key, ($event.target as HTMLInputElement).value)"
        />
        <button class="btn plain small danger" type="button" :aria-label="`Delete the value map ${map.label}`" @click="remove(key)">
          <i class="pi pi-trash" />
        </button>
      </div>
      <table>
        <thead>
          <tr>
            <th>Keys, joined by ;</th>
            <th>Value</th>
            <th><span class="sr">Remove</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(l, i) in map.lines" :key="i">
            <td>
              <TextEdit
                class="in"
                :value="l.keys.join('; ')"
                :aria-label="`Keys of line ${i + 1} of ${map.label}`"
                @change="
                  keysOf(($event.target as HTMLInputElement).value).length &&
                  setLine(key, i, { keys: keysOf(($event.target as HTMLInputElement).value) })
                "
                @paste="paste($event, key, i)"
              />
            </td>
            <td>
              <TextEdit
                class="in"
                :class="{ num: typeof l.value === 'number' }"
                :value="String(l.value)"
                :aria-label="`Value of line ${i + 1} of ${map.label}`"
                @change="setLine(key, i, { value: read(($event.target as HTMLInputElement).value) })"
              />
            </td>
            <td>
              <button
                class="btn plain small"
                type="button"
                :aria-label="`Remove line ${i + 1} of ${map.label}`"
                @click="set(key, { lines: map.lines.filter((_, j) => j !== i) })"
              >
                <i class="pi pi-times" />
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <button
        class="word"
        type="button"
        @click="
          set(key, { lines: [...map.lines, { keys: ['key'], value: map.lines[0] && typeof map.lines[0].value === 'string' ? '' : 0 }] })
        "
      >
        Add a line
      </button>
    </div>
    <button class="btn small" type="button" @click="add"><i class="pi pi-plus" aria-hidden="true" /> Value map</button>
  </section>
</template>

<style scoped>
.maps {
  display: grid;
  gap: 10px;
}
.map {
  border-left: 2px solid var(--line-strong);
  padding-left: 10px;
}
table {
  width: 100%;
}
th {
  text-align: left;
  font-weight: 400;
  color: var(--ink-2);
  font-size: 12.5px;
}
td:nth-child(2) {
  width: 110px;
}
td:nth-child(3) {
  width: 34px;
}
</style>
