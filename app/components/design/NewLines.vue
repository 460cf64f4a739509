<script setup lang="ts">
import { addLines } from '~~/core/form/edit.ts';
import { keyFromLabel, targetOf } from '~~/core/form/tables.ts';

/* Line items for the form: a child table that links here already, or a new one made for them. */
const props = defineProps<{ section: string }>();
const emit = defineEmits<{ close: [] }>();
const draft = useTheDraft();
const label = ref('');
const failed = ref('');
const busy = ref(false);
const own = computed(() => draft.form.value!.table);
/** Tables that link to this form's table, each with the column that does. */
const children = computed(() =>
  [...draft.tables.value.values()].flatMap((t) =>
    t.columns.filter((c) => c.type === 'link' && targetOf(c) === own.value).map((c) => ({ table: t, link: c.key })),
  ),
);
const chosen = ref('');
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
      const made = await api<{ table: string; link: string; order: string }>(`forms/${draft.formKey}/lines`, { body: { label: name } });
      await draft.readTables();
      place = made;
    }
    const { form, key } = addLines(draft.form.value!, props.section, { label: name, ...place });
    draft.change(form);
    draft.selected.value = key;
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
    <label class="label" for="lines-label">What the lines are called</label>
    <input id="lines-label" v-model="label" class="in" placeholder="Packets" autofocus />
    <label class="label" for="lines-table">Where they are kept</label>
    <select id="lines-table" v-model="chosen" class="in">
      <option value="">a new table{{ label.trim() ? ` “${keyFromLabel(label)}”` : '' }}</option>
      <option v-for="c in children" :key="`${c.table.key}.${c.link}`" :value="`${c.table.key}.${c.link}`">
        {{ c.table.label }} (by {{ c.link }})
      </option>
    </select>
    <p v-if="failed" class="note bad" role="alert">{{ failed }}</p>
    <div class="row">
      <button class="btn act" type="submit" :disabled="busy || !label.trim()">Add</button>
      <button class="btn plain" type="button" @click="emit('close')">Cancel</button>
    </div>
  </form>
</template>

<style scoped>
.new {
  display: grid;
  gap: 8px;
}
</style>
