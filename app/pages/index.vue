<script setup lang="ts">
import { useQuery } from '@pinia/colada';

const session = useSession();
const route = useRoute();
const asked = useForms();
const forms = computed(() => asked.data.value ?? []);
const home = useQuery({ key: ['home'], query: () => api.home.read() });
const countOf = (form: string): string => home.data.value?.counts[form]?.toLocaleString(LOCALE) ?? '';
useHead({ title: 'Home · Brisk Acorn' });

/** What needs somebody first: problems, then what is not published. */
const attention = computed(() =>
  session.builds
    ? forms.value.flatMap((f) => {
        const lines: string[] = [];
        if (f.problems.errors)
          lines.push(`${f.problems.errors} ${f.problems.errors === 1 ? 'problem' : 'problems'} to fix before publishing`);
        if (f.changes.length)
          lines.push(
            f.version ? `${f.changes.length} ${f.changes.length === 1 ? 'change' : 'changes'} not published` : 'not published yet',
          );
        return lines.map((text) => ({ key: f.key, label: f.label, text }));
      })
    : [],
);
</script>

<template>
  <div class="page">
    <header>
      <h1>Good day, {{ session.account?.name.split(' ')[0] }}</h1>
    </header>
    <Note v-if="route.query.not === 'admin'">People, rights and settings are for administrators. Ask one of them.</Note>
    <FirstSteps v-if="session.builds && !asked.isPending.value" :forms="forms" />
    <Note v-if="route.query.not === 'design'">
      The Design area is for those who build forms; you are signed in as {{ session.account?.roles.join(' and ') }}.
    </Note>

    <HomeToday />
    <section v-if="attention.length" class="block">
      <h2>Needs attention</h2>
      <ul>
        <li v-for="a in attention" :key="a.key + a.text">
          <NuxtLink :to="`/design/forms/${a.key}`">{{ a.label }}</NuxtLink>: {{ a.text }}
        </li>
      </ul>
    </section>
    <section class="block">
      <div class="row spread">
        <h2>Forms</h2>
        <Button v-if="session.builds" as="router-link" severity="secondary" size="small" to="/design/forms">All forms</Button>
      </div>
      <Asked :query="asked">
        <DataTable v-if="forms.length" :value="[...forms]" data-key="key" row-hover>
          <Column v-memo="[]" header="Form" field="label" sortable>
            <template #body="{ data: f }"
              ><NuxtLink :to="session.builds ? `/design/forms/${f.key}` : f.may.includes('see') ? `/entry/${f.key}` : `/entry/${f.key}/new`"
                ><b>{{ f.label }}</b></NuxtLink
              ></template
            >
          </Column>
          <Column v-memo="[]" header="Published" field="version" sortable>
            <template #body="{ data: f }">{{ f.version ? `version ${f.version}` : 'not yet' }}</template>
          </Column>
          <Column v-if="session.builds" v-memo="[]" header="Draft"
            ><template #body="{ data: f }"><DraftState :form="f" /></template
          ></Column>
          <Column header="Records" class="num"
            ><template #body="{ data: f }">{{ countOf(f.key) }}</template></Column
          >
          <Column v-memo="[]">
            <template #header><span class="sr">Actions</span></template>
            <template #body="{ data: f }">
              <div v-if="f.version" class="row end">
                <Button
                  v-if="f.may.includes('see')"
                  as="router-link"
                  severity="secondary"
                  size="small"
                  label="Records"
                  :to="`/entry/${f.key}`"
                /><Button v-if="f.may.includes('enter')" as="router-link" size="small" label="New entry" :to="`/entry/${f.key}/new`" />
              </div>
            </template>
          </Column>
        </DataTable>
        <Note v-else kind="quiet"
          >{{ session.builds ? 'No forms yet.' : 'There is no form for you yet. Ask whoever administers the workspace.' }}
          <NuxtLink v-if="session.builds" to="/design/forms">Create the first one</NuxtLink></Note
        >
      </Asked>
    </section>
    <HomeTables v-if="session.builds" class="block" />
  </div>
</template>

<style scoped>
.block {
  margin-bottom: 28px;
}
.block h2 {
  margin-bottom: 6px;
}
.end {
  justify-content: flex-end;
}
</style>
