<script setup lang="ts">
import type { Datum } from '~~/core/values/types.ts';

/* Record by record, what a backfill would change, has changed, or could not. */
const props = defineProps<{ form: string; backfill: BackfillView }>();
type Showing = 'changes' | 'refused' | 'skipped';
const PAGE = 50;
const counts = computed((): Record<Showing, number> => {
  const { proposed, written, putBack, refused, skipped } = props.backfill.records;
  return { changes: proposed + written + putBack, refused, skipped };
});
const LABELS: Record<Showing, string> = { changes: 'Changes', refused: 'Something in the way', skipped: 'Left alone' };
const shown = computed(() => (['changes', 'refused', 'skipped'] as const).filter((s) => s === 'changes' || counts.value[s]));
const show = ref<Showing>(counts.value.changes || !counts.value.refused ? 'changes' : 'refused');
const offset = ref(0);
const page = shallowRef<BackfillPage | null>(null);
const failed = ref('');
async function read(): Promise<void> {
  try {
    page.value = await api<BackfillPage>(`forms/${props.form}/backfills/${props.backfill.id}`, {
      query: { show: show.value, offset: offset.value, limit: PAGE },
    });
    failed.value = '';
  } catch (e) {
    failed.value = messageOf(e);
  }
}
watch([show, offset], read, { immediate: true });
function turn(to: Showing): void {
  show.value = to;
  offset.value = 0;
}
function text(path: string, value: Datum): string {
  const field = page.value?.fields[path];
  if (value === null) return 'empty';
  if (!field?.column) return String(value);
  const label = field.options[String(value)];
  return label ?? (cellText(field.column, value, page.value!.linked) || 'empty');
}
function name({ field: path, place }: Given): string {
  const field = page.value?.fields[path];
  return field ? (field.lines ? `${field.lines} ${place}: ${field.label}` : field.label) : path;
}
</script>

<template>
  <div>
    <div class="row tabs" role="tablist">
      <button
        v-for="s in shown"
        :key="s"
        class="btn small"
        :class="{ on: show === s }"
        type="button"
        role="tab"
        :aria-selected="show === s"
        @click="turn(s)"
      >
        {{ LABELS[s] }} <span class="muted">{{ counts[s].toLocaleString(LOCALE) }}</span>
      </button>
      <span v-if="page && page.total > PAGE" class="row paging">
        <button class="btn small" type="button" :disabled="!offset" aria-label="Earlier records" @click="offset -= PAGE">
          <i class="pi pi-angle-left" aria-hidden="true" />
        </button>
        <span class="muted"
          >{{ (offset + 1).toLocaleString(LOCALE) }} to {{ Math.min(offset + PAGE, page.total).toLocaleString(LOCALE) }} of
          {{ page.total.toLocaleString(LOCALE) }}</span
        >
        <button class="btn small" type="button" :disabled="offset + PAGE >= page.total" aria-label="Later records" @click="offset += PAGE">
          <i class="pi pi-angle-right" aria-hidden="true" />
        </button>
      </span>
    </div>
    <p v-if="failed" class="note bad" role="alert">{{ failed }} <button class="word" type="button" @click="read">Try again</button></p>
    <p v-else-if="page && !page.rows.length" class="muted none">
      {{ show === 'changes' ? 'No record would change: they hold what the form gives.' : 'None.' }}
    </p>
    <div v-else-if="page" class="rows">
      <table class="plainTable">
        <thead>
          <tr>
            <th>Record</th>
            <th v-if="show === 'changes'">Field</th>
            <th v-if="show === 'changes'">{{ backfill.state === 'previewed' ? 'Now' : 'Before' }}</th>
            <th v-if="show === 'changes'">{{ backfill.state === 'previewed' ? 'Would be' : 'Given' }}</th>
            <th v-else>Why</th>
          </tr>
        </thead>
        <tbody>
          <template v-for="r in page.rows" :key="r.row">
            <tr v-for="(g, i) in show === 'changes' ? r.given : [null]" :key="i" :class="{ first: i === 0 }">
              <td v-if="i === 0" :rowspan="show === 'changes' ? r.given.length : 1">
                <NuxtLink :to="`/entry/${form}/${r.row}`">{{ r.text }}</NuxtLink> <span class="muted">{{ r.row }}</span>
              </td>
              <template v-if="g">
                <td>{{ name(g) }} <span v-if="!g.asked" class="muted">follows</span></td>
                <td class="was">{{ text(g.field, g.from) }}</td>
                <td>
                  <b>{{ text(g.field, g.to) }}</b>
                </td>
              </template>
              <td v-else class="bad">{{ r.problem }}</td>
            </tr>
          </template>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.tabs {
  gap: 8px;
  margin-bottom: 8px;
}
.tabs .on {
  background: var(--act-wash);
  border-color: var(--act);
}
.paging {
  margin-left: auto;
  gap: 8px;
}
.rows {
  max-height: 460px;
  overflow: auto;
}
.rows td {
  vertical-align: top;
}
.was {
  color: var(--ink-2);
}
.none {
  padding: 20px 0;
}
.bad {
  color: var(--bad);
}
</style>
