<script setup lang="ts">
import type { Page } from '~~/core/form/definition.ts';
import { addPage, changePage, nudgePage, removePage } from '~~/core/form/edit.ts';

/* The head of a page where a form has several: its label, its place, when it is shown. */
const props = defineProps<{ page: Page; number: number; only: boolean }>();
const draft = useDraft();
const form = computed(() => draft.form!);
const settings = ref(false);
const HIDDEN = [
  { value: 'own', label: 'its values as each field says' },
  { value: 'keep', label: 'its values kept' },
  { value: 'clear', label: 'its values emptied' },
] as const;
const called = computed(() => props.page.label || `Page ${props.number}`);
</script>

<template>
  <div class="pageHead">
    <TextEdit
      class="bare heading"
      :value="page.label"
      :placeholder="`Page ${number}`"
      :aria-label="`Label of page ${number}`"
      @change="draft.change(changePage(form, page.id, { label: ($event.target as HTMLInputElement).value.trim() }))"
      @keydown.enter="($event.target as HTMLInputElement).blur()"
    />
    <IconButton icon="pi pi-sliders-h" :aria-label="`Settings of page ${called}`" :aria-expanded="settings" @click="settings = !settings" />
    <IconButton icon="pi pi-arrow-up" :aria-label="`Move page ${called} up`" @click="draft.change(nudgePage(form, page.id, -1))" />
    <IconButton icon="pi pi-arrow-down" :aria-label="`Move page ${called} down`" @click="draft.change(nudgePage(form, page.id, 1))" />
    <IconButton
      icon="pi pi-trash"
      :aria-label="`Remove page ${called}; its sections go to the page beside it`"
      @click="draft.change(removePage(form, page.id))"
    />
    <Button link severity="secondary" @click="draft.change(addPage(form, page.id, 'New page').form)">+ page</Button>
  </div>
  <div v-if="settings" class="settings">
    <StateSentence
      :states="page"
      :place="`@${page.id}`"
      :hidden="HIDDEN"
      :words="{ required: 'All its fields are required' }"
      @change="draft.change(changePage(form, page.id, $event))"
    />
    <AccessSentence :place="`@${page.id}`" />
  </div>
</template>

<style scoped>
.pageHead {
  display: flex;
  align-items: center;
  gap: 4px;
  margin: 14px 0 2px 14px;
  border-bottom: 2px solid var(--line);
}
.heading {
  font-size: 16px;
  font-weight: 700;
}
.settings {
  margin: 2px 8px 8px 22px;
  padding: 6px 12px;
  border-left: 2px solid var(--flow);
  background: var(--ground-2);
}
</style>
