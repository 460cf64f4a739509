<script setup lang="ts">
import { useQuery } from '@pinia/colada';
import type { FormRights, Right } from '~~/core/form/rights.ts';

/* Who may do what with the records of the form. It holds at once: it is no part of the draft. */
const draft = useDraft();
const toast = useToast();
const asked = useQuery({ key: () => ['rights', draft.formKey], query: () => api.rights.read({ key: draft.formKey }) });
const WORDS: readonly { right: Right; words: string }[] = [
  { right: 'enter', words: 'New records are entered by' },
  { right: 'see', words: 'Records are seen by' },
  { right: 'edit', words: 'They are changed by' },
  { right: 'delete', words: 'Deleted by' },
  { right: 'export', words: 'Exported by' },
];
async function set(rights: FormRights): Promise<void> {
  try {
    await api.rights.change({ key: draft.formKey }, rights);
  } catch (e) {
    toast.add({ severity: 'error', summary: 'Not changed', detail: messageOf(e), life: 8000 });
  }
  await asked.refetch();
}
</script>

<template>
  <section>
    <h3>Who may use it</h3>
    <Asked v-slot="{ data }" :query="asked" height="60px">
      <p v-for="w in WORDS" :key="w.right" class="sentence">
        {{ w.words }}
        <WhoWords :who="data[w.right]" :label="w.words" @change="set({ ...data, [w.right]: $event })" />
      </p>
      <p class="muted small">This holds at once, without publishing. Those who build forms see every record.</p>
    </Asked>
  </section>
</template>

<style scoped>
.small {
  font-size: 13px;
}
</style>
