<script setup lang="ts">
import { fieldAt } from '~~/core/form/definition.ts';
import { changeField } from '~~/core/form/edit.ts';

/* The checks of a field. */
const props = defineProps<{ name: string }>();
const draft = useDraft();
const field = computed(() => fieldAt(draft.form!, props.name)!);
</script>

<template>
  <CheckList
    :checks="field.checks"
    :place="name"
    :label="field.label"
    @change="draft.change(changeField(draft.form!, name, { checks: $event }))"
  />
</template>
