<script setup lang="ts">
import { useMediaQuery } from '@vueuse/core';
import { contract } from '~~/core/contract/index.ts';
import type { Datum } from '~~/core/values/types.ts';

/* A file, or several: chosen, dropped, pasted or photographed; sent at once, judged by their content on the server. */
const props = defineProps<{
  files: readonly { id: number; name: string; kind: string; size: number }[];
  several: boolean;
  label: string;
  id: string;
  accept: readonly string[];
  locked?: boolean;
  describedby?: string;
}>();
const emit = defineEmits<{ change: [value: Datum] }>();
const sending = ref(0);
const failed = ref('');
const ids = computed(() => props.files.map((f) => f.id));
/** files of one go are sent one after the other: each is added to those that came before it */
let last: Promise<unknown> = Promise.resolve();
let sent: number[] = [];
function send(file: File): void {
  if (props.locked) return;
  if (!sending.value) sent = [...ids.value];
  sending.value++;
  failed.value = '';
  last = last.then(async () => {
    try {
      const { id } = await sendBody(contract.files.store, file);
      sent = props.several ? [...sent, id] : [id];
      emit('change', props.several ? sent : id);
    } catch (e) {
      failed.value = `${file.name}: ${messageOf(e)}`;
    } finally {
      sending.value--;
    }
  });
}
function remove(id: number): void {
  const left = ids.value.filter((i) => i !== id);
  sent = left;
  emit('change', props.several && left.length ? left : null);
}
/** what lies on the clipboard as a file: a picture that was copied */
function pasted(event: ClipboardEvent): void {
  const files = [...(event.clipboardData?.files ?? [])];
  if (!files.length || props.locked) return;
  event.preventDefault();
  for (const file of props.several ? files : files.slice(0, 1)) send(file);
}
const PICTURES = ['png', 'jpeg', 'jpg', 'gif', 'webp'];
const isPicture = (kind: string): boolean => PICTURES.includes(kind);
const canShow = (kind: string): boolean => isPicture(kind) || kind === 'pdf';
const looking = shallowRef<(typeof props.files)[number] | null>(null);
const touch = useMediaQuery('(pointer: coarse)');
const takesPhotos = computed(() => touch.value && (!props.accept.length || props.accept.some(isPicture)));
const kinds = computed(() => props.accept.map((a) => a.toUpperCase()).join(' or '));
const sizeOf = (bytes: number): string => bytes < 1000 ? `${bytes} B` : bytes < 1_000_000 ? `${Math.round(bytes / 1000)} kB` : `${Math.round(bytes / 100_000) / 10} MB`; // prettier-ignore
</script>

<template>
  <div class="files" @paste="pasted">
    <FileDrop
      :id="id"
      v-slot="{ choose }"
      :label="label"
      :accept="accept.map((a) => `.${a}`).join(',')"
      :disabled="locked"
      :several="several"
      @file="send"
    >
      <ul v-if="files.length" class="list">
        <li v-for="f in files" :key="f.id">
          <Button v-if="isPicture(f.kind)" text class="thumb" :aria-label="`Look at ${f.name}`" @click="looking = f"
            ><img :src="routeAddress(contract.files.preview, { id: f.id })" alt="" loading="lazy"
          /></Button>
          <a :href="routeAddress(contract.files.read, { id: f.id })" download>{{ f.name }}</a>
          <span class="muted">{{ f.size ? sizeOf(f.size) : '' }}</span>
          <a
            v-if="canShow(f.kind) && !isPicture(f.kind)"
            :href="routeAddress(contract.files.preview, { id: f.id })"
            target="_blank"
            rel="noopener"
            >look<span class="sr"> at {{ f.name }} in a new tab</span></a
          >
          <Button v-if="!locked" link severity="secondary" label="remove" :aria-label="`Remove ${f.name}`" @click="remove(f.id)" />
        </li>
      </ul>
      <div class="line">
        <Button severity="secondary" size="small" :disabled="locked" :aria-describedby="describedby" @click="choose">
          <i class="pi pi-paperclip" aria-hidden="true" />
          {{ sending ? 'Sending…' : several ? (files.length ? 'Add' : 'Choose files') : files.length ? 'Replace' : 'Choose a file' }}
        </Button>
        <span v-if="!locked && !files.length" class="muted"
          >{{ kinds || 'any kind' }}, or drop or paste {{ several ? 'them' : 'it' }} here</span
        >
      </div>
    </FileDrop>
    <FileDrop
      v-if="takesPhotos && !locked"
      v-slot="{ choose }"
      :label="`${label}: take a photo`"
      accept="image/*"
      capture="environment"
      @file="send"
      ><Button severity="secondary" size="small" icon="pi pi-camera" label="Take a photo" @click="choose"
    /></FileDrop>
    <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
    <StayDialog
      :visible="looking !== null"
      modal
      :header="looking?.name ?? ''"
      :style="{ width: 'min(90vw, 900px)' }"
      @update:visible="looking = null"
      ><img v-if="looking" class="whole" :src="routeAddress(contract.files.preview, { id: looking.id })" :alt="looking.name"
    /></StayDialog>
  </div>
</template>

<style scoped>
.line,
.list li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 10px;
  min-height: 32px;
  font-size: 13px;
}
.list {
  list-style: none;
  margin: 0;
  padding: 0;
}
.thumb {
  padding: 2px;
}
.thumb img {
  display: block;
  height: 36px;
  max-width: 64px;
  object-fit: cover;
}
.whole {
  max-width: 100%;
}
</style>
