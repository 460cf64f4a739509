<script setup lang="ts">
const { forms, failed, load } = useForms();
await load();
const tables = await fetchTables().catch(() => []);
const making = ref(false);
const label = ref('');
const table = ref<string | null>(null);
const problem = ref('');
useHead({ title: 'Forms · Brisk Acorn' });

async function make(): Promise<void> {
  problem.value = '';
  try {
    const { key } = await api<{ key: string }>('forms', { body: { label: label.value, table: table.value } });
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
      <button class="btn act" type="button" @click="making = true"><i class="pi pi-plus" aria-hidden="true" /> New form</button>
    </header>
    <p v-if="failed" class="note bad" role="alert">{{ failed }} <button class="word" type="button" @click="load">Try again</button></p>
    <p v-else-if="!forms.length" class="note">No forms yet. Bring in the tables first, then make a form over them.</p>
    <table v-else class="plainTable">
      <thead>
        <tr>
          <th>Form</th>
          <th>Saves into</th>
          <th>Published</th>
          <th>Draft</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="f in forms" :key="f.key">
          <td>
            <NuxtLink :to="`/design/forms/${f.key}`"
              ><b>{{ f.label }}</b></NuxtLink
            >
          </td>
          <td>{{ tables.find((t) => t.key === f.table)?.label ?? f.table }}</td>
          <td>{{ f.version ? `version ${f.version}` : 'not yet' }}</td>
          <td>
            <span v-if="f.broken" class="bad"
              ><span class="chip bad">broken</span> {{ f.broken }}{{ f.version ? ' What is published goes on.' : '' }}</span
            >
            <span v-if="f.problems.errors" class="chip bad"
              >{{ f.problems.errors }} {{ f.problems.errors === 1 ? 'problem' : 'problems' }}</span
            >
            <span v-if="f.version && f.changes.length" class="chip flow">{{ f.changes.length }} not published</span
            ><span v-else-if="f.version && !f.problems.errors" class="muted">as published</span>
          </td>
        </tr>
      </tbody>
    </table>
    <Dialog v-model:visible="making" modal header="New form" :style="{ width: '420px' }">
      <form class="fields" @submit.prevent="make">
        <label
          ><span class="label">What is it called?</span><input v-model="label" class="in" autofocus required placeholder="Germination test"
        /></label>
        <label
          ><span class="label">Where are its records saved?</span>
          <select v-model="table" class="in">
            <option :value="null">in a new table of its own</option>
            <option v-for="t in tables" :key="t.key" :value="t.key">in {{ t.label }}</option>
          </select>
        </label>
        <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
        <button class="btn act" type="submit" :disabled="!label.trim()">Make the form</button>
      </form>
    </Dialog>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 14px;
}
.fields .btn {
  justify-self: start;
}
</style>
