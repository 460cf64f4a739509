<script setup lang="ts">
/* The files that what is shown can be taken away as. */
defineProps<{ files: readonly { readonly label: string; readonly note: string; readonly url: string }[] }>();
const menu = ref<{ toggle(event: Event): void }>();
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
    /><Menu ref="menu" popup :model="[...files]">
      <template #item="{ item, props: link }"
        ><a v-bind="link.action" :href="item.url" download
          >{{ item.label }} <span class="muted">{{ item.note }}</span></a
        ></template
      >
    </Menu></span
  >
</template>
