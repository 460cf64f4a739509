<script setup lang="ts">
const { forms, failed, load } = useForms();
await load();
useHead({ title: 'Entries · Brisk Acorn' });
</script>

<template>
  <div class="page">
    <header>
      <h1>Entries</h1>
      <p class="muted">Choose a form to enter records or to look at those that exist.</p>
    </header>
    <p v-if="failed" class="note bad" role="alert">{{ failed }} <button class="word" type="button" @click="load">Try again</button></p>
    <p v-else-if="!forms.some((f) => f.version)" class="note">No form has been published yet.</p>
    <ul v-else class="forms">
      <li v-for="f in forms.filter((x) => x.version)" :key="f.key">
        <NuxtLink :to="`/entry/${f.key}`"
          ><b>{{ f.label }}</b></NuxtLink
        >
        <span class="muted">version {{ f.version }}</span>
        <NuxtLink class="btn act small" :to="`/entry/${f.key}/new`"><i class="pi pi-plus" aria-hidden="true" /> New entry</NuxtLink>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.forms li {
  display: grid;
  grid-template-columns: 1fr auto auto;
  gap: 16px;
  align-items: center;
  padding: 8px 0;
  border-bottom: 1px solid var(--line);
  max-width: 640px;
}
</style>
