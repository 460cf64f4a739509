<script setup lang="ts">
import { useQuery } from '@pinia/colada';
import type { AnswerOf } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import type { ImpactKind, ImpactView } from '~/composables/impacts';

/* The records that a draft does one thing to, both versions side by side. */
const props = defineProps<{ form: string; impact: ImpactView; field: string; kind: ImpactKind }>();
const PAGE = 50;
const offset = ref(0);
watch(() => [props.field, props.kind, props.impact.id], () => (offset.value = 0)); // prettier-ignore
const total = computed(() => props.impact.counts.find((c) => c.field === props.field && c.kind === props.kind)?.values ?? 0);
const asked = useQuery({
  key: () => ['impact', props.form, props.impact.id, props.field, props.kind, offset.value],
  query: () =>
    api.impacts.page({ key: props.form, id: props.impact.id }, { field: props.field, kind: props.kind, offset: offset.value, limit: PAGE }),
  placeholderData: (before?: AnswerOf<typeof contract.impacts.page>) => before,
});
const page = computed(() => asked.data.value ?? null);
const compares = computed(() => props.kind === 'change' || props.kind === 'next');
const version = computed(() => (props.impact.version === null ? 'Not published' : `Version ${props.impact.version}`));
const MEANS: Readonly<Partial<Record<ImpactKind, string>>> = {
  change: 'Publishing changes no record by itself: these values change when they are backfilled, or when somebody edits what they are made of.',
  next: 'These values change when the record is saved the next time, whatever is edited in it.',
  notOffered: 'They stay as they are until somebody edits them; editing another field does not touch them.',
  required: 'These records can be read as they are; whoever edits one must fill it in.',
  error: 'These records can be read as they are; whoever edits one must correct it first.',
  refused: 'A backfill leaves these records as they are.',
}; // prettier-ignore
</script>

<template>
  <section>
    <Asked v-slot="{ data }" :query="asked">
      <DataTable :value="data.rows" data-key="id" size="small" scrollable scroll-height="300px" :table-props="{ 'aria-label': 'Records' }">
        <Column header="Record"
          ><template #body="{ data: r }"
            ><NuxtLink :to="`/entry/${form}/${r.row}`">{{ r.text }}</NuxtLink
            ><span v-if="r.place" class="muted"> {{ foundLabel(page, r.field, r.place) }}</span></template
          ></Column
        >
        <template v-if="compares">
          <Column header="Stored"
            ><template #body="{ data: r }">{{ foundText(page, r.field, r.from) }}</template></Column
          >
          <Column :header="`${version} gives`"
            ><template #body="{ data: r }">{{ foundText(page, r.field, r.published) }}</template></Column
          >
          <Column header="The draft gives"
            ><template #body="{ data: r }"
              ><b>{{ foundText(page, r.field, r.to) }}</b></template
            ></Column
          >
        </template>
        <template v-else>
          <Column v-if="field" header="Stored"
            ><template #body="{ data: r }">{{ foundText(page, r.field, r.from) }}</template></Column
          >
          <Column :header="kind === 'seen' ? 'Would see it' : kind === 'unseen' ? 'Would no longer see it' : 'What is said'"
            ><template #body="{ data: r }">{{ r.message ?? 'no longer among the choices' }}</template></Column
          >
        </template>
      </DataTable>
      <Paginator
        v-if="total > PAGE"
        v-model:first="offset"
        :rows="PAGE"
        :total-records="total"
        template="PrevPageLink CurrentPageReport NextPageLink"
        :current-page-report-template="`{first} to {last} of {totalRecords}`"
      />
      <p v-if="MEANS[kind]" class="muted means">{{ MEANS[kind] }}</p>
    </Asked>
  </section>
</template>

<style scoped>
.means {
  padding-top: 8px;
  max-width: 76ch;
}
</style>
