<script setup lang="ts">
import type { CellChange, Edit } from '~~/core/engine/state.ts';
import { isDatum, isFormulaError, isWaiting, type Result } from '~~/core/formula/errors.ts';

/* What happened in the live entry, one line a change, newest first. */
const draft = useDraft();
const tryout = useTryout();
const open = defineModel<boolean>('open', { default: true });
const emit = defineEmits<{ select: [field: string] }>();
const host = tryout.host;
const newest = computed(() => host.steps.value[0]);
const summary = computed(() => {
  const s = newest.value;
  if (!s) return '';
  const n = s.change.changes.length;
  const ms = s.milliseconds < 10 ? s.milliseconds.toFixed(1) : Math.round(s.milliseconds);
  return `${n} ${n === 1 ? 'change' : 'changes'} in ${ms} ms, ${s.requests === 0 ? 'no request' : s.requests === 1 ? '1 request' : `${s.requests} requests`}`;
});
const field = (key: string) => draft.plan?.fields[draft.plan.slots.get(key) ?? -1];
const isRule = (key: string): boolean => draft.form?.rules.some((r) => r.id === key) ?? false;
const label = (key: string): string => (!field(key) && isRule(key) ? host.ruleLabel(key) : host.label(key));
/** To the field, or to the rule. */
const go = (key: string): unknown =>
  !field(key) && isRule(key) ? navigateTo(`/design/forms/${draft.formKey}/rules?rule=${key}`) : emit('select', key);
/** Which line a change was in, by its place. */
function lineWords(c: { field: string; line: number | null }): string {
  if (c.line === null) return '';
  const at = host.lines(c.field.split('.')[0] ?? '').ids.indexOf(c.line);
  return at < 0 ? ', a removed line' : `, line ${at + 1}`;
}
function text(key: string, value: Result): string {
  if (isFormulaError(value)) return value.message;
  if (isWaiting(value)) return 'reading…';
  if (value === null) return 'empty';
  const known = field(key);
  const plan = draft.plan;
  return known && plan && isDatum(value) ? showValue(plan, host.cache(), known, value) : String(value as string);
}
function said(edits: readonly Edit[]): string {
  return edits.length > 3
    ? `${edits.length} changes replayed`
    : edits
        .map((e) =>
          e.kind === 'move'
            ? `moved: ${host.moveLabel(e.move)}`
            : `${EDIT[e.kind] ?? (e.kind === 'set' && e.by === 'url' ? 'the link gave' : field(e.field)?.choices ? 'chose' : 'typed')} ${label(e.field)}`,
        )
        .join(', ');
}
const EDIT: Readonly<Record<string, string>> = { clear: 'emptied', takeSuggestion: 'used the suggestion for', unmove: 'took back the move of', addLine: 'added a line to', removeLine: 'removed a line of', moveLine: 'moved a line of' }; // prettier-ignore
const ORIGIN: Readonly<Record<string, string>> = {
  prefill: 'prefill',
  default: 'default',
  calculation: 'calculated',
  filledUp: 'filled in',
  rule: 'by a rule',
  move: 'by a move',
  onlyOne: 'chose the only one left for',
  cleared: 'cleared',
  none: 'emptied',
  hidden: 'hid and cleared',
  url: 'from the link',
  carried: 'carried over',
  chosen: 'chose',
  typed: 'typed',
  emptied: 'emptied',
  stored: 'kept',
};
function lineOf(c: CellChange): { words: string; to: string; from: string } {
  const cause =
    c.cause.kind === 'move'
      ? `by the move “${host.moveLabel(c.cause.move)}”`
      : c.cause.kind === 'rule'
        ? `by ${host.ruleLabel(c.cause.rule)}`
        : c.cause.kind === 'cell'
          ? `because of ${label(c.cause.field)}`
          : c.cause.kind === 'supply'
            ? 'once data had loaded'
            : '';
  switch (c.cell) {
    case 'value': {
      const same = c.from === c.to;
      return {
        words: same ? 'noted' : (ORIGIN[c.origin?.kind ?? 'none'] ?? 'set'),
        to: text(c.field, c.to),
        from: same ? '' : `was ${text(c.field, c.from)}${cause ? `, ${cause}` : ''}`,
      };
    }
    case 'choices':
      return { words: 'list of', to: c.to === null ? 'waiting' : `${String(c.to)} offered`, from: cause };
    case 'lines':
      return { words: 'lines of', to: String(c.to), from: `was ${String(c.from)}` };
    case 'rule':
      return { words: c.to ? 'acted:' : 'condition does not hold:', to: '', from: cause };
    case 'words':
      return { words: 'words of', to: c.to === null ? 'as usual' : String(c.to), from: cause };
    case 'linesRequired':
    case 'linesLocked':
      return { words: `${c.to ? '' : 'not '}${c.cell === 'linesRequired' ? 'required' : 'read-only'} now:`, to: '', from: cause };
    case 'linesShown':
      return { words: c.to ? 'showed' : 'hid', to: '', from: cause };
    case 'checks':
      return { words: 'check of', to: c.to === null ? 'no longer applies' : String(c.to), from: cause };
    default:
      return {
        words: c.cell === 'shown' ? (c.to ? 'showed' : 'hid') : c.to ? `${c.cell} now:` : `not ${c.cell} now:`,
        to: '',
        from: cause,
      };
  }
}
const formulaOf = (c: CellChange): string => {
  const fill = c.cell === 'value' ? field(c.field)?.value : null;
  return fill && c.origin?.kind === fill.kind ? fill.formula.text : '';
};
const MOST = 14;

