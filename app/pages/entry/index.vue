<script setup lang="ts">
const asked = useForms();
useHead({ title: 'Entries · Brisk Acorn' });
</script>

<template>
  <div class="page">
    <header>
      <h1>Entries</h1>
      <p class="muted">Choose a form to enter new records or open existing ones.</p>
    </header>
    <Asked v-slot="{ data }" :query="asked">
      <Note v-if="!data.some((f) => f.version)" kind="quiet">No form has been published yet.</Note>
      <ul v-else class="forms">
        <li v-for="f in data.filter((x) => x.version)" :key="f.key">
          <NuxtLink :to="f.may.includes('see') ? `/entry/${f.key}` : `/entry/${f.key}/new`"
            ><b>{{ f.label }}</b></NuxtLink
          >
          <span class="muted">version {{ f.version }}</span>
          <Button
            v-if="f.may.includes('enter')"
            as="router-link"
            size="small"
            icon="pi pi-plus"
            label="New entry"
            :to="`/entry/${f.key}/new`"
          />
        </li>
      </ul>
    </Asked>
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
