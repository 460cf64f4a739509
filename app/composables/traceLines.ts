import type { CellChange, Edit } from '~~/core/engine/state.ts';
import { isDatum, isFormulaError, isWaiting, type Result } from '~~/core/formula/errors.ts';

/* What happened in the live entry, as lines of a list: one for each call, and one for each change it made. */

/** What stands in a line of the trace. */
export interface TraceLine {
  readonly key: string;
  readonly kind: 'step' | 'change' | 'more' | 'refused';
  /** the call it is of */
  readonly call: number;
  readonly at?: string;
  readonly words: string;
  readonly field?: string;
  readonly where?: string;
  readonly to?: string;
  readonly from?: string;
  readonly formula?: string;
  /** of a call: how many lines it has */
  readonly lines?: number;
  /** of a change: its place among those of the call */
  readonly index?: number;
}
/** Kinds of changes, as they can be looked for. */
export const TRACE_KINDS = [
  { value: 'all', label: 'all changes' },
  { value: 'value', label: 'values' },
  { value: 'choices', label: 'lists' },
  { value: 'state', label: 'shown, required, read-only' },
  { value: 'checks', label: 'messages' },
  { value: 'rule', label: 'rules' },
] as const;
export type TraceKind = (typeof TRACE_KINDS)[number]['value'];
const KIND_OF: Readonly<Record<CellChange['cell'], TraceKind>> = {
  value: 'value', lines: 'value', choices: 'choices', checks: 'checks', words: 'checks', rule: 'rule',
  shown: 'state', required: 'state', locked: 'state', linesShown: 'state', linesRequired: 'state', linesLocked: 'state',
}; // prettier-ignore
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
/** What each part of a field is called. */
export const PART_WORDS: Readonly<Record<CellChange['cell'], string>> = {
  value: 'value', choices: 'list', shown: 'whether shown', required: 'whether required', locked: 'whether read-only', checks: 'messages', words: 'words',
  lines: 'lines', linesShown: 'whether shown', linesRequired: 'whether required', linesLocked: 'whether read-only', rule: 'rule',
}; // prettier-ignore
/** How many changes of a call are shown before one asks for all. */
const MOST = 14;
/** How many calls are looked through. */
const CALLS = 60;