// ---- what is looked for: a kind of change, a field, a word; calls that are folded show their first line alone ----
const KINDS = [
  { value: 'all', label: 'all changes' },
  { value: 'value', label: 'values' },
  { value: 'choices', label: 'lists' },
  { value: 'state', label: 'shown, required, read-only' },
  { value: 'checks', label: 'messages' },
  { value: 'rule', label: 'rules' },
] as const;
type Kind = (typeof KINDS)[number]['value'];
const KIND_OF: Readonly<Record<CellChange['cell'], Kind>> = {
  value: 'value', lines: 'value', choices: 'choices', checks: 'checks', words: 'checks', rule: 'rule',
  shown: 'state', required: 'state', locked: 'state', linesShown: 'state', linesRequired: 'state', linesLocked: 'state',
}; // prettier-ignore
const kind = ref<Kind>('all');
const ofSelected = ref(false);
const sought = ref('');
const folded = ref<ReadonlySet<number>>(new Set());
function fold(number: number): void {
  const next = new Set(folded.value);
  if (!next.delete(number)) next.add(number);
  folded.value = next;
}
const word = computed(() => sought.value.trim().toLowerCase());
const isNarrowed = computed(() => kind.value !== 'all' || word.value !== '' || (ofSelected.value && draft.selected !== null));
const has = (text: string): boolean => text.toLowerCase().includes(word.value);
const fits = (c: CellChange, r: Row): boolean =>
  (kind.value === 'all' || KIND_OF[c.cell] === kind.value) &&
  (!ofSelected.value || draft.selected === null || c.field === draft.selected) &&
  (word.value === '' || has(`${label(c.field)} ${r.words} ${r.to ?? ''} ${r.from ?? ''} ${r.formula ?? ''}`));

/** What stands in a line of the trace; a step has a line of its own, and one for each change it made. */
interface Row {
  readonly key: string;
  readonly kind: 'step' | 'change' | 'more' | 'refused';
  readonly at?: string;
  readonly words: string;
  readonly field?: string;
  readonly where?: string;
  readonly to?: string;
  readonly from?: string;
  readonly formula?: string;
  /** of a call: its number, and how many lines it has */
  readonly call?: number;
  readonly lines?: number;
}
const rows = computed(() =>
  host.steps.value.slice(0, 40).flatMap((s): Row[] => {
    const { what } = s.change;
    const changes = s.change.changes.filter((x) => x.cause.kind !== 'edit' || x.cell !== 'value' || what.kind !== 'edit' || what.edits.length < 4); // prettier-ignore
    const words = what.kind === 'edit' ? said(what.edits) : what.kind === 'open' ? 'opened a new entry' : what.kind === 'save' ? 'about to be saved' : 'data loaded';
    const lines = changes
      .map((c, i) => ({ c, row: { key: `${s.number} ${i}`, kind: 'change' as const, field: c.field, where: lineWords(c), formula: formulaOf(c), ...lineOf(c) } }))
      .filter(({ c, row }) => fits(c, row))
      .map(({ row }): Row => row);
    if (isNarrowed.value && !lines.length) return [];
    const most = isNarrowed.value ? lines.length : MOST;
    const step: Row = { key: `${s.number}`, kind: 'step', at: s.at, words, to: `${s.change.computed} computed`, from: `${s.milliseconds.toFixed(1)} ms`, call: s.number, lines: lines.length };
    if (folded.value.has(s.number)) return [step];
    return [
      step,
      ...lines.slice(0, most),
      ...(lines.length > most ? [{ key: `${s.number} more`, kind: 'more' as const, words: `and ${lines.length - most} more` }] : []),
      ...(isNarrowed.value ? [] : s.change.refused).map((r): Row => ({ key: `${s.number} ${r.field} ${r.message}`, kind: 'refused', words: `refused: ${r.message}` })),
    ];
  }),
); // prettier-ignore
/** the height of a line, in pixels */
const LINE = 24;
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
        <PickWord :value="kind" :options="KINDS" label="Which changes" @pick="kind = $event" />
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
      <span class="muted order">newest first</span>
    </header>
    <VirtualScroller
      v-if="open"
      class="lines"
      :items="rows"
      :item-size="LINE"
      tabindex="0"
      :pt="{ root: { role: 'log', 'aria-label': 'What happened' } }"
    >
      <template #item="{ item: r }">
        <div class="line" :class="r.kind" :style="{ height: `${LINE}px` }">
          <span class="mono muted"
            ><Button
              v-if="r.call !== undefined && r.lines"
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
            ><template v-if="r.kind === 'change'">↳ </template>{{ r.words }}
            <Button v-if="r.field" link tabindex="-1" :label="label(r.field)" @click="go(r.field)" />{{ r.where }}</span
          >
          <span class="cut">{{ r.to }}</span>
          <span class="cut muted"
            ><code v-if="r.formula">{{ r.formula }}</code
            ><template v-else>{{ r.from }}</template></span
          >
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
.fold {
  width: 24px;
  height: 24px;
  margin: -4px 0;
  padding: 0;
}
.fold :deep(.pi) {
  font-size: 10px;
}
.order {
  margin-left: auto;
  font-size: 13px;
}
.lines {
  flex: 1;
  min-height: 0;
  font-size: 13px;
}
.line {
  display: grid;
  grid-template-columns: 94px minmax(220px, 1.2fr) minmax(120px, 1fr) minmax(160px, 1fr);
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
.line:not(.step) .what {
  padding-left: 12px;
}
.line.more .what {
  color: var(--ink-2);
}
.line.refused {
  color: var(--bad);
}
.what,
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
