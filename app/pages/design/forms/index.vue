<script setup lang="ts">
import { contract } from '~~/core/contract/index.ts';

const asked = useForms();
const { data: tables } = useTables();
const route = useRoute();
const making = ref(false);
// asked for by its address, also while one is here
watch(() => route.query.new, (asked) => asked !== undefined && (making.value = true), { immediate: true }); // prettier-ignore
const label = ref('');
const table = ref<string | null>(null);
/** a table that is there brings the fields of the form with it */
const withFields = ref(true);
const hasColumns = computed(() => table.value !== null && (tables.value?.find((t) => t.key === table.value)?.columns.length ?? 0) > 0);
const problem = ref('');
const places = computed(() => [
  { value: null, label: 'in a new table of its own' },
  ...(tables.value ?? []).map((t) => ({ value: t.key, label: `in ${t.label}` })),
]);
const { sought, isMany, found, paging } = useFinding(
  () => asked.data.value,
  (f) => [f.label, f.key],
);
useHead({ title: 'Forms · Brisk Acorn' });

// ---- a copy of a form, and a form from a file ----
const copied = shallowRef<{ key: string; label: string } | null>(null);
const copyLabel = ref('');
function copying(form: { key: string; label: string }): void {
  problem.value = '';
  copied.value = form;
  copyLabel.value = `${form.label}, copy`;
}
async function copy(): Promise<void> {
  problem.value = '';
  try {
    const { key } = await api.forms.copy({ key: copied.value!.key }, { label: copyLabel.value });
    await navigateTo(`/design/forms/${key}`);
  } catch (e) {
    problem.value = messageOf(e);
  }
}
const bringing = ref(false);
const missing = shallowRef<readonly string[]>([]);
const brought = shallowRef<{ key: string; label: string; notes: readonly string[] } | null>(null);
async function bringIn(file: File): Promise<void> {
  problem.value = '';
  missing.value = [];
  brought.value = null;
  try {
    brought.value = await api.forms.bringIn({ file: JSON.parse(await file.text()) as unknown });
    await asked.refetch();
  } catch (e) {
    problem.value = e instanceof SyntaxError ? `${file.name} is no JSON file.` : messageOf(e);
    missing.value = e instanceof ApiError ? ((e.details.missing as string[] | undefined) ?? []) : [];
  }
}

async function make(): Promise<void> {
  problem.value = '';
  try {
    const { key } = await api.forms.make({ label: label.value, table: table.value, fields: withFields.value && hasColumns.value });
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
      <span class="row"
        ><Button
          severity="secondary"
          label="From a file…"
          @click="
            problem = '';
            missing = [];
            brought = null;
            bringing = true;
          "
        /><Button @click="making = true"><i class="pi pi-plus" aria-hidden="true" /> New form</Button></span
      >
    </header>
    <Asked v-slot="{ data: forms }" :query="asked">
      <Note v-if="!forms.length">No forms yet. Import or create the tables first, then make a form over them.</Note>
      <FindField v-if="isMany" v-model="sought" label="Find a form" />
      <DataTable v-if="forms.length" :value="found" data-key="key" row-hover v-bind="paging">
        <template #empty>No form is called so.</template>
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
        <Column v-memo="[]"
          ><template #header><span class="sr">Do</span></template>
          <template #body="{ data: f }"
            ><span class="row acts"
              ><NuxtLink v-if="f.changes.length && f.version" :to="`/design/forms/${f.key}/publish`">What publishing would do</NuxtLink
              ><NuxtLink v-if="f.version" :to="`/design/forms/${f.key}/versions`">Versions</NuxtLink
              ><Button link severity="secondary" label="Copy…" :disabled="f.broken !== null" @click="copying(f)" /><Button
                v-if="f.broken === null"
                as="a"
                link
                severity="secondary"
                label="File"
                :href="routeAddress(contract.forms.file, { key: f.key })"
                download /></span></template
        ></Column>
      </DataTable>
    </Asked>
    <StayDialog
      :visible="copied !== null"
      modal
      :header="`Copy ${copied?.label ?? ''}`"
      :style="{ width: '420px' }"
      @update:visible="copied = null"
    >
      <form class="fields" @submit.prevent="copy">
        <p class="muted">The same draft and rights under another name, saving into the same table. It is published on its own.</p>
        <label
          ><span class="label">What is it called?</span><InputText v-model="copyLabel" class="wide" autofocus required maxlength="120"
        /></label>
        <Note v-if="problem" kind="bad">{{ problem }}</Note>
        <Button type="submit" :disabled="!copyLabel.trim()">Make the copy</Button>
      </form>
    </StayDialog>
    <StayDialog v-model:visible="bringing" modal header="A form from a file" :style="{ width: '560px' }">
      <div class="fields">
        <p class="muted">
          A form that was saved as a file, here or in another workspace. What it needs is checked first; it comes in as a draft, and nothing
          that exists is changed.
        </p>
        <FileDrop v-slot="{ choose }" label="The form’s file" accept=".json" @file="bringIn"
          ><div class="row drop">
            <Button severity="secondary" label="Choose a file…" @click="choose" /> <span class="muted">or drop it here</span>
          </div></FileDrop
        >
        <Note v-if="problem" kind="bad"
          >{{ problem }}
          <ul v-if="missing.length" class="list">
            <li v-for="m in missing" :key="m">{{ m }}</li>
          </ul></Note
        >
        <Note v-if="brought" kind="good"
          ><NuxtLink :to="`/design/forms/${brought.key}`">{{ brought.label }}</NuxtLink> is in.
          <span v-for="w in brought.notes" :key="w">{{ w }} </span></Note
        >
      </div>
    </StayDialog>
    <StayDialog v-model:visible="making" modal header="New form" :style="{ width: '420px' }">
      <form class="fields" @submit.prevent="make">
        <label
          ><span class="label">What is it called?</span><InputText v-model="label" autofocus required placeholder="Germination test"
        /></label>
        <div>
          <span class="label" aria-hidden="true">Where are its records saved?</span>
          <PickOne v-model="table" class="wide" label="Where are its records saved?" :options="places" />
        </div>
        <label v-if="hasColumns" class="row"><Checkbox v-model="withFields" binary /> with a field for each of its columns</label>
        <Note v-if="problem" kind="bad">{{ problem }}</Note>
        <Button type="submit" :disabled="!label.trim()">Create the form</Button>
      </form>
    </StayDialog>
  </div>
</template>

<style scoped>
.wide {
  width: 100%;
}
.acts {
  justify-content: flex-end;
  gap: 12px;
}
.drop {
  padding: 14px;
  border: 1px dashed var(--line-strong);
  border-radius: var(--r);
}
.list {
  max-height: 220px;
  overflow: auto;
}
.fields {
  display: grid;
  gap: 14px;
}
.fields .p-button {
  justify-self: start;
}
</style>
