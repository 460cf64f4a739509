import { type Rehearsal, type RehearsalStep, type RehearsalValue, isExpectation } from '../form/rehearsal.ts';
import { isDatum, isFormulaError } from '../formula/errors.ts';
import { foldText } from '../values/text.ts';
import { type Datum, same } from '../values/types.ts';
import type { Entry } from './entry.ts';
import { wantsNeeded } from './needed.ts';
import type { Plan, PlanField } from './plan.ts';
import { type Edit, addressOf } from './state.ts';
import { verify } from './verify.ts';

/*
 * Rehearsals run on the engine that runs entries. Rows are named by text: which row that is, and what a row is called, is for the host to
 * know (`RowNames`), since it may have to look it up.
 */

/** How a host knows rows by what people call them. */
export interface RowNames {
  /** the row a text of a field's list means; undefined where there is none, or several */
  readonly find: (field: PlanField, text: string) => number | undefined;
  /** what people call a row */
  readonly name: (field: PlanField, id: number) => string;
}

/** What came of one step: as expected or not, and what was found instead. */
export interface StepResult {
  readonly step: number;
  readonly ok: boolean;
  /** of an expectation: what there is, in the form it was expected; null where it could not be looked at */
  readonly found: RehearsalStep | null;
  /** why it could not be done, or looked at */
  readonly problem: string | null;
}

/** The texts of rows that a rehearsal names, by path: what a host must be able to find before it is run. */
export function rowsNamed(plan: Plan, steps: readonly RehearsalStep[]): ReadonlyMap<string, ReadonlySet<string>> {
  const found = new Map<string, Set<string>>();
  const note = (path: string, v: RehearsalValue): void => {
    const field = plan.fields[plan.slots.get(path) ?? -1];
    if (field?.choices?.stores !== 'row') return;
    const texts = found.get(path) ?? new Set<string>();
    for (const one of Array.isArray(v) ? v : [v]) if (typeof one === 'string' && one !== '') texts.add(one);
    found.set(path, texts);
  };
  for (const step of steps)
    if ('do' in step && step.do === 'set') note(step.field, step.to);
    else if ('expect' in step && step.expect === 'value') note(step.field, step.is);
    else if ('expect' in step && step.expect === 'offered') note(step.field, step.choice);
  return found;
}

/** What a value of a file means for a field; undefined where nothing is called so. */
function datumOf(field: PlanField, v: RehearsalValue, names: RowNames): Datum | undefined {
  if (v === null || v === '') return null;
  if (Array.isArray(v)) {
    const all = v.map((one) => datumOf(field, one, names));
    return all.includes(undefined) ? undefined : (all as Datum[] as Datum);
  }
  const { choices } = field;
  if (typeof v !== 'string' || !choices) return v;
  if (choices.stores === 'row') return names.find(field, v);
  const options = [...(choices.options ?? []), ...(choices.retired ?? [])];
  if (!options.length) return v;
  const sought = foldText(v.trim());
  const fits = options.filter((o) => foldText(String(o.value)) === sought || foldText(String(o.label ?? '')) === sought);
  return fits[0] ? (fits[0].value ?? undefined) : undefined;
}
/** A value as a file holds it. */
export function writtenOf(field: PlanField, v: Datum, names: RowNames): RehearsalValue {
  if (Array.isArray(v)) return (v as readonly Datum[]).map((one) => writtenOf(field, one, names) as string | number);
  if (field.choices?.stores === 'row' && typeof v === 'number') return names.name(field, v);
  return v as RehearsalValue;
}

/**
 * Performs a rehearsal on an opened entry, step by step. It yields whenever the entry wants something (see `wantsNeeded`): answer and go
 * on. What cannot be done is told at its step and the others go on. A step's result is there for every step, in their order.
 */
export function* rehearse(entry: Entry, rehearsal: Pick<Rehearsal, 'steps'>, names: RowNames): Generator<void, readonly StepResult[]> {
  const results: StepResult[] = [];
  while (wantsNeeded(entry).length) yield;
  for (const [number, step] of rehearsal.steps.entries()) {
    try {
      if (isExpectation(step)) {
        // a list is looked at as somebody would: what it needs is asked for
        while (entry.wants.some((w) => w.kind !== 'feed')) yield;
        const found = look(entry, step, names);
        const ok = step.expect === 'value' ? holds(entry, step, names) : equal(step, found);
        results.push({ step: number, ok, found, problem: null });
        continue;
      }
      const edit = editOf(entry, step, names);
      const [refused] = entry.apply([edit]).refused;
      results.push({ step: number, ok: !refused, found: null, problem: refused?.message ?? null });
      while (wantsNeeded(entry).length) yield;
    } catch (e) {
      if (!(e instanceof RangeError)) throw e;
      results.push({ step: number, ok: false, found: null, problem: e.message });
    }
  }
  return results;
}