export function useTraceLines() {
  const draft = useDraft();
  const { host } = useTryout();
  const field = (key: string) => draft.plan?.fields[draft.plan.slots.get(key) ?? -1];
  const isRule = (key: string): boolean => !field(key) && (draft.form?.rules.some((r) => r.id === key) ?? false);
  const label = (key: string): string => (isRule(key) ? host.ruleLabel(key) : host.label(key));
  /** Which line a change was in, by its place. */
  function lineWords(c: CellChange): string {
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
    if (edits.length > 3) return `${edits.length} changes replayed`;
    return edits
      .map((e) =>
        e.kind === 'move'
          ? `moved: ${host.moveLabel(e.move)}`
          : `${EDIT[e.kind] ?? (e.kind === 'set' && e.by === 'url' ? 'the link gave' : field(e.field)?.choices ? 'chose' : 'typed')} ${label(e.field)}`,
      )
      .join(', ');
  }
  function stepWords(s: TraceStep): string {
    const { what } = s.change;
    if (what.kind === 'edit') return said(what.edits);
    return what.kind === 'open' ? 'opened a new entry' : what.kind === 'save' ? 'about to be saved' : 'data loaded';
  }
  function causeWords({ cause }: CellChange): string {
    switch (cause.kind) {
      case 'move':
        return `by the move “${host.moveLabel(cause.move)}”`;
      case 'rule':
        return `by ${host.ruleLabel(cause.rule)}`;
      case 'cell':
        return `because of ${label(cause.field)}`;
      default:
        return cause.kind === 'supply' ? 'once data had loaded' : '';
    }
  }
  function changeWords(c: CellChange): { words: string; to: string; from: string } {
    const cause = causeWords(c);
    const state = (is: string): string => (c.to ? `${is} now:` : `not ${is} now:`);
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
      case 'checks':
        return { words: 'check of', to: c.to === null ? 'no longer applies' : String(c.to), from: cause };
      case 'shown':
      case 'linesShown':
        return { words: c.to ? 'showed' : 'hid', to: '', from: cause };
      case 'required':
      case 'linesRequired':
        return { words: state('required'), to: '', from: cause };
      case 'locked':
      case 'linesLocked':
        return { words: state('read-only'), to: '', from: cause };
    }
  }
  const formulaOf = (c: CellChange): string => {
    const fill = c.cell === 'value' ? field(c.field)?.value : null;
    return fill && c.origin?.kind === fill.kind ? fill.formula.text : '';
  };

  // ---- what is looked for: a kind of change, a field, a word; calls that are folded show their first line alone ----
  const kind = ref<TraceKind>('all');
  const ofSelected = ref(false);
  const sought = ref('');
  const folded = ref<ReadonlySet<number>>(new Set());
  /** calls of which all is shown, however much it is */
  const whole = ref<ReadonlySet<number>>(new Set());
  const word = computed(() => sought.value.trim().toLowerCase());
  const isNarrowed = computed(() => kind.value !== 'all' || word.value !== '' || (ofSelected.value && draft.selected !== null));
  const has = (t: string): boolean => t.toLowerCase().includes(word.value);
  const fits = (c: CellChange, r: TraceLine): boolean =>
    (kind.value === 'all' || KIND_OF[c.cell] === kind.value) &&
    (!ofSelected.value || draft.selected === null || c.field === draft.selected) &&
    (word.value === '' || has(`${label(c.field)} ${r.words} ${r.to ?? ''} ${r.from ?? ''} ${r.formula ?? ''}`));

  function linesOf(s: TraceStep): TraceLine[] {
    const { what, changes, refused } = s.change;
    const call = s.number;
    const found = changes.flatMap((c, index): TraceLine[] => {
      // what was done by hand stands in the head of its call already
      if (c.cause.kind === 'edit' && c.cell === 'value' && what.kind === 'edit' && what.edits.length > 3) return [];
      const line: TraceLine = { key: `${call} ${index}`, kind: 'change', call, index, field: c.field, where: lineWords(c), formula: formulaOf(c), ...changeWords(c) }; // prettier-ignore
      return fits(c, line) ? [line] : [];
    });
    if (isNarrowed.value && !found.length) return [];
    const head: TraceLine = { key: `${call}`, kind: 'step', call, at: s.at, words: stepWords(s), to: `${s.change.computed} computed`, from: `${s.milliseconds.toFixed(1)} ms${s.waited ? `, after ${Math.round(s.waited)} ms of waiting` : ''}`, lines: found.length }; // prettier-ignore
    if (folded.value.has(call)) return [head];
    const most = isNarrowed.value || whole.value.has(call) ? found.length : MOST;
    return [
      head,
      ...found.slice(0, most),
      ...(found.length > most ? [{ key: `${call} more`, kind: 'more' as const, call, words: `and ${found.length - most} more` }] : []),
      ...(isNarrowed.value ? [] : refused).map((r): TraceLine => ({ key: `${call} ${r.field} ${r.message}`, kind: 'refused', call, words: `refused: ${r.message}` })),
    ]; // prettier-ignore
  }
  const rows = computed(() => host.steps.value.slice(0, CALLS).flatMap(linesOf));

  /** Looks for nothing in particular any more: all that happened is shown. */
  function showAll(): void {
    kind.value = 'all';
    ofSelected.value = false;
    sought.value = '';
  }
  function toggled(set: ReadonlySet<number>, call: number): Set<number> {
    const next = new Set(set);
    if (!next.delete(call)) next.add(call);
    return next;
  }
  /** Where a change stands among the lines; its call is unfolded for it. -1: it is not among them. */
  function bring({ step, index }: ChangeAt): number {
    const find = (): number => rows.value.findIndex((r) => r.key === `${step} ${index}`);
    if (find() >= 0) return find();
    if (folded.value.has(step)) folded.value = toggled(folded.value, step);
    if (find() < 0 && !whole.value.has(step)) whole.value = toggled(whole.value, step);
    return find();
  }
  /** The change of a field, of lines or by a rule that happened last. */
  function lastOf(key: string): ChangeAt | null {
    for (const s of host.steps.value) {
      const index = s.change.changes.findLastIndex((c) => c.field === key);
      if (index >= 0) return { step: s.number, index };
    }
    return null;
  }

  return {
    kind,
    ofSelected,
    sought,
    folded,
    isNarrowed,
    showAll,
    rows,
    label,
    isRule,
    bring,
    lastOf,
    fold: (call: number): void => void (folded.value = toggled(folded.value, call)),
    showWhole: (call: number): void => void (whole.value = toggled(whole.value, call)),
  };
}
