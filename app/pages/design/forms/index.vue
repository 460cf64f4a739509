<script setup lang="ts">
const asked = useForms();
const { data: tables } = useTables();
const route = useRoute();
const making = ref(false);
// asked for by its address, also while one is here
watch(() => route.query.new, (asked) => asked !== undefined && (making.value = true), { immediate: true }); // prettier-ignore
const label = ref('');
const table = ref<string | null>(null);
const problem = ref('');
const places = computed(() => [
  { value: null, label: 'in a new table of its own' },
  ...(tables.value ?? []).map((t) => ({ value: t.key, label: `in ${t.label}` })),
]);
useHead({ title: 'Forms · Brisk Acorn' });

async function make(): Promise<void> {
  problem.value = '';
  try {
    const { key } = await api.forms.make({ label: label.value, table: table.value });
    await navigateTo(`/design/forms/${key}`);
  } catch (e) {
    problem.value = messageOf(e);
  }
}
</script>

<template>
  <div class="page">
    <header class="row spread">
      <h1>Forms</h1>
      <Button @click="making = true"><i class="pi pi-plus" aria-hidden="true" /> New form</Button>
    </header>
    <Asked v-slot="{ data: forms }" :query="asked">
      <Note v-if="!forms.length">No forms yet. Import or create the tables first, then make a form over them.</Note>
      <DataTable v-else :value="[...forms]" data-key="key" row-hover>
        <Column v-memo="[]" header="Form" field="label" sortable>
          <template #body="{ data: f }"
            ><NuxtLink :to="`/design/forms/${f.key}`"
              ><b>{{ f.label }}</b></NuxtLink
            ></template
          >
        </Column>
        <Column v-memo="[]" header="Saves into">
          <template #body="{ data: f }">{{ tables?.find((t) => t.key === f.table)?.label ?? f.table }}</template>
        </Column>
        <Column v-memo="[]" header="Published" field="version" sortable>
          <template #body="{ data: f }">{{ f.version ? `version ${f.version}` : 'not yet' }}</template>
        </Column>
        <Column v-memo="[]" header="Draft"
          ><template #body="{ data: f }"><DraftState :form="f" why /></template
        ></Column>
      </DataTable>
    </Asked>
    <Dialog v-model:visible="making" modal header="New form" :style="{ width: '420px' }">
      <form class="fields" @submit.prevent="make">
        <label
          ><span class="label">What is it called?</span><InputText v-model="label" autofocus required placeholder="Germination test"
        /></label>
        <div>
          <span class="label" aria-hidden="true">Where are its records saved?</span>
          <PickOne v-model="table" class="wide" label="Where are its records saved?" :options="places" />
        </div>
        <Note v-if="problem" kind="bad">{{ problem }}</Note>
        <Button type="submit" :disabled="!label.trim()">Create the form</Button>
      </form>
    </Dialog>
  </div>
</template>

<style scoped>
.wide {
  width: 100%;
}
.fields {
  display: grid;
  gap: 14px;
}
.fields .p-button {
  justify-self: start;
}
</style>
