<script setup lang="ts">
import { mapAskedWith } from '~~/core/engine/uses.ts';
import type { ValueMapDefinition } from '~~/core/form/definition.ts';

/* One value map: its label, its name in formulas, and its lines, edited in place. Rows can be pasted from a spreadsheet. */
const props = defineProps<{ name: string }>();
const emit = defineEmits<{ rekey: [text: string]; remove: [] }>();
const draft = useDraft();
const map = computed(() => draft.form!.maps[props.name] as ValueMapDefinition);
function set(change: Partial<ValueMapDefinition>): void {
  const form = draft.form!;
  draft.change({ ...form, maps: { ...form.maps, [props.name]: { ...map.value, ...change } } });
}
/** What the map is asked with: its keys are chosen from there, and those that are not there are marked. */
const asked = computed(() => (draft.plan ? mapAskedWith(draft.plan, props.name) : []));
const missing = computed(() => {
  const had = new Set(map.value.lines.flatMap((l) => l.keys.map((k) => k.toUpperCase())));
  const all = new Map(asked.value.flatMap((a) => a.options.map((o) => [o.value.toUpperCase(), o])));
  return [...all].filter(([folded]) => !had.has(folded)).map(([, o]) => o);
});
const known = computed(() => new Set(asked.value.flatMap((a) => a.options.map((o) => o.value.toUpperCase()))));
const unknownKeys = (keys: readonly string[]): string[] => (known.value.size ? keys.filter((k) => !known.value.has(k.toUpperCase())) : []);
const keyChoices = (keys: readonly string[]) => missing.value.filter((o) => !keys.includes(o.value));
function rename(label: string): void {
  if (label) set({ label });
}
/** A value as it is meant: a number where the text is one. */
const read = (text: string): string | number => {
  const plain = text.trim().replace(',', '.');
  return plain !== '' && Number.isFinite(Number(plain)) ? Number(plain) : text.trim();
};
const keysOf = (text: string): string[] => [...new Set(text.split(/\s*;\s*/).map((k) => k.trim()).filter(Boolean))]; // prettier-ignore
function setLine(i: number, change: Partial<ValueMapDefinition['lines'][number]>): void {
  set({ lines: map.value.lines.map((l, j) => (j === i ? { ...l, ...change } : l)) });
}
function addLine(): void {
  const [first] = map.value.lines;
  set({
    lines: [...map.value.lines, { keys: [missing.value[0]?.value ?? 'key'], value: first && typeof first.value === 'string' ? '' : 0 }],
  });
}
function paste(event: ClipboardEvent, i: number): void {
  const text = event.clipboardData?.getData('text/plain') ?? '';
  const rows = text.split(/\r?\n/).map((l) => l.split('\t')).filter((c) => c.length >= 2); // prettier-ignore
  if (!rows.length) return;
  event.preventDefault();
  const made = rows.map(([keys = '', value = '']) => ({ keys: keysOf(keys), value: read(value) })).filter((l) => l.keys.length);
  const { lines } = map.value;
  set({ lines: [...lines.slice(0, i), ...made, ...lines.slice(i + 1)] });
}
</script>

<template>
  <div class="map">
    <div class="row">
      <TextEdit :value="map.label" aria-label="Label of the value map" @change="rename(($event.target as HTMLInputElement).value.trim())" />
      <TextEdit
        class="mono"
        :value="name"
        :aria-label="`Name of ${map.label} in formulas`"
        @change="emit('rekey', ($event.target as HTMLInputElement).value)"
      />
      <Button text severity="danger" size="small" :aria-label="`Delete the value map ${map.label}`" @click="emit('remove')">
        <i class="pi pi-trash" />
      </Button>
    </div>
    <DataTable :value="[...map.lines]" size="small" :table-props="{ 'aria-label': map.label }">
      <Column v-memo="[]" header="Keys, joined by ;">
        <template #body="{ data: l, index: i }">
          <TextEdit
            :value="l.keys.join('; ')"
            :aria-label="`Keys of line ${i + 1} of ${map.label}`"
            @change="
              keysOf(($event.target as HTMLInputElement).value).length &&
              setLine(i, { keys: keysOf(($event.target as HTMLInputElement).value) })
            "
            @paste="paste($event, i)"
          />
          <PickWord
            v-if="keyChoices(l.keys).length"
            :value="''"
            text="+ key"
            :options="keyChoices(l.keys)"
            :label="`One more key of line ${i + 1}`"
            @pick="setLine(i, { keys: [...l.keys, $event] })"
          />
          <span v-if="unknownKeys(l.keys).length" class="bad small" role="note">
            {{ asked.map((a) => a.label).join(' and ') }} {{ asked.length > 1 ? 'have' : 'has' }} no “{{
              unknownKeys(l.keys).join('”, “')
            }}”.
          </span>
        </template>
      </Column>
      <Column v-memo="[]" header="Value" class="value">
        <template #body="{ data: l, index: i }">
          <TextEdit
            :class="{ num: typeof l.value === 'number' }"
            :value="String(l.value)"
            :aria-label="`Value of line ${i + 1} of ${map.label}`"
            @change="setLine(i, { value: read(($event.target as HTMLInputElement).value) })"
          />
        </template>
      </Column>
      <Column v-memo="[]" class="last">
        <template #header><span class="sr">Remove</span></template>
        <template #body="{ index: i }">
          <IconButton
            icon="pi pi-times"
            :aria-label="`Remove line ${i + 1} of ${map.label}`"
            @click="set({ lines: map.lines.filter((_, j) => j !== i) })"
          />
        </template>
      </Column>
    </DataTable>
    <Button link @click="addLine()"> Add a line </Button>
    <p v-if="missing.length" class="muted small">No line yet for: {{ missing.map((o) => o.label).join(', ') }}.</p>
  </div>
</template>

<style scoped>
.small {
  font-size: 13px;
}
.map {
  border-left: 2px solid var(--line-strong);
  padding-left: 10px;
}
.map :deep(.value) {
  width: 110px;
}
.map :deep(.last) {
  width: 34px;
}
</style>