/** The id of the line at a place. Throws RangeError when there is none. */
function lineAt(entry: Entry, key: string, place: number): number {
  const id = entry.lines(key)[place - 1];
  if (id === undefined) throw new RangeError(`There is no line ${place}.`);
  return id;
}
const lineOf = (entry: Entry, field: PlanField, place: number | undefined): number | null =>
  field.group === null ? null : lineAt(entry, entry.plan.lines[field.group]!.key, place ?? 1);

function editOf(entry: Entry, step: Extract<RehearsalStep, { do: string }>, names: RowNames): Edit {
  if (step.do === 'move') return { kind: 'move', field: entry.plan.form.steps?.field ?? '', move: step.move };
  if (step.do === 'addLine') return { kind: 'addLine', field: step.lines, line: entry.freeLine(step.lines) };
  if (step.do === 'removeLine') return { kind: 'removeLine', field: step.lines, line: lineAt(entry, step.lines, step.line) };
  const field = entry.field(step.field);
  const line = lineOf(entry, field, step.line);
  const at = { field: step.field, ...(line === null ? {} : { line }) };
  if (step.do === 'clear') return { kind: 'clear', ...at };
  if (step.do === 'take') return { kind: 'takeSuggestion', ...at };
  const value = datumOf(field, step.to, names);
  if (value === undefined) throw new RangeError(`${field.definition.label}: nothing is called “${String(step.to)}”.`);
  return { kind: 'set', ...at, value };
}

/** What there is, in the form it was expected. */
function look(entry: Entry, step: Extract<RehearsalStep, { expect: string }>, names: RowNames): RehearsalStep {
  if (step.expect === 'saving') return { expect: 'saving', refused: verify(entry).map((i) => i.message) };
  if (step.expect === 'lines') return { ...step, count: entry.lines(step.lines).length };
  const field = entry.plan.fields[entry.plan.slots.get(step.field) ?? -1];
  // lines as a whole have states, too
  if (!field && step.expect === 'state') return { ...step, is: linesState(entry, step.field, step.state) };
  const of = entry.field(step.field);
  const line = lineOf(entry, of, step.line);
  switch (step.expect) {
    case 'value': {
      const value = entry.value(step.field, line);
      if (isFormulaError(value)) throw new RangeError(value.message);
      if (!isDatum(value)) throw new RangeError('It is not known yet.');
      return { ...step, is: writtenOf(of, value, names) };
    }
    case 'offers':
      return { ...step, count: entry.offer(step.field, line)?.total ?? 0 };
    case 'offered':
      return { ...step, is: isOffered(entry, of, line, step.choice, names) };
    case 'state':
      return { ...step, is: step.state === 'shown' ? entry.isShown(step.field, line) : step.state === 'required' ? entry.isRequired(step.field, line) : entry.isLocked(step.field, line) }; // prettier-ignore
    case 'says': {
      const said = entry.checks(step.field, line).map((c) => c.message);
      return { ...step, message: said.includes(step.message) ? step.message : said.join(' · ') };
    }
  }
}
const linesState = (entry: Entry, key: string, state: 'shown' | 'required' | 'locked'): boolean =>
  state === 'shown' ? entry.linesShown(key) : state === 'required' ? entry.linesRequired(key) : entry.linesLocked(key);
function isOffered(entry: Entry, field: PlanField, line: number | null, choice: string, names: RowNames): boolean {
  const rows = entry.offer(field.key, line)?.rows;
  if (!rows) throw new RangeError(`The list of ${field.definition.label} is too large to be looked through, or cannot be read.`);
  const value = datumOf(field, choice, names);
  return value !== undefined && rows.some((r) => (field.choices?.stores === 'row' ? r.id : r.value) === value);
}

/** Whether a field holds what was expected: of a row that nothing, or more than one, is called by, nothing does. */
function holds(entry: Entry, step: Extract<RehearsalStep, { expect: 'value' }>, names: RowNames): boolean {
  const field = entry.field(step.field);
  const expected = datumOf(field, step.is, names);
  const value = entry.value(step.field, lineOf(entry, field, step.line));
  return expected !== undefined && isDatum(value) && same(expected, value);
}
/** Whether what was found is what was expected; messages in any order. */
function equal(step: RehearsalStep, found: RehearsalStep): boolean {
  if ('expect' in step && step.expect === 'saving' && 'expect' in found && found.expect === 'saving')
    return JSON.stringify([...step.refused].sort()) === JSON.stringify([...found.refused].sort());
  return JSON.stringify(step) === JSON.stringify(found);
}

