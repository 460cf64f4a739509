<script setup lang="ts">
import { rowLabel } from '~/composables/showValue';

/* Whom, on what and how the live form is being tried: a sentence whose words can be exchanged. */
const draft = useDraft();
const tryout = useTryout();
const emit = defineEmits<{ settings: []; link: [] }>();
const problem = ref('');

const people = computed(() => {
  void tryout.host.steps.value;
  const rows = tryout.host.cache().table('people')?.rows ?? [];
  return rows.map((r) => ({ value: r.id, label: String(r.name), note: String(r.team ?? '') }));
});
const me = computed(() => people.value.find((p) => p.value === tryout.person)?.label ?? useSession().account?.name ?? 'me');
const tried = computed(() => tryout.tried);
async function tryWith(change: Parameters<typeof tryout.tryWith>[0]): Promise<void> {
  problem.value = '';
  try {
    await tryout.tryWith(change);
  } catch (e) {
    problem.value = messageOf(e);
  }
}
const number = (text: string): number | null => (/^\d+$/.test(text.trim()) ? Number(text) : null);
const parentTable = computed(() => draft.tables.get(draft.form?.parent ?? ''));
const parentText = computed(() => {
  void tryout.host.steps.value;
  const plan = draft.plan;
  return plan && parentTable.value && tried.value.parent !== null
    ? rowLabel(plan, tryout.host.cache(), parentTable.value.key, tried.value.parent)
    : '';
});
const address = computed(() => new URLSearchParams(tried.value.url).toString());
const setAddress = (text: string): Promise<void> =>
  tryWith({ url: Object.fromEntries(new URLSearchParams(text.trim().replace(/^\?/, ''))) });
</script>

<template>
  <div class="try">
    <span>Try as <PickWord :value="tryout.person" :text="me" :options="people" label="Person" @pick="tryout.tryAs($event)" /></span>
    <label
      >on record
      <TextEdit
        class="few"
        size="small"
        inputmode="numeric"
        placeholder="new"
        :value="tried.record?.id ?? ''"
        aria-label="Number of the record to try on; empty is a new entry"
        @change="tryWith({ record: number(($event.target as HTMLInputElement).value) })"
    /></label>
    <label v-if="parentTable"
      >under {{ parentTable.label.toLowerCase() }}
      <TextEdit
        class="few"
        size="small"
        inputmode="numeric"
        placeholder="none"
        :value="tried.parent ?? ''"
        :aria-label="`Number of the row of ${parentTable.label} to open under`"
        @change="tryWith({ parent: number(($event.target as HTMLInputElement).value) })"
      />
      <span class="muted">{{ parentText }}</span></label
    >
    <label
      >link values<TextEdit
        class="mono"
        size="small"
        placeholder="field=value"
        :value="address"
        aria-label="Values in the address"
        @change="setAddress(($event.target as HTMLInputElement).value)"
    /></label>
    <span v-if="problem" class="bad" role="alert">{{ problem }}</span>
    <span class="end">
      <Button link severity="secondary" @click="emit('link')">Create a link</Button>
      <Button link severity="secondary" @click="emit('settings')">Form settings</Button>
      <Button as="router-link" severity="secondary" size="small" :to="`/design/forms/${draft.formKey}/rules`"
        >Rules{{ draft.form?.rules.length ? ` (${draft.form.rules.length})` : '' }}</Button
      >
      <Button as="router-link" severity="secondary" size="small" :to="`/design/forms/${draft.formKey}/steps`"
        >Steps{{ draft.form?.steps ? ` (${draft.form.steps.list.length})` : '' }}</Button
      >
      <Button as="router-link" severity="secondary" size="small" :to="`/design/forms/${draft.formKey}/cascades`">Cascades</Button>
      <Button v-if="draft.version" as="router-link" severity="secondary" size="small" :to="`/design/forms/${draft.formKey}/backfill`"
        >Backfill</Button
      >
      <Button v-tooltip.bottom="'Nothing tried here is saved as a record'" link severity="secondary" @click="tryout.startOver()">
        Start over
      </Button>
    </span>
  </div>
</template>

<style scoped>
.try {
  display: flex;
  gap: 16px;
  align-items: center;
  padding: 5px 16px;
  background: var(--ground-2);
  border-bottom: 1px solid var(--line);
  white-space: nowrap;
}
label {
  display: flex;
  align-items: center;
  gap: 5px;
}
.try :deep(.p-inputtext) {
  width: 150px;
}
.try :deep(.p-inputtext.few) {
  width: 64px;
}
.end {
  margin-left: auto;
  display: flex;
  gap: 14px;
  align-items: center;
}
</style>
