<script setup lang="ts">
/* The files that what is shown can be taken away as. */
defineProps<{ files: readonly { readonly label: string; readonly note: string; readonly url: string | (() => string) }[] }>();
const menu = ref<{ toggle(event: Event): void }>();
/** where a file is fetched from, as it stands when it is */
const urlOf = (url: unknown): string => (typeof url === 'function' ? (url as () => string)() : String(url));
</script>

<template>
  <span
    ><Button
      severity="secondary"
      size="small"
      icon="pi pi-download"
      label="Export…"
      aria-haspopup="menu"
      @click="menu?.toggle($event)"
    /><Menu ref="menu" popup :model="files.map(({ url, ...f }) => ({ ...f, address: url }))">
      <template #item="{ item, props: link }"
        ><a v-bind="link.action" :href="urlOf(item.address)" download
          >{{ item.label }} <span class="muted">{{ item.note }}</span></a
        ></template
      >
    </Menu></span
  >
</template>
