<script setup lang="ts">
import QRCode from 'qrcode';

/* A link, and its code to be scanned, that opens a new entry with values in it. It begins with what is tried in the live form. */
const draft = useDraft();
const tryout = useTryout();
const given = shallowRef<Readonly<Record<string, string>>>({});
/** what the form is filled in with at first; a number, so that it is drawn anew */
const begun = shallowRef<{ readonly turn: number; readonly url: Readonly<Record<string, string>> } | null>(null);
async function takeTried(): Promise<void> {
  begun.value = { turn: (begun.value?.turn ?? 0) + 1, url: await addressOfEntry(tryout.host) };
}
onMounted(takeTried);
const startEmpty = (): void => void (begun.value = { turn: (begun.value?.turn ?? 0) + 1, url: {} });
const query = computed(() => new URLSearchParams(given.value).toString());
const link = computed(() => `${window.location.origin}/entry/${draft.formKey}/new${query.value ? `?${query.value}` : ''}`);
const code = ref('');
watchEffect(async () => {
  code.value = await QRCode.toString(link.value, { type: 'svg', margin: 2, errorCorrectionLevel: 'M' }).then(
    (svg) => `data:image/svg+xml;utf8,${encodeURIComponent(svg)}`,
    () => '',
  );
});
const copied = ref(false);
watch(link, () => (copied.value = false));
const values = ref<{ given(): Promise<Record<string, string>> }>();
async function copy(): Promise<void> {
  // what was typed last is in it, too
  given.value = (await values.value?.given()) ?? given.value;
  await nextTick();
  copied.value = await navigator.clipboard.writeText(link.value).then(
    () => true,
    () => false,
  );
}
</script>

<template>
  <div class="maker">
    <p>
      What does not fit, or is not offered when the link is opened, is left out with a notice. Rows are named by what they are called.
      <Button link @click="takeTried">Use the values in the try-out</Button> <Button link @click="startEmpty">Start empty</Button>
    </p>
    <div class="two">
      <LinkValues v-if="begun" ref="values" :key="begun.turn" :url="begun.url" @change="given = $event" />
      <div class="out">
        <img v-if="code" :src="code" alt="The link as a code to be scanned" width="200" height="200" />
        <Note v-else>The link is too long for a code.</Note>
        <Textarea class="mono" :rows="4" readonly :model-value="link" aria-label="The link" />
        <span class="row">
          <Button severity="secondary" size="small" @click="copy">{{ copied ? 'Copied' : 'Copy the link' }}</Button>
          <Button v-if="code" as="a" severity="secondary" size="small" :href="code" :download="`${draft.formKey}.svg`"
            >Download the QR code</Button
          >
        </span>
      </div>
    </div>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 260px;
  gap: 20px;
  padding-top: 10px;
}
.out {
  display: grid;
  gap: 8px;
  align-content: start;
}
.out :deep(textarea) {
  width: 100%;
}
.out .row {
  flex-wrap: wrap;
}
img {
  background: #fff;
  border: 1px solid var(--line);
}
</style>