/**
 * Writes down what somebody did in an entry as the steps of a rehearsal, and what came of it: every value that the form gave, lists that
 * it narrowed, what it shows otherwise than it began, and what stands against saving. `before` is the same entry as it was opened. What a
 * file cannot name (files that were sent) is left out. Cost: linear in the fields.
 */
export function keptRehearsal(before: Entry, entry: Entry, names: RowNames): RehearsalStep[] {
  const steps: RehearsalStep[] = [];
  // lines are named by their place at the time of the edit
  const places = new Map(before.plan.lines.map((l) => [l.key, [...before.lines(l.key)]]));
  const placeOf = (path: string, line: number | undefined): { line?: number } => {
    const at = line === undefined ? -1 : (places.get(path.split('.')[0] ?? '')?.indexOf(line) ?? -1);
    return at < 0 ? {} : { line: at + 1 };
  };
  for (const edit of entry.log) {
    if (edit.kind === 'move') steps.push({ do: 'move', move: edit.move });
    else if (edit.kind === 'addLine') {
      const ids = places.get(edit.field);
      ids?.splice(edit.at ?? ids.length, 0, edit.line);
      steps.push({ do: 'addLine', lines: edit.field });
    } else if (edit.kind === 'removeLine') {
      const ids = places.get(edit.field) ?? [];
      const at = ids.indexOf(edit.line);
      if (at < 0) continue;
      ids.splice(at, 1);
      steps.push({ do: 'removeLine', lines: edit.field, line: at + 1 });
    } else if (edit.kind === 'set' || edit.kind === 'clear' || edit.kind === 'takeSuggestion') {
      const field = entry.plan.fields[entry.plan.slots.get(edit.field) ?? -1];
      if (!field || field.definition.type === 'file' || field.definition.type === 'files') continue;
      const at = { field: edit.field, ...placeOf(edit.field, edit.line) };
      if (edit.kind === 'set') steps.push({ do: 'set', ...at, to: writtenOf(field, edit.value, names) });
      else steps.push({ do: edit.kind === 'clear' ? 'clear' : 'take', ...at });
    }
  }
  steps.push(...expectations(before, entry, names));
  return steps;
}

function expectations(before: Entry, entry: Entry, names: RowNames): RehearsalStep[] {
  const found: RehearsalStep[] = [];
  const touched = new Set(entry.log.map((e) => addressOf(e.field, e.line)));
  for (const { key, group, definition, choices } of entry.plan.fields) {
    if (definition.type === 'file' || definition.type === 'files') continue;
    const lines = group === null ? [null] : entry.lines(entry.plan.lines[group]!.key);
    for (const [i, line] of lines.entries()) {
      const at = { field: key, ...(line === null ? {} : { line: i + 1 }) };
      const was = line !== null && !wasThere(before, entry.plan.lines[group!]!.key, line) ? null : { line };
      const value = entry.value(key, line);
      const earlier = was && before.value(key, was.line);
      const changed = !isDatum(earlier) || !isDatum(value) || !same(value, earlier);
      const isSeries = [...(entry.field(key).value?.formula.extras.values() ?? [])].some((e) => e.kind === 'series');
      if (isDatum(value) && !isSeries && changed && (value !== null || touched.has(addressOf(key, line))))
        found.push({ expect: 'value', ...at, is: writtenOf(entry.field(key), value, names) });
      const offer = entry.offer(key, line);
      if (choices?.narrowing && offer?.status === 'ready' && !offer.capped && choices.asks === null && entry.isShown(key, line) && (was === null || before.offer(key, was.line)?.total !== offer.total))
        found.push({ expect: 'offers', ...at, count: offer.total }); // prettier-ignore
      for (const state of ['shown', 'required', 'locked'] as const) {
        const of = (e: Entry, l: number | null): boolean => (state === 'shown' ? e.isShown(key, l) : state === 'required' ? e.isRequired(key, l) : e.isLocked(key, l)); // prettier-ignore
        if (was && of(entry, line) !== of(before, was.line)) found.push({ expect: 'state', ...at, state, is: of(entry, line) });
      }
      for (const check of entry.checks(key, line))
        if (check.at.kind === 'field') found.push({ expect: 'says', ...at, message: check.message });
    }
  }
  for (const { key } of entry.plan.lines)
    if (entry.lines(key).length !== before.lines(key).length) found.push({ expect: 'lines', lines: key, count: entry.lines(key).length });
  found.push({ expect: 'saving', refused: verify(entry).map((i) => i.message) });
  return found;
}
const wasThere = (entry: Entry, key: string, line: number): boolean => entry.lines(key).includes(line);
