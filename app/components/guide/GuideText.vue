<script setup lang="ts">
import { marked } from 'marked';
import type { GuidePage } from '~~/core/guide/pages.ts';

/* One page of the guide: its text, its picture, and the way to the demo’s form that shows it. */
const { page } = defineProps<{ page: GuidePage; /** the title stands elsewhere */ untitled?: boolean }>();
const session = useSession();
const { data: forms } = useForms();
/** pictures stand beside the texts in the repository, and are served by the application */
const html = computed(() => {
  const text = page.body.replace(/^# .*\n/, '').replaceAll('](../screenshots/', '](/pictures/');
  return marked.parse(text, { async: false });
});
const shown = computed(() => {
  const { open } = page;
  const form = open && forms.value?.find((f) => f.key === open.form);
  return open && form && session.builds ? { to: `/design/forms/${open.form}?field=${open.field}`, form: form.label } : null;
});
</script>

<template>
  <article class="text">
    <h2 v-if="!untitled">{{ page.title }}</h2>
    <p v-if="shown">
      <NuxtLink :to="shown.to">See it in {{ shown.form }}</NuxtLink>
    </p>
    <!-- eslint-disable-next-line vue/no-v-html -- texts of the repository, built in: nobody else writes them -->
    <div v-html="html" />
  </article>
</template>

<style scoped>
.text :deep(:is(ol, ul)) {
  padding-left: 22px;
  display: grid;
  gap: 5px;
  list-style: decimal;
}
.text :deep(ul) {
  list-style: disc;
}
.text :deep(p) {
  padding: 6px 0;
}
.text :deep(h2) {
  padding-top: 10px;
}
.text :deep(img) {
  max-width: 100%;
  border: 1px solid var(--line);
  border-radius: 4px;
}
.text :deep(code) {
  background: var(--ground-3);
  padding: 0 3px;
}
.text :deep(table) {
  border-collapse: collapse;
  margin: 8px 0;
}
.text :deep(:is(td, th)) {
  border-bottom: 1px solid var(--line);
  padding: 4px 10px 4px 0;
  text-align: start;
  vertical-align: top;
}
.text :deep(th:empty) {
  display: none;
}
</style>
