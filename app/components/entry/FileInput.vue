<script setup lang="ts">
import type { Datum } from '~~/core/values/types.ts';

/* A file: chosen, or dropped; sent at once, judged by its content on the server. */
const props = defineProps<{ value: Datum; name: string; id: string; accept: readonly string[]; locked?: boolean; describedby?: string }>();
const emit = defineEmits<{ change: [value: Datum] }>();
const input = ref<HTMLInputElement>();
const sending = ref(false);
const failed = ref('');
const over = ref(false);

async function send(file: File | undefined): Promise<void> {
  if (!file || props.locked) return;
  sending.value = true;
  failed.value = '';
  try {
    emit('change', (await sendFile(file)).id);
  } catch (e) {
    failed.value = messageOf(e);
  } finally {
    sending.value = false;
    if (input.value) input.value.value = '';
  }
}
</script>

<template>
  <div
    class="file"
    :class="{ over }"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="((over = false), send($event.dataTransfer?.files[0]))"
  >
    <a v-if="typeof value === 'number'" :href="`/api/files/${value}`" download>{{ name || 'the file' }}</a>
    <button class="btn small" type="button" :disabled="locked || sending" :aria-describedby="describedby" @click="input?.click()">
      <i class="pi pi-paperclip" aria-hidden="true" /> {{ sending ? 'Sending…' : value === null ? 'Choose a file' : 'Another' }}
    </button>
    <button v-if="value !== null && !locked" class="word light" type="button" @click="emit('change', null)">take it away</button>
    <span v-else-if="accept.length" class="muted">{{ accept.map((a) => a.toUpperCase()).join(' or ') }}</span>
    <input
      :id="id"
      ref="input"
      class="sr"
      type="file"
      tabindex="-1"
      :accept="accept.map((a) => `.${a}`).join(',')"
      :disabled="locked"
      @change="send(($event.target as HTMLInputElement).files?.[0])"
    />
    <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
  </div>
</template>

<style scoped>
.file {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 10px;
  min-height: 32px;
  font-size: 13px;
}
.over {
  outline: 2px dashed var(--flow);
}
</style>
