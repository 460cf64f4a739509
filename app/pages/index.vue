<script setup lang="ts">
import type { TableSummary } from '~/composables/useTables';

const session = useSession();
const route = useRoute();
const { forms, failed, load } = useForms();
const tables = shallowRef<readonly TableSummary[]>([]);
await load();
if (session.builds) tables.value = await fetchTables().catch(() => []);
useHead({ title: 'Home · Brisk Acorn' });

/** What needs somebody first: problems, then what is not published. */
const attention = computed(() =>
  session.builds
    ? forms.value.flatMap((f) => {
        const lines: string[] = [];
        if (f.problems.errors)
          lines.push(`${f.problems.errors} ${f.problems.errors === 1 ? 'problem' : 'problems'} in the way of publishing`);
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
    <p v-if="route.query.not === 'design'" class="note">
      The Design area is for those who build forms; you are signed in as {{ session.account?.role }}.
    </p>
    <p v-if="failed" class="note bad" role="alert">{{ failed }} <button class="word" type="button" @click="load">Try again</button></p>
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
        <NuxtLink v-if="session.builds" class="btn small" to="/design/forms">All forms</NuxtLink>
      </div>
      <table v-if="forms.length" class="plainTable">
        <thead>
          <tr>
            <th>Form</th>
            <th>Published</th>
            <th v-if="session.builds">Draft</th>
            <th />
          </tr>
        </thead>
        <tbody>
          <tr v-for="f in forms" :key="f.key">
            <td>
              <NuxtLink :to="session.builds ? `/design/forms/${f.key}` : `/entry/${f.key}`"
                ><b>{{ f.label }}</b></NuxtLink
              >
            </td>
            <td>{{ f.version ? `version ${f.version}` : 'not yet' }}</td>
            <td v-if="session.builds">
              <span v-if="f.problems.errors" class="chip bad"
                >{{ f.problems.errors }} {{ f.problems.errors === 1 ? 'problem' : 'problems' }}</span
              >
              <span v-if="f.changes.length" class="chip flow">{{
                f.version ? `${f.changes.length} not published` : 'never published'
              }}</span><span v-else-if="!f.problems.errors" class="muted">as published</span>
            </td>
            <td>
              <div class="row end">
                <NuxtLink v-if="f.version" class="btn small" :to="`/entry/${f.key}`">Records</NuxtLink
                ><NuxtLink v-if="f.version" class="btn act small" :to="`/entry/${f.key}/new`">New entry</NuxtLink>
              </div>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-else-if="!failed" class="note">No forms yet. <NuxtLink v-if="session.builds" to="/design/forms">Make the first one</NuxtLink></p>
    </section>
    <section v-if="session.builds" class="block">
      <div class="row spread">
        <h2>Tables</h2>
        <NuxtLink class="btn small" to="/design/tables/import"><i class="pi pi-upload" aria-hidden="true" /> Bring in a file</NuxtLink>
      </div>
      <ul class="tables">
        <li v-for="t in tables" :key="t.key">
          <NuxtLink :to="`/design/tables/${t.key}`">{{ t.label }}</NuxtLink> <span class="muted">{{ t.rows.toLocaleString(LOCALE) }}</span>
        </li>
      </ul>
    </section>
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
.tables {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 22px;
}
</style>
