<script setup lang="ts">
import { rowLabel } from '~/composables/showValue';

/* Whom, on what and how the live form is being tried: a sentence whose words can be exchanged. */
const draft = useTheDraft();
const emit = defineEmits<{ settings: []; link: [] }>();
const problem = ref('');

const people = computed(() => {
  void draft.host.steps.value;
  const rows = draft.host.cache().table('people')?.rows ?? [];
  return rows.map((r) => ({ value: r.id, label: String(r.name), note: String(r.team ?? '') }));
});
const me = computed(() => people.value.find((p) => p.value === draft.person.value)?.label ?? useSession().account?.name ?? 'me');
const { tried } = draft;
async function tryWith(change: Parameters<typeof draft.tryWith>[0]): Promise<void> {
  problem.value = '';
  try {
    await draft.tryWith(change);
  } catch (e) {
    problem.value = messageOf(e);
  }
}
const number = (text: string): number | null => (/^\d+$/.test(text.trim()) ? Number(text) : null);
const parentTable = computed(() => draft.tables.value.get(draft.form.value?.parent ?? ''));
const parentText = computed(() => {
  void draft.host.steps.value;
  const plan = draft.plan.value;
  return plan && parentTable.value && tried.value.parent !== null
    ? rowLabel(plan, draft.host.cache(), parentTable.value.key, tried.value.parent)
    : '';
});
const address = computed(() => new URLSearchParams(tried.value.url).toString());
const setAddress = (text: string): Promise<void> =>
  tryWith({ url: Object.fromEntries(new URLSearchParams(text.trim().replace(/^\?/, ''))) });
</script>

<template>
  <div class="try">
    <span>Trying as <PickWord :value="draft.person.value" :text="me" :options="people" label="Person" @pick="draft.tryAs" /></span>
    <label
      >on record
      <TextEdit
        class="in small"
        inputmode="numeric"
        placeholder="new"
        :value="tried.record?.id ?? ''"
        aria-label="Number of the record to try on; empty is a new entry"
        @change="tryWith({ record: number(($event.target as HTMLInputElement).value) })"
    /></label>
    <label v-if="parentTable"
      >under {{ parentTable.label.toLowerCase() }}
      <TextEdit
        class="in small"
        inputmode="numeric"
        placeholder="none"
        :value="tried.parent ?? ''"
        :aria-label="`Number of the row of ${parentTable.label} to open under`"
        @change="tryWith({ parent: number(($event.target as HTMLInputElement).value) })"
      />
      <span class="muted">{{ parentText }}</span></label
    >
    <label
      >address ?<TextEdit
        class="in mono"
        placeholder="field=value"
        :value="address"
        aria-label="Values in the address"
        @change="setAddress(($event.target as HTMLInputElement).value)"
    /></label>
    <span v-if="problem" class="bad" role="alert">{{ problem }}</span>
    <span class="end">
      <button class="word light" type="button" @click="emit('link')">Make a link</button>
      <button class="word light" type="button" @click="emit('settings')">Form settings</button>
      <NuxtLink class="btn small" :to="`/design/forms/${draft.formKey}/cascades`">Cascades</NuxtLink>
      <NuxtLink v-if="draft.version.value" class="btn small" :to="`/design/forms/${draft.formKey}/backfill`">Backfill</NuxtLink>
      <button class="word light" type="button" title="Nothing tried here is saved as a record" @click="draft.startOver()">
        Start over
      </button>
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
.in {
  width: 150px;
  min-height: 0;
  height: 26px;
  padding: 0 6px;
}
.in.small {
  width: 64px;
}
.end {
  margin-left: auto;
  display: flex;
  gap: 14px;
  align-items: center;
}
</style>
