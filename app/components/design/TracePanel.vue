<script setup lang="ts">
import { placeKey } from '~~/core/form/formulas.ts';
import { fieldOrder } from '~~/core/form/definition.ts';
import { TRACE_KINDS, useTraceLines } from '~/composables/traceLines';

/* What happened in the live entry, one line a change, newest first; where the time went; and stopping where something changes. */
const draft = useDraft();
const { host, moments } = useTryout();
const open = defineModel<boolean>('open', { default: true });
const emit = defineEmits<{ select: [field: string] }>();
const { kind, ofSelected, sought, folded, isNarrowed, showAll, rows, label, isRule, bring, lastOf, fold, showWhole } = useTraceLines();
const newest = computed(() => host.steps.value[0]);
const summary = computed(() => {
  const s = newest.value;
  if (!s) return '';
  const n = s.change.changes.length;
  const ms = s.milliseconds < 10 ? s.milliseconds.toFixed(1) : Math.round(s.milliseconds);
  return `${n} ${n === 1 ? 'change' : 'changes'} in ${ms} ms, ${s.requests === 0 ? 'no request' : s.requests === 1 ? '1 request' : `${s.requests} requests`}`;
});
/** To the field, or to the rule. */
const go = (key: string): unknown => (isRule(key) ? navigateTo(`/design/forms/${draft.formKey}/rules?rule=${key}`) : emit('select', key));

/** To the formula that gave a value, opened where it stands. */
function toFormula(key: string): void {
  draft.openAt(placeKey({ path: key, part: 'value' }));
  emit('select', key);
}

const SHOWN = [
  { value: 'what', label: 'what happened' },
  { value: 'timesLately', label: 'where the time went lately' },
  { value: 'timesAll', label: 'where the time went in all' },
] as const;
const shown = ref<(typeof SHOWN)[number]['value']>('what');

// ---- stops ----
const { stops, point, position } = moments;
const stoppable = computed(() => {
  const form = draft.form;
  if (!form) return [];
  const inLines = Object.entries(form.lines).flatMap(([g, l]) => [g, ...Object.keys(l.fields).map((k) => `${g}.${k}`)]);
  const keys = [...fieldOrder(form).filter((k) => !form.lines[k]), ...inLines];
  return [
    ...keys.map((value) => ({ value, label: `${label(value)} changes`, note: stops.value.has(value) ? 'stops' : '' })),
    ...form.rules.map(({ id }) => ({ value: id, label: `${label(id)} acts`, note: stops.value.has(id) ? 'stops' : '' })),
  ];
});
const isLater = (r: TraceLine): boolean =>
  point.value !== null &&
  r.index !== undefined &&
  (r.call > point.value.step || (r.call === point.value.step && r.index > point.value.index));
const isHere = (r: TraceLine): boolean => r.index !== undefined && r.call === point.value?.step && r.index === point.value.index;

// ---- what is looked at is brought into sight: where one stopped, and the last change of the field that was pressed ----
/** the height of a line, in pixels */
const LINE = 24;
const list = ref<{ scrollToIndex(index: number): void }>();
const marked = ref('');
function bringIntoSight(to: ChangeAt): void {
  const at = bring(to);
  if (at >= 0) void nextTick(() => list.value?.scrollToIndex(Math.max(0, at - 1)));
}
watch(point, (to) => {
  if (!to) return;
  open.value = true;
  shown.value = 'what';
  bringIntoSight(to);
});
watch(
  () => draft.selected,
  (key) => {
    const last = key === null || point.value ? null : lastOf(key);
    marked.value = last ? `${last.step} ${last.index}` : '';
    if (last) bringIntoSight(last);
  },
);
watch(newest, () => {
  marked.value = '';
  if (!point.value) list.value?.scrollToIndex(0);
});
</script>

