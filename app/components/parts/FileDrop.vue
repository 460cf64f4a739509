<script setup lang="ts">
/* A file that is chosen or dropped, handed on one at a time; what stands inside may open the choice. */
const {
  accept = '',
  label,
  id,
  disabled = false,
  several = false,
  capture,
} = defineProps<{
  accept?: string;
  label: string;
  id?: string;
  disabled?: boolean;
  several?: boolean;
  /** the camera of a phone, instead of its files */
  capture?: 'environment';
}>();
const emit = defineEmits<{ file: [file: File] }>();
const upload = ref<{ choose(): void; clear(): void }>();
function selected({ files }: { files: File[] }): void {
  // the next one is looked at for itself, also when it is the same file changed
  upload.value?.clear();
  for (const file of several ? files : files.slice(-1)) emit('file', file);
}
</script>

<template>
  <FileUpload
    ref="upload"
    custom-upload
    :multiple="several"
    :disabled="disabled"
    :pt="{ input: { id, accept, capture, 'aria-label': label, tabindex: -1 } }"
    @select="selected"
  >
    <template #header><span /></template>
    <template #content><slot :choose="() => upload?.choose()" /></template>
  </FileUpload>
</template>
