<script setup lang="ts">
import { contract } from '~~/core/contract/index.ts';
import type { Datum } from '~~/core/values/types.ts';

/* A file: chosen, or dropped; sent at once, judged by its content on the server. */
const props = defineProps<{ value: Datum; name: string; id: string; accept: readonly string[]; locked?: boolean; describedby?: string }>();
const emit = defineEmits<{ change: [value: Datum] }>();
const sending = ref(false);
const failed = ref('');

async function send(file: File): Promise<void> {
  if (props.locked) return;
  sending.value = true;
  failed.value = '';
  try {
    emit('change', (await sendBody(contract.files.store, file)).id);
  } catch (e) {
    failed.value = messageOf(e);
  } finally {
    sending.value = false;
  }
}
</script>

<template>
  <FileDrop
    :id="id"
    v-slot="{ choose }"
    class="file"
    :label="name || 'File'"
    :accept="accept.map((a) => `.${a}`).join(',')"
    :disabled="locked"
    @file="send"
  >
    <div class="line">
      <a v-if="typeof value === 'number'" :href="routeAddress(contract.files.read, { id: value })" download>{{ name || 'the file' }}</a>
      <Button severity="secondary" size="small" :disabled="locked || sending" :aria-describedby="describedby" @click="choose">
        <i class="pi pi-paperclip" aria-hidden="true" /> {{ sending ? 'Sending…' : value === null ? 'Choose a file' : 'Replace' }}
      </Button>
      <Button v-if="value !== null && !locked" link severity="secondary" label="remove" @click="emit('change', null)" />
      <span v-else-if="accept.length" class="muted">{{ accept.map((a) => a.toUpperCase()).join(' or ') }}</span>
    </div>
    <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
  </FileDrop>
</template>

<style scoped>
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 10px;
  min-height: 32px;
  font-size: 13px;
}
</style>
