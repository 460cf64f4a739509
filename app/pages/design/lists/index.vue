<script setup lang="ts">
import { levelsOf } from '~~/core/model/lists.ts';
import type { ListAnswer } from '~/stores/model';

const asked = useLists();
const making = ref(false);
const label = ref('');
const outline = ref('');
const problem = ref('');
const { sought, isMany, found, paging } = useFinding(
  () => asked.data.value,
  (l) => [l.label, l.key],
);
useHead({ title: 'Lists · Brisk Acorn' });
async function make(): Promise<void> {
  problem.value = '';
  try {
    const { key } = await api.lists.make({ label: label.value, outline: outline.value });
    await navigateTo(`/design/lists/${key}`);
  } catch (e) {
    problem.value = messageOf(e);
  }
}
</script>

<template>
  <div class="page">
    <header class="row spread">
      <div>
        <h1>Lists</h1>
        <p class="muted">Choices you keep by hand, flat or nested.</p>
      </div>
      <Button @click="making = true"><i class="pi pi-plus" aria-hidden="true" /> New list</Button>
    </header>
    <Asked v-slot="{ data: lists }" :query="asked">
      <Note v-if="!lists.length"> No lists yet. A list is for choices that no table holds: purposes, delivery methods, states. </Note>
      <FindField v-if="isMany" v-model="sought" label="Find a list" />
      <DataTable v-if="lists.length" :value="found" data-key="key" row-hover v-bind="paging">
        <template #empty>No list is called so.</template>
        <Column v-memo="[]" header="List" field="label" sortable>
          <template #body="{ data: l }">
            <NuxtLink :to="`/design/lists/${l.key}`"
              ><b>{{ l.label }}</b></NuxtLink
            >
            <span v-if="l.broken" class="bad"> <Tag severity="danger" value="broken" /> {{ l.broken }}</span>
          </template>
        </Column>
        <Column v-memo="[]" header="Choices" class="num"
          ><template #body="{ data: l }">{{ l.items.length }}</template></Column
        >
        <Column v-memo="[]" header="Levels" class="num"
          ><template #body="{ data: l }">{{ levelsOf(l) }}</template></Column
        >
        <Column v-memo="[]" header="Used by"
          ><template #body="{ data: l }">{{ (l as ListAnswer).usedBy.map((u) => u.label).join(', ') || 'no form' }}</template></Column
        >
      </DataTable>
    </Asked>
    <StayDialog v-model:visible="making" modal header="New list" :style="{ width: '460px' }">
      <form class="fields" @submit.prevent="make">
        <label><span class="label">What is it called?</span><InputText v-model="label" required placeholder="Purposes" /></label>
        <label
          ><span class="label">Paste an outline (or type it later)</span
          ><Textarea v-model="outline" class="mono" :rows="8" :placeholder="'Research\n    Germination\n    Genetics\nRestoration'" />
          <span class="muted">Indent what belongs under a choice; or paste columns from a spreadsheet.</span></label
        >
        <Note v-if="problem" kind="bad">{{ problem }}</Note>
        <Button type="submit" :disabled="!label.trim()">Create the list</Button>
      </form>
    </StayDialog>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 14px;
}
.fields .p-button {
  justify-self: start;
}
</style>