<template>
  <section class="trace" :class="{ open }" aria-label="Trace">
    <header>
      <Button
        text
        severity="secondary"
        size="small"
        :icon="open ? 'pi pi-chevron-down' : 'pi pi-chevron-up'"
        label="Trace"
        :aria-expanded="open"
        @click="open = !open"
      />
      <span class="muted">{{ summary }}</span>
      <template v-if="open">
        <PickWord :value="shown" :options="SHOWN" label="What is shown" @pick="shown = $event" />
        <template v-if="shown === 'what'">
          <PickWord :value="kind" :options="TRACE_KINDS" label="Which changes" @pick="kind = $event" />
          <Button
            v-if="draft.selected"
            link
            severity="secondary"
            :aria-pressed="ofSelected"
            :class="{ on: ofSelected }"
            @click="ofSelected = !ofSelected"
            >of {{ host.label(draft.selected) }}</Button
          >
          <InputText v-model="sought" size="small" class="sought" type="search" placeholder="Find" aria-label="Find in what happened" />
        </template>
        <PickWord :value="''" text="stop when…" :options="stoppable" label="Stop and show when" @pick="moments.toggleStop($event)" />
      </template>
      <span v-if="shown === 'what'" class="muted order">newest first</span>
    </header>
    <TraceStops v-if="open && (stops.size || position !== null)" :label="label" :is-rule="isRule" />
    <TraceTimes v-if="open && shown !== 'what'" :label="label" :lately="shown === 'timesLately'" @go="go" />
    <p v-else-if="open && !rows.length && isNarrowed" class="nothing muted" role="status">
      Nothing that happened lately fits what is looked for. <Button link label="Show all that happened" @click="showAll" />
    </p>
    <VirtualScroller
      v-else-if="open"
      ref="list"
      class="lines"
      :items="rows"
      :item-size="LINE"
      tabindex="0"
      :pt="{ root: { role: 'log', 'aria-label': 'What happened' } }"
    >
      <template #item="{ item: r }">
        <div
          class="line"
          :class="[r.kind, { here: isHere(r), later: isLater(r), last: r.key === marked }]"
          :style="{ height: `${LINE}px` }"
        >
          <span class="mono muted"
            ><Button
              v-if="r.kind === 'step' && r.lines"
              text
              severity="secondary"
              class="fold"
              :icon="folded.has(r.call) ? 'pi pi-chevron-right' : 'pi pi-chevron-down'"
              :aria-label="folded.has(r.call) ? `Show its ${r.lines} changes` : 'Fold its changes'"
              :aria-expanded="!folded.has(r.call)"
              @click="fold(r.call)"
            />{{ r.at }}</span
          >
          <span class="what"
            ><Button v-if="r.kind === 'more'" link severity="secondary" :label="r.words" @click="showWhole(r.call)" />
            <template v-else>{{ r.kind === 'change' ? `↳ ${r.words} ` : r.words }}</template><Button
              v-if="r.field"
              link
              tabindex="-1"
              :label="label(r.field)"
              @click="go(r.field)"
            />{{ r.where }}</span
          >
          <span class="cut">{{ r.to }}</span>
          <span class="cut muted"
            ><Button
              v-if="r.formula && r.field"
              link
              severity="secondary"
              class="mono formula"
              tabindex="-1"
              :label="r.formula"
              :aria-label="`The formula of ${label(r.field)}: ${r.formula}`"
              @click="toFormula(r.field)"
            /><template v-else>{{ r.from }}</template></span
          >
          <span v-if="r.kind === 'change'" class="acts">
            <IconButton
              v-tooltip.left="'Show the form as it was then'"
              tabindex="-1"
              icon="pi pi-history"
              :aria-label="`Show the form as it was after this: ${r.words} ${label(r.field)}`"
              @click="moments.goTo({ step: r.call, index: r.index })"
            />
            <IconButton
              v-tooltip.left="isRule(r.field) ? 'Stop when it acts' : 'Stop when it changes'"
              tabindex="-1"
              :icon="stops.has(r.field) ? 'pi pi-flag-fill' : 'pi pi-flag'"
              :class="{ stopped: stops.has(r.field) }"
              :aria-label="`Stop at ${label(r.field)}`"
              :aria-pressed="stops.has(r.field)"
              @click="moments.toggleStop(r.field)"
            />
          </span>
        </div>
      </template>
    </VirtualScroller>
  </section>
</template>

<style scoped>
.trace {
  width: 100%;
  height: 100%;
  background: var(--ground);
  display: flex;
  flex-direction: column;
  min-height: 0;
}
header {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 2px 10px;
  min-height: 30px;
}
.sought {
  width: 150px;
  height: 26px;
}
.on {
  font-weight: 700;
}
header {
  flex-wrap: wrap;
}
.acts :deep(.p-button),
.fold {
  width: 24px;
  height: 24px;
  margin: -4px 0;
  padding: 0;
}
.acts :deep(.pi),
.fold :deep(.pi) {
  font-size: 10px;
}
.order {
  margin-left: auto;
  font-size: 13px;
}
.nothing {
  padding: 8px 16px;
  font-size: 13px;
}
.lines {
  flex: 1;
  min-height: 0;
  font-size: 13px;
}
.line {
  display: grid;
  grid-template-columns: 94px minmax(220px, 1.2fr) minmax(120px, 1fr) minmax(160px, 1fr) 54px;
  gap: 10px;
  padding: 2px 16px;
  border-bottom: 1px solid var(--line);
  align-items: baseline;
  white-space: nowrap;
}
.line.step {
  font-weight: 600;
  background: var(--ground-2);
}
.line.step .muted,
.line.step .cut {
  font-weight: 400;
  color: var(--ink-2);
}
.line.here {
  background: var(--flow-wash);
  box-shadow: inset 3px 0 0 var(--flow);
}
.line.last {
  box-shadow: inset 3px 0 0 var(--act-line);
  background: var(--act-wash);
}
.line.later {
  color: var(--ink-2);
  font-style: italic;
}
.acts {
  display: flex;
  gap: 4px;
}
.acts .stopped {
  color: var(--flow-ink);
}
.line:not(.step) .what {
  padding-left: 12px;
}
.line.more .what {
  color: var(--ink-2);
}
.line.refused {
  color: var(--bad);
}
.formula {
  max-width: 100%;
  font-weight: 400;
}
.formula :deep(.p-button-label) {
  /* a line is of one height: the whole stands where the formula does */
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.what,
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
