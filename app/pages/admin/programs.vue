<script setup lang="ts">
import { useQuery } from '@pinia/colada';
import type { TokenLine } from '~~/core/contract/people.ts';
import { MAY_FOR_PROGRAMS } from '~~/core/values/roles.ts';
import { RIGHTS, type Right } from '~~/core/form/rights.ts';
import type { Role } from '~~/core/values/roles.ts';

/* Other programs, each with a token and rights with some forms. */
useHead({ title: 'Programs · Brisk Acorn' });
const toast = useToast();
const confirm = useConfirm();
const asked = useQuery({ key: ['programs'], query: () => api.programs.list() });
const forms = useForms();
const adding = ref(false);
const form = reactive({ name: '', roles: ['clerk'] as Role[], rights: {} as Record<string, Right[]> });
const problem = ref('');
const token = ref('');
const labelOf = (key: string): string => forms.data.value?.find((f) => f.key === key)?.label ?? key;
const chosen = computed(() => Object.entries(form.rights).filter(([, r]) => r.length).map(([key, rights]) => ({ form: key, rights }))); // prettier-ignore
function begin(): void {
  Object.assign(form, { name: '', roles: ['clerk'], rights: {} });
  problem.value = '';
  adding.value = true;
}
async function add(): Promise<void> {
  problem.value = '';
  try {
    token.value = (await api.programs.add({ name: form.name, roles: form.roles, rights: chosen.value })).token;
    adding.value = false;
    await asked.refetch();
  } catch (e) {
    problem.value = messageOf(e);
  }
}
function end(event: Event, p: TokenLine): void {
  confirm.require({
    target: event.currentTarget as HTMLElement,
    message: `The token of ${p.name} ends at once; what it entered stays.`,
    acceptLabel: 'End it',
    rejectLabel: 'Keep',
    accept: () => {
      api.programs
        .remove({ id: p.id })
        .then(() => asked.refetch())
        .catch((e: unknown) => toast.add({ severity: 'error', summary: 'Not ended', detail: messageOf(e), life: 8000 }));
    },
  });
}
</script>

<template>
  <div>
    <PlaceTrail :above="[]" here="Programs" />
    <header class="row spread">
      <div>
        <h1>Programs</h1>
        <p class="muted">
          A scale, a sensor, a script: it asks with <code>Authorization: Bearer …</code> the routes of the
          <a href="/api/openapi.json">OpenAPI description</a>, through the same checks as people.
        </p>
      </div>
      <Button icon="pi pi-key" label="New token" @click="begin" />
    </header>
    <Asked v-slot="{ data }" :query="asked">
      <Note v-if="!data.length" kind="quiet">No program has a token.</Note>
      <DataTable v-else :value="[...data]" data-key="id" :table-props="{ 'aria-label': 'Tokens' }">
        <Column header="Program" field="name" />
        <Column header="As"
          ><template #body="{ data: p }">{{ p.roles.join(', ') }}</template></Column
        >
        <Column header="May"
          ><template #body="{ data: p }"
            ><span v-for="r in (p as TokenLine).rights" :key="r.form" class="may"
              >{{ labelOf(r.form) }}: {{ r.rights.join(', ') }}</span
            ></template
          ></Column
        >
        <Column header="Made"
          ><template #body="{ data: p }">{{ showMoment(p.madeAt) }}{{ p.madeBy ? ` by ${p.madeBy}` : '' }}</template></Column
        >
        <Column header="Last used"
          ><template #body="{ data: p }">{{ p.usedAt ? showMoment(p.usedAt) : 'never' }}</template></Column
        >
        <Column>
          <template #header><span class="sr">Actions</span></template>
          <template #body="{ data: p }"
            ><Button link severity="secondary" label="End it" :aria-label="`End the token of ${p.name}`" @click="end($event, p)"
          /></template>
        </Column>
      </DataTable>
    </Asked>
    <StayDialog v-model:visible="adding" modal header="A token for a program" :style="{ width: '600px' }">
      <form id="program" class="fields" @submit.prevent="add">
        <label
          ><span class="label">What the program is called; its records say so</span
          ><InputText v-model="form.name" autofocus required maxlength="200"
        /></label>
        <div class="group" role="group" aria-labelledby="as-word">
          <span id="as-word" class="label">It counts as</span>
          <label v-for="r in MAY_FOR_PROGRAMS" :key="r" class="row"
            ><Checkbox v-model="form.roles" :value="r" :input-id="`as-${r}`" /> {{ r }}</label
          >
        </div>
        <Asked v-slot="{ data: all }" :query="forms">
          <DataTable :value="[...all]" data-key="key" size="small" :table-props="{ 'aria-label': 'Rights with each form' }">
            <Column header="Form" field="label" />
            <Column v-for="r in RIGHTS" :key="r" :header="r"
              ><template #body="{ data: f }"
                ><Checkbox
                  :model-value="form.rights[f.key] ?? []"
                  :value="r"
                  :aria-label="`${f.label}: ${r}`"
                  @update:model-value="form.rights[f.key] = $event" /></template
            ></Column>
          </DataTable>
        </Asked>
        <Note v-if="problem" kind="bad">{{ problem }}</Note>
      </form>
      <template #footer>
        <Button text severity="secondary" label="Cancel" @click="adding = false" />
        <Button type="submit" form="program" label="Make the token" :disabled="!chosen.length || !form.roles.length" />
      </template>
    </StayDialog>
    <StayDialog :visible="token !== ''" modal header="The token" :style="{ width: '600px' }" @update:visible="token = ''">
      <p>Put it where the program finds it. It is not shown again.</p>
      <InputText
        class="wide mono"
        :model-value="token"
        readonly
        aria-label="The token"
        @focus="($event.target as HTMLInputElement).select()"
      />
      <template #footer><Button label="Done" @click="token = ''" /></template>
    </StayDialog>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 12px;
}
.group {
  display: flex;
  gap: 18px;
}
.may {
  display: block;
}
.wide {
  width: 100%;
}
</style>
