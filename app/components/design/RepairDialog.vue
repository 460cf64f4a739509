<script setup lang="ts">
import type { Deep, ResultOf } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';

/* What repairing a spelling would change, row by row, before it is done. */
type SpellingGroup = Deep<ResultOf<typeof contract.forms.cascades.count>>['spellings'][number];
type Spelled = SpellingGroup['spelled'][number];
const { group, keep } = defineProps<{ group: SpellingGroup; keep: Spelled }>();
const emit = defineEmits<{ done: [words: string, repair: number | null]; close: [] }>();
const problem = ref('');
const busy = ref(false);
const rows = shallowRef<Answer<typeof contract.tables.respell> | null>(null);
const links = shallowRef<Answer<typeof contract.tables.merge> | null>(null);
/** The rows that go when they are made one with the first that is kept. */
const drop = computed(() => [...keep.ids.slice(1), ...group.spelled.filter((s) => s !== keep).flatMap((s) => s.ids)]);
const key = { key: group.table };
const respell = (preview: boolean) =>
  api.tables.respell(key, { column: group.column, from: group.spelled.map((s) => s.text), to: keep.text, preview });
const merge = (preview: boolean) => api.tables.merge(key, { keep: keep.ids[0]!, drop: [...drop.value], preview });
const count = (n: number, one: string, many: string): string => `${n.toLocaleString(LOCALE)} ${n === 1 ? one : many}`;
onMounted(async () => {
  try {
    if (group.kind === 'values') rows.value = await respell(true);
    else links.value = await merge(true);
  } catch (e) {
    problem.value = messageOf(e);
  }
});
async function run(): Promise<void> {
  busy.value = true;
  problem.value = '';
  try {
    if (group.kind === 'values') {
      const done = await respell(false);
      emit('done', `“${keep.text}” was written in ${count(done.changed, 'row', 'rows')} of ${group.tableLabel}.`, done.repair);
    } else {
      const done = await merge(false);
      emit('done', `${count(drop.value.length, 'row', 'rows')} merged into “${keep.text}”; ${count(done.moved, 'link', 'links')} moved to it.`, done.repair);
    }
  } catch (e) {
    problem.value = messageOf(e);
  } finally {
    busy.value = false;
  }
} // prettier-ignore
</script>

<template>
  <div class="repair">
    <Note v-if="problem" kind="bad">{{ problem }}</Note>
    <template v-if="rows">
      <p>
        “{{ keep.text }}” is written in <b>{{ count(rows.changed, 'row', 'rows') }}</b> of {{ group.tableLabel }} ({{ group.columnLabel }}):
      </p>
      <ul class="rows">
        <li v-for="r in rows.rows" :key="r.id">
          {{ r.known }}
          <span class="muted"
            >now <code>{{ r.was }}</code></span
          >
        </li>
        <li v-if="rows.changed > rows.rows.length" class="muted">
          and {{ (rows.changed - rows.rows.length).toLocaleString(LOCALE) }} more
        </li>
      </ul>
    </template>
    <template v-else-if="links">
      <p>
        <b>{{ count(drop.length, 'row', 'rows') }}</b> of {{ group.tableLabel }} {{ drop.length === 1 ? 'is' : 'are' }} deleted, and what
        links to {{ drop.length === 1 ? 'it' : 'them' }} links to “{{ keep.text }}” instead:
      </p>
      <ul class="rows">
        <li v-for="l in links.links" :key="l.table + l.columnLabel">
          {{ count(l.count, 'row', 'rows') }} of {{ l.label }} ({{ l.columnLabel }})
        </li>
        <li v-if="!links.links.length" class="muted">Nothing links to {{ drop.length === 1 ? 'it' : 'them' }}.</li>
      </ul>
      <Note v-if="group.table === 'people'">People that were merged cannot be separated again.</Note>
    </template>
    <Skeleton v-else-if="!problem" height="80px" />
    <div class="row">
      <Button
        :disabled="busy || (!rows && !links)"
        :label="group.kind === 'values' ? 'Correct the spelling' : 'Merge the rows'"
        @click="run"
      />
      <Button text severity="secondary" label="Cancel" @click="emit('close')" />
    </div>
  </div>
</template>

<style scoped>
.repair {
  display: grid;
  gap: 10px;
}
.rows {
  max-height: 260px;
  overflow: auto;
  font-size: 13.5px;
  display: grid;
  gap: 3px;
}
.rows code {
  white-space: pre;
  background: var(--ground-3);
  padding: 0 4px;
}
</style>
