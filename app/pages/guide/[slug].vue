<script setup lang="ts">
import { GUIDE_PAGES } from '~/components/guide/pages';

const route = useRoute();
const page = computed(() => GUIDE_PAGES.find((p) => p.slug === route.params.slug) ?? null);
useHead({ title: computed(() => `${page.value?.title ?? 'Guide'} · Brisk Acorn`) });
</script>

<template>
  <div class="page">
    <PlaceTrail :above="[{ label: 'Guide', to: '/guide' }]" :here="page?.title ?? String(route.params.slug)" />
    <Note v-if="!page" kind="bad">The guide has no page “{{ String(route.params.slug) }}”. <NuxtLink to="/guide">All pages</NuxtLink></Note>
    <template v-else>
      <h1>{{ page.title }}</h1>
      <GuideText class="narrow" :page="page" untitled />
    </template>
  </div>
</template>

<style scoped>
.narrow {
  max-width: 820px;
}
</style>
