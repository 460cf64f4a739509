<script setup lang="ts">
import { useQuery } from '@pinia/colada';
import type { AnswerOf } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
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
/** One line a change: the lines of a record stand together. */
const lines = computed(() =>
  (page.value?.rows ?? []).flatMap((r) =>
    show.value === 'changes' ? r.given.map((given) => ({ ...r, given })) : [{ ...r, given: null as Given | null }],
  ),
);
const asked = useQuery({
  key: () => ['backfill', props.form, props.backfill.id, show.value, offset.value],
  query: () => api.backfills.page({ key: props.form, id: props.backfill.id }, { show: show.value, offset: offset.value, limit: PAGE }),
  placeholderData: (before?: AnswerOf<typeof contract.backfills.page>) => before,
});
const page = computed(() => asked.data.value ?? null);
function turn(to: Showing): void {
  show.value = to;
  offset.value = 0;
}
const text = (path: string, value: Datum): string => foundText(page.value, path, value);
const name = ({ field, place }: Given): string => foundLabel(page.value, field, place);
</script>

<template>
  <div>
    <Tabs :value="show" @update:value="turn($event as Showing)">
      <TabList>
        <Tab v-for="s in shown" :key="s" :value="s"
          >{{ LABELS[s] }} <span class="muted">{{ counts[s].toLocaleString(LOCALE) }}</span></Tab
        >
      </TabList>
    </Tabs>
    <Asked v-slot="{ data }" :query="asked">
      <p v-if="!data.rows.length" class="muted none">
        {{ show === 'changes' ? 'No record would change: all of them have these values already.' : 'None.' }}
      </p>
      <template v-else>
        <DataTable :value="lines" row-group-mode="rowspan" group-rows-by="row" scrollable scroll-height="460px">
          <Column v-memo="[]" field="row" header="Record">
            <template #body="{ data: r }"
              ><NuxtLink :to="`/entry/${form}/${r.row}`">{{ r.text }}</NuxtLink> <span class="muted">{{ r.row }}</span></template
            >
          </Column>
          <template v-if="show === 'changes'">
            <Column v-memo="[]" header="Field">
              <template #body="{ data: r }">{{ name(r.given) }} <span v-if="!r.given.asked" class="muted">follows</span></template>
            </Column>
            <Column v-memo="[backfill.state]" :header="backfill.state === 'previewed' ? 'Now' : 'Before'" body-class="was">
              <template #body="{ data: r }">{{ text(r.given.field, r.given.from) }}</template>
            </Column>
            <Column v-memo="[backfill.state]" :header="backfill.state === 'previewed' ? 'Afterwards' : 'Now'">
              <template #body="{ data: r }"
                ><b>{{ text(r.given.field, r.given.to) }}</b></template
              >
            </Column>
          </template>
          <Column v-else v-memo="[]" field="problem" header="Why" body-class="bad" />
        </DataTable>
        <Paginator
          v-if="data.total > PAGE"
          v-model:first="offset"
          :rows="PAGE"
          :total-records="data.total"
          template="PrevPageLink CurrentPageReport NextPageLink"
          :current-page-report-template="`{first} to {last} of {totalRecords}`"
        />
      </template>
    </Asked>
  </div>
</template>

<style scoped>
.none {
  padding: 20px 0;
}
:deep(.was) {
  color: var(--ink-2);
}
</style>
