<script setup lang="ts">
import type { CellChange, Edit } from '~~/core/engine/state.ts';
import { isDatum, isFormulaError, isWaiting, type Result } from '~~/core/formula/errors.ts';

/* What happened in the live entry, one line a change, newest first. */
const draft = useTheDraft();
const open = defineModel<boolean>('open', { default: true });
const emit = defineEmits<{ select: [field: string] }>();
const host = draft.host;
const newest = computed(() => host.steps.value[0]);
const summary = computed(() => {
  const s = newest.value;
  if (!s) return '';
  const n = s.change.changes.length;
  const ms = s.milliseconds < 10 ? s.milliseconds.toFixed(1) : Math.round(s.milliseconds);
  return `${n} ${n === 1 ? 'change' : 'changes'} in ${ms} ms, ${s.requests === 0 ? 'no request' : s.requests === 1 ? '1 request' : `${s.requests} requests`}`;
});
const field = (key: string) => draft.plan.value?.fields[draft.plan.value.slots.get(key) ?? -1];
const label = (key: string): string => host.label(key);
/** Which line a change was in, by its place. */
function lineWords(c: { field: string; line: number | null }): string {
  if (c.line === null) return '';
  const at = host.lines(c.field.split('.')[0] ?? '').ids.indexOf(c.line);
  return at < 0 ? ', a line taken out' : `, line ${at + 1}`;
}
function text(key: string, value: Result): string {
  if (isFormulaError(value)) return value.message;
  if (isWaiting(value)) return 'reading…';
  if (value === null) return 'empty';
  const known = field(key);
  const plan = draft.plan.value;
  return known && plan && isDatum(value) ? showValue(plan, host.cache(), known, value) : String(value as string);
}
function said(edits: readonly Edit[]): string {
  return edits.length > 3
    ? `${edits.length} edits played again`
    : edits
        .map(
          (e) =>
            `${EDIT[e.kind] ?? (e.kind === 'set' && e.by === 'url' ? 'the address gave' : field(e.field)?.choices ? 'chose' : 'typed')} ${label(e.field)}`,
        )
        .join(', ');
}
const EDIT: Readonly<Record<string, string>> = { clear: 'emptied', takeSuggestion: 'took the suggestion for', addLine: 'added a line to', removeLine: 'took a line out of', moveLine: 'moved a line of' }; // prettier-ignore
interface Line {
  readonly key: string;
  readonly words: string;
  readonly field: string;
  readonly to: string;
  readonly from: string;
}
const ORIGIN: Readonly<Record<string, string>> = {
  prefill: 'prefill',
  default: 'default',
  calculation: 'computed',
  filledUp: 'filled up',
  onlyOne: 'took the only one left for',
  cleared: 'cleared',
  none: 'emptied',
  hidden: 'hid and cleared',
  url: 'from the address',
  carried: 'carried over',
  chosen: 'chose',
  typed: 'typed',
  emptied: 'emptied',
  stored: 'kept',
};
function lineOf(c: CellChange): Omit<Line, 'key' | 'field'> {
  const cause = c.cause.kind === 'cell' ? `because of ${label(c.cause.field)}` : c.cause.kind === 'supply' ? 'when rows came' : '';
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
      return { words: 'list of', to: c.to === null ? 'waits or reads' : `${String(c.to)} offered`, from: cause };
    case 'lines':
      return { words: 'lines of', to: String(c.to), from: `was ${String(c.from)}` };
    case 'linesShown':
      return { words: c.to ? 'showed' : 'hid', to: '', from: cause };
    case 'checks':
      return { words: 'check of', to: c.to === null ? 'holds no more' : String(c.to), from: cause };
    default:
      return {
        words: c.cell === 'shown' ? (c.to ? 'showed' : 'hid') : c.to ? `${c.cell} now:` : `not ${c.cell} now:`,
        to: '',
        from: cause,
      };
  }
}
const formulaOf = (c: CellChange): string => {
  if (c.cell !== 'value' || !c.origin || !['prefill', 'default', 'calculation'].includes(c.origin.kind)) return '';
  return field(c.field)?.value?.formula.text ?? '';
};
const MOST = 14;
</script>

<template>
  <section class="trace" :class="{ open }" aria-label="Trace">
    <header>
      <button class="btn plain small" type="button" :aria-expanded="open" @click="open = !open">
        <i class="pi" :class="open ? 'pi-chevron-down' : 'pi-chevron-up'" aria-hidden="true" /> <b>Trace</b>
      </button>
      <span class="muted">{{ summary }}</span>
      <span class="muted order">newest first</span>
    </header>
    <div v-if="open" class="lines" tabindex="0" role="log" aria-label="What happened">
      <template v-for="s in host.steps.value.slice(0, 40)" :key="s.number">
        <div class="line first">
          <span class="mono muted">{{ s.at }}</span>
          <span v-if="s.change.what.kind === 'edit'">{{ said(s.change.what.edits) }}</span>
          <span v-else-if="s.change.what.kind === 'open'">opened a new entry</span>
          <span v-else>rows came</span>
          <span class="muted">{{ s.change.computed }} computed</span><span class="muted">{{ s.milliseconds.toFixed(1) }} ms</span>
        </div>
        <div
          v-for="(c, i) in s.change.changes
            .filter((x) => x.cause.kind !== 'edit' || x.cell !== 'value' || s.change.what.kind !== 'edit' || s.change.what.edits.length < 4)
            .slice(0, MOST)"
          :key="i"
          class="line"
        >
          <span />
          <span class="what"
            >↳ {{ lineOf(c).words }}
            <button class="word" type="button" tabindex="-1" @click="emit('select', c.field)">{{ label(c.field) }}</button>{{
              lineWords(c)
            }}</span
          >
          <span class="cut">{{ lineOf(c).to }}</span>
          <span class="cut muted"
            ><code v-if="formulaOf(c)">{{ formulaOf(c) }}</code
            ><template v-else>{{ lineOf(c).from }}</template></span
          >
        </div>
        <div v-if="s.change.changes.length > MOST" class="line">
          <span /><span class="what muted">and {{ s.change.changes.length - MOST }} more</span><span /><span />
        </div>
        <div v-for="r in s.change.refused" :key="r.field + r.message" class="line bad">
          <span /><span class="what">refused: {{ r.message }}</span
          ><span /><span />
        </div>
      </template>
    </div>
  </section>
</template>

<style scoped>
.trace {
  border-top: 1px solid var(--line);
  background: var(--ground);
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.trace.open {
  height: 172px;
}
header {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 2px 10px;
  min-height: 30px;
}
.order {
  margin-left: auto;
  font-size: 13px;
}
.lines {
  overflow: auto;
  flex: 1;
  padding: 0 16px 8px;
  font-size: 13px;
}
.line {
  display: grid;
  grid-template-columns: 76px minmax(220px, 1.2fr) minmax(120px, 1fr) minmax(160px, 1fr);
  gap: 10px;
  padding: 2px 0;
  border-bottom: 1px solid var(--line);
  align-items: baseline;
}
.line.first {
  font-weight: 600;
  background: var(--ground-2);
}
.line.first .muted {
  font-weight: 400;
}
.what {
  padding-left: 12px;
}
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
