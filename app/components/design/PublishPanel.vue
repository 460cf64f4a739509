<script setup lang="ts">
/* What would be published, and the one press that does it. */
const draft = useTheDraft();
const emit = defineEmits<{ close: [] }>();
const busy = ref(false);
const problem = ref('');
const done = ref<number | null>(null);
const columns = computed(() => {
  const known = new Set(draft.tables.value.get(draft.form.value!.table)?.columns.map((c) => c.key));
  return Object.values(draft.form.value!.fields)
    .filter((f) => f.column && !known.has(f.column))
    .map((f) => f.column as string);
});
const changed = computed(() => (draft.version.value === null ? ['the whole form'] : draft.differences.value));
async function publish(): Promise<void> {
  busy.value = true;
  problem.value = '';
  try {
    done.value = await draft.publish();
  } catch (e) {
    problem.value = messageOf(e);
  } finally {
    busy.value = false;
  }
}
const button = ref<HTMLButtonElement>();
onMounted(() => nextTick(() => button.value?.focus()));
</script>

<template>
  <div class="publish">
    <template v-if="done">
      <p class="note good" role="status">Version {{ done }} is published. New entries use it from now on.</p>
      <p v-if="done > 1">
        Records that exist keep what they hold.
        <NuxtLink :to="`/design/forms/${draft.formKey}/backfill`">Give them what this version gives</NuxtLink>
      </p>
      <div class="row">
        <NuxtLink class="btn act" :to="`/entry/${draft.formKey}/new`">Open the real form</NuxtLink
        ><button class="btn" type="button" @click="emit('close')">Stay here</button>
      </div>
    </template>
    <template v-else>
      <p v-if="draft.errors.value.length" class="note bad">
        {{ draft.errors.value.length === 1 ? 'One problem is' : `${draft.errors.value.length} problems are` }} in the way of publishing.
      </p>
      <p v-else-if="!changed.length">Nothing has changed since version {{ draft.version.value }}.</p>
      <template v-else>
        <p>
          Version <b>{{ (draft.version.value ?? 0) + 1 }}</b> of {{ draft.form.value?.label }} will have, against what is published:
        </p>
        <ul class="list">
          <li v-for="c in changed" :key="c">{{ c }}</li>
        </ul>
        <p v-if="columns.length">
          New columns in {{ draft.tables.value.get(draft.form.value!.table)?.label }}: <b>{{ columns.join(', ') }}</b>.
        </p>
      </template>
      <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
      <div class="row">
        <button
          ref="button"
          class="btn act"
          type="button"
          :disabled="busy || !!draft.errors.value.length || !changed.length"
          @click="publish"
        >
          {{ busy ? 'Publishing…' : 'Publish' }}
        </button>
        <button class="btn" type="button" @click="emit('close')">Not yet</button>
      </div>
    </template>
  </div>
</template>

<style scoped>
.publish {
  display: grid;
  gap: 12px;
}
.list {
  max-height: 220px;
  overflow: auto;
  border-left: 2px solid var(--flow);
  padding-left: 10px;
}
.note.good {
  background: var(--act-wash);
  border-color: var(--act);
}
</style>
