<script setup lang="ts">
import { useQuery } from '@pinia/colada';
import { same, type Datum } from '~~/core/values/types.ts';

/* What happened to a record, newest first, read when opened. */
const props = defineProps<{ form: string; record: number; host: EntryHost; revision: number; mayUndo: boolean }>();
const emit = defineEmits<{ undone: [] }>();
const open = ref(false);
const job = useJob('taking a change back');
const problem = ref('');
/** the line that was asked to be undone last */
const undoing = ref<number | null>(null);
/** A change is taken back through the form: that is one more change, which can be taken back too. */
async function undo(change: number): Promise<void> {
  problem.value = '';
  undoing.value = change;
  try {
    const answer = await job.run(() =>
      api.many.undo({ key: props.form }, { records: [{ id: props.record, revision: props.revision }], change }),
    );
    problem.value = answer?.records[0]?.message ?? '';
    if (answer && !problem.value) {
      await asked.refetch();
      emit('undone');
    }
  } catch (e) {
    problem.value = messageOf(e);
  }
}
const asked = useQuery({
  key: () => ['history', props.form, props.record],
  query: () => api.entries.history({ key: props.form, id: props.record }),
  enabled: open,
});
const fieldOf = (column: string) => props.host.entry.value?.plan.own.find((f) => f.definition.column === column);
const label = (column: string): string => fieldOf(column)?.definition.label ?? props.host.label(column);
/** Whether anything of a change still stands. */
const stands = (changes: Readonly<Record<string, readonly [Datum, Datum]>>): boolean =>
  Object.entries(changes).some(([column, [, now]]) => {
    const field = fieldOf(column);
    return field !== undefined && same(props.host.view(field.key).value, now);
  });
function text(column: string, value: Datum): string {
  const field = fieldOf(column);
  return value === null ? 'empty' : field ? props.host.show(field.key, value) : String(value);
}
</script>

<template>
  <section class="history" aria-label="History">
    <Button
      text
      severity="secondary"
      size="small"
      :icon="open ? 'pi pi-chevron-down' : 'pi pi-chevron-right'"
      label="History"
      :aria-expanded="open"
      @click="open = !open"
    />
    <Asked v-if="open" v-slot="{ data: lines }" :query="asked" height="60px">
      <ol>
        <li v-for="l in lines" :key="l.id">
          <b>{{ l.kind }}</b> by {{ l.by }} <span class="muted">{{ showMoment(l.at) }}, form version {{ l.formVersion }}</span>
          <Button
            v-if="l.kind === 'changed' && mayUndo && stands(l.changes)"
            link
            class="no-print"
            label="Undo this change"
            :disabled="job.running.value"
            @click="undo(l.id)"
          /><span v-if="l.id === undoing && problem" class="bad" role="alert"> {{ problem }}</span>
          <p v-for="line in l.reason?.split('\n') ?? []" :key="line" class="muted">{{ line }}</p>
          <ul>
            <li v-for="(c, column) in l.changes" :key="column">
              <span class="muted">{{ label(String(column)) }}:</span> {{ text(String(column), c[0]) }} → {{ text(String(column), c[1]) }}
              <span v-if="l.origins[column]" class="muted">{{ ORIGIN_WORDS[l.origins[column]!] }}</span>
            </li>
          </ul>
        </li>
      </ol>
    </Asked>
  </section>
</template>

<style scoped>
.history {
  padding: 14px 8px;
}
ol {
  padding-left: 18px;
  display: grid;
  gap: 8px;
}
ul {
  font-size: 13px;
}
</style>
