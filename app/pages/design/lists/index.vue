<script setup lang="ts">
import { levelsOf } from '~~/core/form/lists.ts';

const { lists, failed, load } = useLists();
await load();
const making = ref(false);
const label = ref('');
const outline = ref('');
const problem = ref('');
useHead({ title: 'Lists · Brisk Acorn' });
async function make(): Promise<void> {
  problem.value = '';
  try {
    const { key } = await api<{ key: string }>('lists', { body: { label: label.value, outline: outline.value } });
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
        <p class="muted">Choices kept by hand, flat or nested to any depth.</p>
      </div>
      <button class="btn act" type="button" @click="making = true"><i class="pi pi-plus" aria-hidden="true" /> New list</button>
    </header>
    <p v-if="failed" class="note bad" role="alert">{{ failed }} <button class="word" type="button" @click="load">Try again</button></p>
    <p v-else-if="!lists.length" class="note">
      No lists yet. A list is for choices that no table holds: purposes, delivery methods, states.
    </p>
    <table v-else class="plainTable">
      <thead>
        <tr>
          <th>List</th>
          <th class="num">Choices</th>
          <th class="num">Levels</th>
          <th>Used by</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="l in lists" :key="l.key">
          <td>
            <NuxtLink :to="`/design/lists/${l.key}`"
              ><b>{{ l.label }}</b></NuxtLink
            >
            <span v-if="l.broken" class="bad"><span class="chip bad">broken</span> {{ l.broken }}</span>
          </td>
          <td class="num">{{ l.items.length }}</td>
          <td class="num">{{ levelsOf(l) }}</td>
          <td>{{ l.usedBy.map((u) => u.label).join(', ') || 'no form' }}</td>
        </tr>
      </tbody>
    </table>
    <Dialog v-model:visible="making" modal header="New list" :style="{ width: '460px' }">
      <form class="fields" @submit.prevent="make">
        <label><span class="label">What is it called?</span><input v-model="label" class="in" required placeholder="Purposes" /></label>
        <label
          ><span class="label">Paste an outline (or type it later)</span
          ><textarea
            v-model="outline"
            class="in mono"
            rows="8"
            :placeholder="'Research\n    Germination\n    Genetics\nRestoration'"
            @keydown.tab.prevent="outline += '\t'"
          />
          <span class="muted">Indent what belongs under a choice; or paste columns from a spreadsheet.</span></label
        >
        <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
        <button class="btn act" type="submit" :disabled="!label.trim()">Make the list</button>
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
