<script setup lang="ts">
import type { ImpactKind, ImpactView } from '~/composables/impacts';

/* Field by field, how many records a draft does what to; a press on a number shows those records. */
const props = defineProps<{ impact: ImpactView; labels: (path: string) => string }>();
const picked = defineModel<{ field: string; kind: ImpactKind } | null>('picked', { required: true });
interface Part {
  readonly kind: ImpactKind;
  readonly records: number;
}
interface Line {
  readonly field: string;
  readonly label: string;
  readonly parts: readonly Part[];
}
const lines = computed((): Line[] => {
  const byField = new Map<string, Part[]>();
  for (const { field, kind, records } of props.impact.counts)
    if (kind !== 'follow') byField.set(field, [...(byField.get(field) ?? []), { kind, records }]);
  return [...byField].map(([field, parts]) => ({
    field,
    label: field === '' ? 'Who sees them' : props.labels(field),
    parts: parts.sort((a, b) => ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind)),
  }));
});
const ORDER = Object.keys(IMPACT_WORDS) as ImpactKind[];
const shown = computed(() => ORDER.filter((k) => lines.value.some((l) => l.parts.some((p) => p.kind === k))));
const share = (n: number): string => `${Math.max(0.6, (100 * n) / Math.max(1, props.impact.looked))}%`;
const isPicked = (field: string, kind: ImpactKind): boolean => picked.value?.field === field && picked.value.kind === kind;
/** what is not touched at all; fields may be counted for several things */
const rest = (parts: readonly Part[]): string => `${Math.max(0, 100 - (100 * Math.max(...parts.map((p) => p.records))) / Math.max(1, props.impact.looked))}%`; // prettier-ignore
</script>

<template>
  <div>
    <ul class="key" aria-label="What the colours mean">
      <li><i class="as" /> as it is</li>
      <li v-for="k in shown" :key="k"><i :class="k" /> {{ IMPACT_WORDS[k] }}</li>
    </ul>
    <DataTable :value="lines" data-key="field" size="small" :table-props="{ 'aria-label': 'What it does, field by field' }">
      <Column header="Field" class="name"
        ><template #body="{ data: l }"
          ><b>{{ (l as Line).label }}</b></template
        ></Column
      >
      <Column header="Records" class="wide"
        ><template #body="{ data: l }"
          ><div class="bar" aria-hidden="true">
            <i class="as" :style="{ width: rest((l as Line).parts) }" /><i
              v-for="p in (l as Line).parts"
              :key="p.kind"
              :class="p.kind"
              :style="{ width: share(p.records) }"
            /></div></template
      ></Column>
      <Column header="What">
        <template #body="{ data: l }"
          ><div class="kinds">
            <Button
              v-for="p in (l as Line).parts"
              :key="p.kind"
              link
              severity="secondary"
              :class="{ on: isPicked((l as Line).field, p.kind) }"
              :aria-pressed="isPicked((l as Line).field, p.kind)"
              @click="picked = { field: (l as Line).field, kind: p.kind }"
              ><b>{{ p.records.toLocaleString(LOCALE) }}</b
              >&nbsp;{{ IMPACT_WORDS[p.kind] }}</Button
            >
          </div></template
        >
      </Column>
    </DataTable>
  </div>
</template>

<style scoped>
.key {
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin: 0 0 8px;
  padding: 0;
  font-size: 13px;
  color: var(--ink-2);
}
.key i {
  display: inline-block;
  width: 15px;
  height: 12px;
  vertical-align: -1px;
}
.bar {
  display: flex;
  height: 18px;
  min-width: 160px;
  overflow: hidden;
}
i {
  flex: none;
  background: var(--ground-3);
  border: 1px solid transparent;
}
i.change {
  background: var(--flow);
}
i.next {
  background: repeating-linear-gradient(90deg, var(--flow) 0 4px, var(--ground) 4px 7px);
}
i.notOffered,
i.refused {
  background: repeating-linear-gradient(135deg, var(--bad) 0 4px, var(--ground) 4px 7px);
}
i.required {
  background: var(--ground);
  border-color: var(--bad);
}
i.error {
  background: var(--bad);
}
i.warning {
  background: var(--flow-wash);
  border-color: var(--flow);
}
i.seen,
i.unseen {
  background: var(--tone-blue);
}
.kinds {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
}
.on {
  text-decoration: none;
  background: var(--flow-wash);
}
:deep(.wide) {
  width: 55%;
}
@media (forced-colors: active) {
  i {
    forced-color-adjust: none;
  }
}
</style>
