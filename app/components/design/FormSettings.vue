<script setup lang="ts">
/* What belongs to the form as a whole: its name, and the record its entries may be opened under. */
const draft = useDraft();
const form = computed(() => draft.form!);
const parents = computed(() => [
  { value: null, label: 'nothing' },
  ...[...draft.tables.values()].map((t) => ({ value: t.key, label: `a row of ${t.label}` })),
]);
const set = (change: Partial<typeof form.value>): void => draft.change({ ...form.value, ...change });
const fieldCount = computed(() => Object.keys(form.value.fields).length);
</script>

<template>
  <div class="pad">
    <label
      ><span class="label">Name of the form</span
      ><TextEdit
        :value="form.label"
        @change="set({ label: ($event.target as HTMLInputElement).value.trim() || form.label })"
        @keydown.enter="($event.target as HTMLInputElement).blur()"
    /></label>
    <p>
      {{ fieldCount }} {{ fieldCount === 1 ? 'field' : 'fields' }}, saved in
      <NuxtLink :to="`/design/tables/${form.table}`">{{ draft.tables.get(form.table)?.label ?? form.table }}</NuxtLink>.
    </p>
    <p class="sentence">
      An entry may be opened under <PickWord :value="form.parent" :options="parents" label="Parent" @pick="set({ parent: $event })" />.
      <span v-if="form.parent" class="muted"
        >Formulas then read it as <code>parent</code>, such as <code>parent.{{ draft.tables.get(form.parent)?.shown ?? 'name' }}</code
        >.</span
      >
    </p>
    <ValueMaps />
    <slot />
  </div>
</template>

<style scoped>
.pad {
  padding: 16px 18px;
  display: grid;
  gap: 12px;
}
</style>
