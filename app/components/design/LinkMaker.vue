<script setup lang="ts">
import { isLockedByFill } from '~~/core/form/fills/index.ts';
import { isPersons } from '~~/core/model/origin.ts';
import QRCode from 'qrcode';
import { csvText } from '~~/core/exchange/csv.ts';
import type { PlanField } from '~~/core/engine/plan.ts';
import type { Datum } from '~~/core/values/types.ts';

/* A link, and its code to be scanned, that opens a new entry with values in it. It begins with what is tried in the live form. */
const draft = useDraft();
const tryout = useTryout();
const fields = computed(() =>
  (draft.plan?.own ?? []).filter((f) => !isLockedByFill(f) && COLUMN_LOOKS[f.definition.type].control !== 'file'),
);
const texts = reactive<Record<string, string>>({});

/** A value as it stands in a link: the number of a row, a choice's stored value, numbers and dates as in a file. */
const written = (field: PlanField, value: Datum): string =>
  Array.isArray(value) ? value.join(',') : csvText({ type: field.definition.type }, value);
function takeTried(): void {
  for (const field of fields.value) {
    const { value, state } = tryout.host.view(field.key);
    const byHand = isPersons(state.origin) || state.origin.kind === 'filledUp';
    texts[field.key] = value !== null && byHand ? written(field, value) : '';
  }
}
takeTried();
const query = computed(() => {
  const given = fields.value.filter((f) => texts[f.key]?.trim()).map((f): [string, string] => [f.key, (texts[f.key] as string).trim()]);
  return new URLSearchParams(given).toString();
});
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
async function copy(): Promise<void> {
  copied.value = await navigator.clipboard.writeText(link.value).then(
    () => true,
    () => false,
  );
}
</script>

<template>
  <div class="maker">
    <p>
      Choose which fields the link fills. What does not fit, or is not offered then, is left out with a notice.
      <Button link @click="takeTried">Use the values in the try-out</Button>
    </p>
    <div class="two">
      <div class="fields">
        <template v-for="f in fields" :key="f.key">
          <label :for="`link-${f.key}`">{{ f.definition.label }}</label>
          <InputText :id="`link-${f.key}`" v-model="texts[f.key]" placeholder="not set" />
        </template>
      </div>
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
  grid-template-columns: minmax(0, 1fr) 230px;
  gap: 20px;
  padding-top: 10px;
}
.fields {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  align-content: start;
  align-items: center;
  gap: 4px 10px;
}
.out {
  display: grid;
  gap: 8px;
  align-content: start;
}
img {
  background: #fff;
  border: 1px solid var(--line);
}
</style>
