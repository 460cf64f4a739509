<script setup lang="ts">
import { addLines } from '~~/core/form/edit.ts';
import { keyFromLabel, targetOf } from '~~/core/model/tables.ts';

/* Line items for the form: a child table that links here already, or a new one made for them. */
const props = defineProps<{ section: string }>();
const emit = defineEmits<{ close: [] }>();
const draft = useDraft();
const label = ref('');
const failed = ref('');
const busy = ref(false);
const own = computed(() => draft.form!.table);
/** Tables that link to this form's table, each with the column that does. */
const children = computed(() =>
  [...draft.tables.values()].flatMap((t) =>
    t.columns.filter((c) => c.type === 'link' && targetOf(c) === own.value).map((c) => ({ table: t, link: c.key })),
  ),
);
const chosen = ref('');
const places = computed(() => [
  { value: '', label: `a new table${label.value.trim() ? ` “${keyFromLabel(label.value)}”` : ''}` },
  ...children.value.map((c) => ({ value: `${c.table.key}.${c.link}`, label: `${c.table.label} (by ${c.link})` })),
]);
async function add(): Promise<void> {
  const name = label.value.trim();
  if (!name) return;
  busy.value = true;
  failed.value = '';
  try {
    const at = children.value.find((c) => `${c.table.key}.${c.link}` === chosen.value);
    let place = at
      ? { table: at.table.key, link: at.link, order: at.table.columns.find((c) => c.key === 'place' && c.type === 'number')?.key ?? null }
      : null;
    if (!place) {
      const made = await api.forms.addLines({ key: draft.formKey }, { label: name });
      await draft.readTables();
      place = made;
    }
    const { form, key } = addLines(draft.form!, props.section, { label: name, ...place });
    draft.change(form);
    draft.selected = key;
    emit('close');
  } catch (e) {
    failed.value = messageOf(e);
  } finally {
    busy.value = false;
  }
}
</script>

<template>
  <form class="new" @submit.prevent="add">
    <label class="label" for="lines-label">Name of the lines</label>
    <InputText id="lines-label" v-model="label" placeholder="Packets" autofocus />
    <div>
      <span class="label" aria-hidden="true">Save them in</span>
      <PickOne v-model="chosen" label="Save them in" :options="places" class="wide" />
    </div>
    <Note v-if="failed" kind="bad">{{ failed }}</Note>
    <div class="row">
      <Button type="submit" :disabled="busy || !label.trim()">Add</Button>
      <Button text severity="secondary" @click="emit('close')">Cancel</Button>
    </div>
  </form>
</template>

<style scoped>
.wide {
  width: 100%;
}
.new {
  display: grid;
  gap: 8px;
}
</style>
