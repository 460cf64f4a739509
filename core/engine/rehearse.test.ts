import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { type RehearsalStep, stepWords } from '../form/rehearsal.ts';
import { rehearsalSchema } from '../form/rehearsalSchemas.ts';
import {
  LOT_FIELDS,
  SEEDBANK,
  SEEDBANK_TABLES,
  answer,
  lotForm,
  lotPlan,
  openSettled,
  packingForm,
  settleAll,
} from '../testing/seedbank.ts';
import { compileForm } from './compile.ts';
import type { Entry } from './entry.ts';
import type { PlanField } from './plan.ts';
import { type RowNames, type StepResult, keptRehearsal, rehearse, rowsNamed } from './rehearse.ts';
import type { Edit } from './state.ts';

/* Rehearsals: what is done and what must come of it, run on the engine that runs entries. */

const rowsOf = (table: string) => SEEDBANK.find((t) => t.key === table)?.data ?? [];
const nameOf = (field: PlanField, id: number): string => String(rowsOf(field.choices?.table ?? '').find((r) => r.id === id)?.name ?? `row ${id}`); // prettier-ignore
const NAMES: RowNames = {
  find: (field, text) => {
    const fits = rowsOf(field.choices?.table ?? '').filter((r) => nameOf(field, r.id) === text);
    return fits.length === 1 ? fits[0]!.id : undefined;
  },
  name: nameOf,
};
function run(entry: Entry, steps: readonly RehearsalStep[]): readonly StepResult[] {
  const going = rehearse(entry, { steps: [...steps] }, NAMES);
  for (let i = 0; i < 1000; i++) {
    const step = going.next();
    if (step.done) return step.value;
    entry.supply(answer(entry.wants));
  }
  throw new Error('it keeps wanting');
}
const plan = lotPlan();

describe('a rehearsal', () => {
  test('does what it says, row by name, and says what is otherwise than expected with what there is', () => {
    const species = rowsOf('species')[0]!;
    const genus = rowsOf('genera').find((g) => g.id === species.genus)!;
    const steps: RehearsalStep[] = [
      { do: 'set', field: 'species', to: String(species.name) },
      { expect: 'value', field: 'genus', is: String(genus.name) },
      { expect: 'value', field: 'storage_c', is: 99 },
      { expect: 'offers', field: 'species', count: 77 },
      { expect: 'offered', field: 'species', choice: String(species.name), is: true },
      { expect: 'state', field: 'species', state: 'shown', is: false },
      { expect: 'saving', refused: ['never said'] },
    ];
    const results = run(openSettled(plan), steps);
    expect(results.map((r) => r.ok)).toEqual([true, true, false, false, true, false, false]);
    expect(results[2]!.found).toEqual({ ...steps[2], is: species.storage_c });
    expect(results[5]!.found).toEqual({ ...steps[5], is: true });
    expect(results[6]!.found).toEqual({ expect: 'saving', refused: [] });
    // what was found, expected instead, is as expected
    const mended = steps.map((s, i) => results[i]!.found ?? s);
    expect(run(openSettled(plan), mended).every((r) => r.ok)).toBe(true);
  });

  test('what cannot be done is told at its step, and the others go on', () => {
    const steps: RehearsalStep[] = [
      { do: 'set', field: 'species', to: 'No such plant' },
      { do: 'set', field: 'nowhere', to: 1 },
      { do: 'take', field: 'quantity_g' },
      { do: 'move', move: 'no steps here' },
      { do: 'removeLine', lines: 'none', line: 1 },
      { expect: 'value', field: 'nowhere', is: 1 },
      { do: 'set', field: 'quantity_g', to: 3 },
      { expect: 'value', field: 'quantity_g', is: 3 },
    ];
    const results = run(openSettled(plan), steps);
    expect(results.map((r) => r.ok)).toEqual([false, false, false, false, false, false, true, true]);
    expect(results[0]!.problem).toContain('No such plant');
    expect(results.slice(0, 6).every((r) => r.problem !== null && r.problem !== '')).toBe(true);
  });

  test('the rows it names are known before it is run', () => {
    const steps: RehearsalStep[] = [
      { do: 'set', field: 'species', to: 'A' },
      { expect: 'value', field: 'genus', is: 'B' },
      { expect: 'offered', field: 'genus', choice: 'C', is: false },
      { do: 'set', field: 'quantity_g', to: 'D' },
    ];
    const named = rowsNamed(plan, steps);
    expect([...named.keys()].sort()).toEqual(['genus', 'species']);
    expect([...named.get('genus')!]).toEqual(['B', 'C']);
  });
});

