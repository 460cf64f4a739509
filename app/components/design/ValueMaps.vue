<script setup lang="ts">
import type { ValueMapDefinition } from '~~/core/form/definition.ts';
import { keyFromLabel } from '~~/core/model/tables.ts';

/* The form's value maps: small tables from keys to a value. */
const draft = useDraft();
const maps = computed(() => Object.entries(draft.form!.maps));
const put = (all: Record<string, ValueMapDefinition>): void => draft.change({ ...draft.form!, maps: all });
function add(): void {
  const key = keyFromLabel('value map', maps.value.map(([k]) => k)); // prettier-ignore
  put({ ...draft.form!.maps, [key]: { label: 'Value map', lines: [{ keys: ['key'], value: 0 }] } });
}
function rekey(key: string, text: string): void {
  const fresh = keyFromLabel(text, maps.value.map(([k]) => k).filter((k) => k !== key)); // prettier-ignore
  if (fresh === key) return;
  put(Object.fromEntries(maps.value.map(([k, m]) => [k === key ? fresh : k, m])));
}
const remove = (key: string): void => put(Object.fromEntries(maps.value.filter(([k]) => k !== key)));
const problems = computed(() => draft.problems.filter((p) => p.code === 'valueMap'));
</script>

<template>
  <section class="maps">
    <h3>Value maps</h3>
    <Note v-for="p in problems" :key="p.message" kind="bad">{{ p.message }}</Note>
    <p v-if="!maps.length" class="muted">
      A value map is a small table from keys to a value, such as delivery method → fee. Formulas read it with
      <code>VALUEMAP(name, key)</code>.
    </p>
    <ValueMapTable v-for="[key] in maps" :key="key" :name="key" @rekey="rekey(key, $event)" @remove="remove(key)" />
    <Button severity="secondary" size="small" @click="add"><i class="pi pi-plus" aria-hidden="true" /> Value map</Button>
  </section>
</template>

<style scoped>
.maps {
  display: grid;
  gap: 10px;
}
</style>
