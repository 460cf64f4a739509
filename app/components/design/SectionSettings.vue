<script setup lang="ts">
import type { Section } from '~~/core/form/definition.ts';
import { addPage, changeSection, moveToPage } from '~~/core/form/edit.ts';

/* What holds for all of a section: when it is shown, required, read-only; and what is checked of it. */
const props = defineProps<{ section: Section }>();
const draft = useDraft();
const set = (change: Partial<Section>): void => draft.change(changeSection(draft.form!, props.section.id, change));
const HIDDEN = [
  { value: 'own', label: 'its values as each field says' },
  { value: 'keep', label: 'its values kept' },
  { value: 'clear', label: 'its values emptied' },
] as const;
const pages = computed(() => [
  ...draft.form!.pages.map((p, i) => ({ value: p.id, label: p.label ? `the page ${p.label}` : `page ${i + 1}` })),
  { value: NEW, label: 'a new page' },
]);
const NEW = ' new';
const page = computed(() => draft.form!.pages.find((p) => p.sections.some((s) => s.id === props.section.id))!);
function toPage(id: string): void {
  if (id !== NEW) return draft.change(moveToPage(draft.form!, props.section.id, id));
  const { form, id: made } = addPage(draft.form!, page.value.id, 'New page');
  const moved = moveToPage(form, props.section.id, made);
  // the blank section that the page was made with
  draft.change({
    ...moved,
    pages: moved.pages.map((p) => (p.id === made ? { ...p, sections: p.sections.filter((s) => s.id === props.section.id) } : p)),
  });
}
const FOLDS = [
  { value: 'never', label: 'stands open' },
  { value: 'open', label: 'stands open and can be folded' },
  { value: 'folded', label: 'stands folded until it is opened' },
] as const;
const COLUMNS = [
  { value: 1, label: 'the first column' },
  { value: 2, label: 'the second column' },
  { value: 3, label: 'the third column' },
] as const;
</script>

<template>
  <div class="settings">
    <StateSentence
      :states="section"
      :place="`@${section.id}`"
      :hidden="HIDDEN"
      :words="{ required: 'All its fields are required' }"
      @change="set"
    />
    <p>
      At entry it stands in
      <PickWord :value="section.column" :options="COLUMNS" label="Column" @pick="set({ column: $event })" /> of
      <PickWord :value="page.id" :options="pages" label="Page" @pick="toPage" />, where the screen is wide enough.
    </p>
    <p>
      At entry it
      <PickWord :value="section.folds" :options="FOLDS" label="Folding" @pick="set({ folds: $event })" />. Text at its head:
    </p>
    <WordsEdit
      :words="section.text"
      label="Running text"
      placeholder="None"
      :place="`@${section.id} text`"
      @change="set({ text: $event })"
    />
    <AccessSentence :place="`@${section.id}`" />
    <CheckList
      :checks="section.checks"
      :place="`@${section.id}`"
      :label="section.label || 'This section'"
      @change="set({ checks: $event })"
    />
  </div>
</template>

<style scoped>
.settings {
  margin: 2px 8px 8px 30px;
  padding: 6px 12px;
  border-left: 2px solid var(--flow);
  background: var(--ground-2);
}
</style>
