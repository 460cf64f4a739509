<script setup lang="ts">
import { pageForPath, searchPages } from '~~/core/guide/pages.ts';
import { GUIDE_PAGES } from './pages';
import { inQuotes } from '~~/core/values/text.ts';

/* `?` on any screen: the page of the guide that belongs to it, and all others by a search. */
const route = useRoute();
const visible = defineModel<boolean>('visible', { required: true });
const sought = ref('');
const slug = ref<string | null>(null);
const page = computed(() => GUIDE_PAGES.find((p) => p.slug === slug.value) ?? null);
const found = computed(() => searchPages(GUIDE_PAGES, sought.value));
watch(
  visible,
  (now) => {
    if (!now) return;
    sought.value = '';
    slug.value = pageForPath(GUIDE_PAGES, route.path)?.slug ?? null;
  },
  { immediate: true },
);
watch(() => route.path, () => (visible.value = false)); // prettier-ignore
function open(to: string): void {
  slug.value = to;
  sought.value = '';
}
</script>

<template>
  <Drawer v-model:visible="visible" position="right" header="Help" :style="{ width: 'min(520px, 100vw)' }">
    <InputText
      v-model="sought"
      class="wide"
      type="search"
      placeholder="What do you want to do?"
      aria-label="What do you want to do?"
      @keydown.enter="found[0] && open(found[0].slug)"
    />
    <GuideText v-if="page && !sought" :page="page" />
    <nav v-if="!page || sought" class="list" aria-label="Pages of the guide">
      <Button v-for="p in found" :key="p.slug" link :label="p.title" @click="open(p.slug)" />
      <p v-if="!found.length" class="muted">No page tells of {{ inQuotes(sought) }}.</p>
    </nav>
    <p class="more">
      <Button v-if="page && !sought" link severity="secondary" label="All pages" @click="slug = null" />
      <NuxtLink to="/guide">Guide with names and functions</NuxtLink>
    </p>
  </Drawer>
</template>

<style scoped>
.wide {
  width: 100%;
  margin-bottom: 10px;
}
.list {
  display: grid;
  justify-items: start;
  gap: 8px;
}
.more {
  display: flex;
  gap: 18px;
  padding-top: 14px;
}
</style>
