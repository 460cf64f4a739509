<script setup lang="ts">
/* A one-time link, told once: to be handed over. */
const props = defineProps<{ link: { readonly path: string; readonly until: number } | null; name: string }>();
const emit = defineEmits<{ close: [] }>();
const address = computed(() => (props.link ? `${location.origin}${props.link.path}` : ''));
const copied = ref(false);
watch(() => props.link, () => (copied.value = false)); // prettier-ignore
async function copy(): Promise<void> {
  await navigator.clipboard.writeText(address.value).then(() => (copied.value = true)).catch(() => undefined); // prettier-ignore
}
</script>

<template>
  <StayDialog :visible="link !== null" modal :header="`A link for ${name}`" :style="{ width: '560px' }" @update:visible="emit('close')">
    <p>
      Hand this to {{ name }}: it sets the password and signs in. It works once, until
      {{ link && new Date(link.until).toLocaleString(LOCALE, { dateStyle: 'medium', timeStyle: 'short' }) }}, and is not shown again.
    </p>
    <p class="row">
      <InputText
        class="grow mono"
        :model-value="address"
        readonly
        aria-label="The link"
        @focus="($event.target as HTMLInputElement).select()"
      />
      <Button severity="secondary" :label="copied ? 'Copied' : 'Copy'" @click="copy" />
    </p>
    <template #footer><Button label="Done" @click="emit('close')" /></template>
  </StayDialog>
</template>
