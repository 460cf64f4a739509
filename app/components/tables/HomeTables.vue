<script setup lang="ts">
/* The tables there are, with the number of their rows. */
const asked = useTables();
</script>

<template>
  <section>
    <div class="row spread">
      <h2>Tables</h2>
      <Button as="router-link" severity="secondary" size="small" icon="pi pi-upload" label="Import a file" to="/design/tables/import" />
    </div>
    <Asked v-slot="{ data }" :query="asked">
      <ul class="tables">
        <li v-for="t in data" :key="t.key">
          <NuxtLink :to="`/design/tables/${t.key}`">{{ t.label }}</NuxtLink> <span class="muted">{{ t.rows.toLocaleString(LOCALE) }}</span>
        </li>
      </ul>
    </Asked>
  </section>
</template>

<style scoped>
h2 {
  margin-bottom: 6px;
}
.tables {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 22px;
}
</style>
