<script setup lang="ts">
/* A record is deleted, with its lines, once somebody has said so twice. */
const props = defineProps<{ form: string; record: number; revision: number; label: string; lines: boolean }>();
const emit = defineEmits<{ deleted: [] }>();
const confirm = useConfirm();
const toast = useToast();
const busy = ref(false);
interface Linked {
  readonly label: string;
  readonly rows: readonly { readonly text: string }[];
}
/** What links to it, by name, as far as a message holds it. */
const named = (e: unknown): string =>
  (((e as { details?: { links?: readonly Linked[] } }).details?.links ?? []) as readonly Linked[])
    .map((l) => `${l.label}: ${l.rows.slice(0, 3).map((r) => r.text).join(', ')}`)
    .join('; '); // prettier-ignore
function ask(): void {
  confirm.require({
    header: `Delete record ${props.record}`,
    message: `This record of ${props.label}${props.lines ? ' and its lines' : ''} will be gone; what happened to it stays in its history.`,
    acceptProps: { label: 'Delete', severity: 'danger' },
    rejectProps: { label: 'Keep it', severity: 'secondary' },
    accept: remove,
  });
}
async function remove(): Promise<void> {
  busy.value = true;
  try {
    await api.entries.remove({ key: props.form, id: props.record }, { revision: props.revision });
    toast.add({ severity: 'success', summary: `Record ${props.record} is deleted`, life: 4000 });
    emit('deleted');
  } catch (e) {
    toast.add({ severity: 'error', summary: 'Not deleted', detail: [messageOf(e), named(e)].filter(Boolean).join(' '), life: 10_000 });
  } finally {
    busy.value = false;
  }
}
</script>

<template><Button text severity="danger" size="small" :disabled="busy" @click="ask">Delete</Button></template>
