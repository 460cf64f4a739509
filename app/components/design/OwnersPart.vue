<script setup lang="ts">
import { fieldOrder } from '~~/core/form/definition.ts';
import { type Owners, canOwn } from '~~/core/form/owners.ts';
import { ownersSchema } from '~~/core/form/peopleSchemas.ts';

/* Whom the records of the form belong to: people or teams that stand in its fields. Others do not see them. */
const draft = useDraft();
const form = computed(() => draft.form!);
const owners = computed(() => form.value.owners);
const labelOf = (key: string): string => form.value.fields[key]?.label ?? `“${key}”, which is not there`;
const fields = computed(() =>
  fieldOrder(form.value)
    .filter((k) => form.value.fields[k]?.column && canOwn(form.value.fields[k]!) && !owners.value?.fields.includes(k))
    .map((value) => ({ value, label: `whoever stands in ${labelOf(value)}` })),
);
const set = (change: Partial<Owners>): void =>
  draft.change({ ...form.value, owners: ownersSchema.parse({ ...(owners.value ?? { fields: [] }), ...change }) });
function drop(key: string): void {
  const left = owners.value?.fields.filter((f) => f !== key) ?? [];
  if (left.length) set({ fields: left });
  else draft.change({ ...form.value, owners: null });
}
const CREATOR = [
  { value: 'yes', label: 'Whoever entered it sees it too' },
  { value: 'no', label: 'Whoever entered it does not see it for that' },
] as const;
const problems = computed(() => draft.problems.filter((p) => p.steps && p.message.startsWith('Records belong')));
</script>

<template>
  <section>
    <h3>Whom a record belongs to</h3>
    <p class="sentence">
      A record belongs to
      <template v-for="(key, i) in owners?.fields ?? []" :key="key"
        ><template v-if="i"> or </template><b>whoever stands in {{ labelOf(key) }}</b
        ><IconButton
          icon="pi pi-times"
          :aria-label="`It does not belong to whoever stands in ${labelOf(key)}`"
          @click="drop(key)" /></template
      ><PickWord
        :value="''"
        :text="owners ? ' or…' : 'everybody'"
        :options="fields"
        label="Belongs to"
        @pick="set({ fields: [...(owners?.fields ?? []), $event] })"
      />
    </p>
    <template v-if="owners">
      <p class="sentence">
        <PickWord
          :value="owners.creator ? 'yes' : 'no'"
          :options="CREATOR"
          label="Whoever entered it"
          @pick="set({ creator: $event === 'yes' })"
        />. Beside those who build, all records are seen by
        <WhoWords :who="owners.also" label="All records are seen by" none="nobody else" @change="set({ also: $event })" />
      </p>
      <p class="muted small">
        Where these fields are empty, the record is everybody’s. A field may hold people, or the name of a team; a default, a rule or a hand
        fills it. Others find it nowhere: lists, look-ups and formulas of every form read with the rights of whoever fills in.
      </p>
      <p v-for="(p, i) in problems" :key="i" class="bad small">{{ p.message }}</p>
    </template>
  </section>
</template>

<style scoped>
.small {
  font-size: 13px;
}
</style>