const lines = compileForm(
  packingForm(
    { species: LOT_FIELDS.species!, genus: LOT_FIELDS.genus!, family: LOT_FIELDS.family!, weight: { label: 'Weight', type: 'number', value: { kind: 'calculation', formula: 'SUM(packings.grams)' } } },
    { grams: { label: 'Grams', type: 'number', column: 'grams' }, double: { label: 'Double', type: 'number', value: { kind: 'calculation', formula: 'grams * 2' } } },
  ),
  SEEDBANK_TABLES,
); // prettier-ignore
const FORMS = { lots: plan, packings: lines } as const;

const oneEdit = fc.oneof(
  fc.constantFrom(...rowsOf('species').map((r) => r.id)).map((value): Edit => ({ kind: 'set', field: 'species', value })),
  fc.constantFrom(...rowsOf('genera').map((r) => r.id)).map((value): Edit => ({ kind: 'set', field: 'genus', value })),
  fc.constantFrom(...rowsOf('families').map((r) => r.id)).map((value): Edit => ({ kind: 'set', field: 'family', value })),
  fc.integer({ min: -5, max: 500 }).map((value): Edit => ({ kind: 'set', field: 'quantity_g', value })),
  fc.constantFrom('genus', 'species', 'quantity_g', 'storage_c').map((field): Edit => ({ kind: 'clear', field })),
  fc.constantFrom('storage_c', 'germination_days').map((field): Edit => ({ kind: 'takeSuggestion', field })),
  fc.record({ line: fc.integer({ min: -4, max: -1 }), value: fc.integer({ min: 0, max: 50 }) }).map(({ line, value }): Edit => ({ kind: 'set', field: 'packings.grams', line, value })),
  fc.integer({ min: -4, max: -2 }).map((line): Edit => ({ kind: 'addLine', field: 'packings', line })),
  fc.integer({ min: -4, max: -1 }).map((line): Edit => ({ kind: 'removeLine', field: 'packings', line })),
); // prettier-ignore

test('one that is kept from what somebody did passes on the same form, and comes back whole from its file', () => {
  fc.assert(
    fc.property(fc.constantFrom('lots' as const, 'packings' as const), fc.array(oneEdit, { maxLength: 14 }), (form, edits) => {
      const of = FORMS[form];
      const entry = openSettled(of);
      for (const edit of edits) {
        const isLines = edit.kind === 'addLine' || edit.kind === 'removeLine';
        if (isLines ? of.lines.length === 0 : !of.slots.has(edit.field)) continue;
        entry.apply([edit]);
        settleAll(entry);
      }
      const steps = keptRehearsal(openSettled(of), entry, NAMES);
      const file = rehearsalSchema.parse(JSON.parse(JSON.stringify({ label: 'Kept', at: '2026-03-10T09:00:00', steps })));
      const results = run(openSettled(of), file.steps);
      expect(results.filter((r) => !r.ok).map((r) => ({ of: file.steps[r.step], ...r }))).toEqual([]);
      expect(file.steps.length).toBeGreaterThan(0);
      for (const step of file.steps) expect(stepWords(of.form, step)).not.toMatch(/undefined|\[object/);
    }),
    { numRuns: 200 },
  );
});

test('a change of the form that matters is seen by a rehearsal kept before', () => {
  const entry = openSettled(plan);
  entry.apply([{ kind: 'set', field: 'species', value: rowsOf('species')[0]!.id }]);
  settleAll(entry);
  const steps = keptRehearsal(openSettled(plan), entry, NAMES);
  const form = lotForm({
    ...LOT_FIELDS,
    storage_c: { ...LOT_FIELDS.storage_c, value: { kind: 'prefill', formula: 'species.storage_c + 1' } },
  });
  const failed = run(openSettled(compileForm(form, SEEDBANK_TABLES)), steps).filter((r) => !r.ok);
  expect(failed.map((r) => steps[r.step])).toEqual([expect.objectContaining({ expect: 'value', field: 'storage_c' })]);
});
