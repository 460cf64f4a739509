<script setup lang="ts">
import { fieldAt } from '~~/core/form/definition.ts';

/* What would be published, and the one press that does it. */
const draft = useDraft();
const emit = defineEmits<{ close: [] }>();
const busy = ref(false);
const problem = ref('');
const note = ref('');
const done = ref<number | null>(null);
const columns = computed(() => {
  const known = new Set(draft.tables.get(draft.form!.table)?.columns.map((c) => c.key));
  return Object.values(draft.form!.fields)
    .filter((f) => f.column && !known.has(f.column))
    .map((f) => f.column as string);
});
const changed = computed(() => (draft.version === null ? ['the whole form'] : draft.differences));
/** Fields whose default, prefill or calculation is new or another with this version: what existing records may be given. */
const fresh = ref<string[]>([]);
function freshFills(): string[] {
  const [now, before] = [draft.form!, draft.published];
  if (!before) return [];
  const paths = [
    ...Object.keys(now.fields),
    ...Object.entries(now.lines).flatMap(([k, l]) => Object.keys(l.fields).map((f) => `${k}.${f}`)),
  ];
  return paths.filter(
    (p) => fieldAt(now, p)?.value && JSON.stringify(fieldAt(now, p)?.value) !== JSON.stringify(fieldAt(before, p)?.value),
  );
}
async function publish(): Promise<void> {
  busy.value = true;
  fresh.value = freshFills();
  problem.value = '';
  try {
    done.value = await draft.publish(note.value);
  } catch (e) {
    problem.value = messageOf(e);
  } finally {
    busy.value = false;
  }
}
const button = ref<{ $el: HTMLElement }>();
onMounted(() => nextTick(() => button.value?.$el.focus()));
</script>

<template>
  <div class="publish">
    <template v-if="done">
      <Note kind="good">Version {{ done }} is published. New entries use it from now on; open ones are told.</Note>
      <p v-if="done > 1">
        Existing records keep their values.
        <NuxtLink :to="{ path: `/design/forms/${draft.formKey}/backfill`, query: fresh.length ? { fields: fresh.join(',') } : {} }"
          >Give them {{ fresh.length ? 'what is new' : 'what this version gives' }}</NuxtLink
        >
      </p>
      <div class="row">
        <Button as="router-link" :to="`/entry/${draft.formKey}/new`">Open the published form</Button
        ><Button severity="secondary" @click="emit('close')">Stay here</Button>
      </div>
    </template>
    <template v-else>
      <Note v-if="draft.errors.length" kind="bad">
        {{ draft.errors.length === 1 ? 'One problem must' : `${draft.errors.length} problems must` }} be fixed before publishing.
      </Note>
      <p v-else-if="!changed.length">Nothing has changed since version {{ draft.version }}.</p>
      <template v-else>
        <p>
          Version <b>{{ (draft.version ?? 0) + 1 }}</b> of {{ draft.form?.label }} will have these changes:
        </p>
        <ul class="list">
          <li v-for="c in changed" :key="c">{{ c }}</li>
        </ul>
        <p v-if="columns.length">
          New columns in {{ draft.tables.get(draft.form!.table)?.label }}: <b>{{ columns.join(', ') }}</b>.
        </p>
      </template>
      <template v-if="changed.length && !draft.errors.length">
        <p>
          <NuxtLink :to="`/design/forms/${draft.formKey}/publish`" @click="emit('close')"
            >What stood there before, and what it does to the records that exist</NuxtLink
          >
        </p>
        <label
          ><span class="label">What is this version for?</span
          ><InputText v-model="note" class="wide" maxlength="500" placeholder="a note for those who look at it later"
        /></label>
      </template>
      <Note v-if="problem" kind="bad">{{ problem }}</Note>
      <div class="row">
        <Button ref="button" autofocus :disabled="busy || !!draft.errors.length || !changed.length" @click="publish">
          {{ busy ? 'Publishing…' : 'Publish' }}
        </Button>
        <Button severity="secondary" @click="emit('close')">Cancel</Button>
      </div>
    </template>
  </div>
</template>

<style scoped>
.publish {
  display: grid;
  gap: 12px;
}
.wide {
  width: 100%;
}
.list {
  max-height: 220px;
  overflow: auto;
  border-left: 2px solid var(--flow);
  padding-left: 10px;
}
</style>
