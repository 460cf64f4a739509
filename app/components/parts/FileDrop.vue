<script setup lang="ts">
/* A file that is chosen or dropped, handed on one at a time; what stands inside may open the choice. */
const { accept = '', label, id, disabled = false } = defineProps<{ accept?: string; label: string; id?: string; disabled?: boolean }>();
const emit = defineEmits<{ file: [file: File] }>();
const upload = ref<{ choose(): void; clear(): void }>();
function selected({ files }: { files: File[] }): void {
  const file = files.at(-1);
  // the next one is looked at for itself, also when it is the same file changed
  upload.value?.clear();
  if (file) emit('file', file);
}
</script>

<template>
  <FileUpload
    ref="upload"
    custom-upload
    :multiple="false"
    :disabled="disabled"
    :pt="{ input: { id, accept, 'aria-label': label, tabindex: -1 } }"
    @select="selected"
  >
    <template #header><span /></template>
    <template #content><slot :choose="() => upload?.choose()" /></template>
  </FileUpload>
</template>
