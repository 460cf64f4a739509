import fc from 'fast-check';
import { expect, test } from 'vitest';
import { isFormulaError } from '../formula/errors.ts';
import { CONTEXT, SEEDBANK_TABLES, lotForm, settleAll } from '../testing/seedbank.ts';
import { type Case, cases, planOf, recordOf } from '../testing/storedCases.ts';
import { parseForm } from '../form/schemas.ts';
import { compileForm } from './compile.ts';
import type { StoredRecord } from './context.ts';
import { type Entry, openEntry } from './entry.ts';
import type { Plan } from './plan.ts';
import { inRounds } from './rounds.ts';
import { type Edit, addressOf } from './state.ts';
import { verify } from './verify.ts';

/** What is done in lines, beside what is done in the form: in lines that are there, that were taken out, and that never were. */
const LINES = [1, 2, 3, -1, -2, -3, -4];
const line = fc.constantFrom(...LINES);
const lineEdit: fc.Arbitrary<Edit> = fc.oneof(
  { weight: 6, arbitrary: fc.record({ kind: fc.constant('set'), field: fc.constantFrom('packings.packets', 'packings.packets', 'packings.grams', 'packings.total'), value: fc.integer({ min: -5, max: 9 }), line }) },
  { weight: 3, arbitrary: fc.record({ kind: fc.constant('addLine'), field: fc.constant('packings'), line }) },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant('addLine'), field: fc.constant('packings'), line, at: fc.constant(0) }) },
  { weight: 1, arbitrary: fc.record({ kind: fc.constantFrom('clear', 'takeSuggestion'), field: fc.constantFrom('packings.packets', 'packings.grams'), line }) },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant('removeLine'), field: fc.constant('packings'), line }) },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant('moveLine'), field: fc.constant('packings'), line, to: fc.constantFrom(0, 1) }) },
) as fc.Arbitrary<Edit>; // prettier-ignore
/** Edits of the form and of lines, one among the other. */
const mixed = (edits: readonly Edit[], inLines: readonly Edit[], turns: readonly boolean[]): Edit[] => {
  const [form, lines] = [[...edits], [...inLines]];
  return turns
    .flatMap((t) => (t ? form.shift() : lines.shift()) ?? [])
    .concat(form, lines)
    .map((e) => ({ ...e }));
};

/** The entry as it is left, with what was refused by address: one edit after the other, or in rounds; as a save replays it. */
function replayed(plan: Plan, { one }: Case, record: StoredRecord | null, rounds: readonly (readonly Edit[])[]) {
  const entry = openEntry(plan, { ...CONTEXT, mode: record ? 'edit' : 'new', roles: one.roles, tellsLate: true }, undefined, record);
  settleAll(entry);
  const refused: Record<string, string> = {};
  for (const round of rounds) {
    if (round.some((e) => e.kind === 'move')) {
      entry.tellMoves();
      settleAll(entry);
    }
    for (const r of entry.applyRound(round).refused) refused[addressOf(r.field, r.line)] = r.message;
    settleAll(entry);
  }
  entry.beforeSaving();
  settleAll(entry);
  entry.tell();
  settleAll(entry);
  return { entry, refused };
}
const seen = (entry: Entry): unknown => {
  const all: unknown[] = [];
  entry.eachField((field, frame) => {
    const { at, key } = field;
    const { value, origin, gone, suggestion = null } = frame.state(at);
    const plain = (v: unknown): unknown => (isFormulaError(v) ? v.code : v);
    all.push([key, frame.line, plain(value), origin.kind, gone, plain(suggestion), frame.shown[at], frame.required[at], frame.locked[at], frame.checks[at]?.map((c) => c.message), frame.offers[at]?.total]); // prettier-ignore
  });
  return { all, lines: entry.lines('packings'), step: entry.step?.value, moves: entry.movesNow, overruled: [...entry.overruled], problems: verify(entry), wants: entry.wants }; // prettier-ignore
};

test('edits made in rounds, each settled once, come to what they come to one by one', () => {
  let [edits, rounds, refusals] = [0, 0, 0];
  fc.assert(
    fc.property(
      cases,
      fc.array(lineEdit, { maxLength: 14 }),
      fc.array(fc.boolean(), { maxLength: 26 }),
      fc.boolean(),
      (c, inLines, turns, isNew) => {
        const plan = planOf(c.one, c.lines, c);
        fc.pre(!plan.problems.some((p) => p.code === 'cycle'));
        const record = isNew ? null : recordOf(c);
        const log = mixed(c.one.edits, inLines, turns);
        const together = inRounds(plan, log, isNew);
        // each once, and in each round in their order
        expect(together.flat().length).toBe(log.length);
        expect(new Set(together.flat())).toEqual(new Set(log));
        for (const round of together) expect(log.filter((e) => round.includes(e))).toEqual(round);
        const one = replayed(
          plan,
          c,
          record,
          log.map((e) => [e]),
        );
        const several = replayed(plan, c, record, together);
        expect(seen(several.entry)).toEqual(seen(one.entry));
        expect(several.refused).toEqual(one.refused);
        edits += log.length;
        rounds += together.length;
        refusals += Object.keys(one.refused).length;
      },
    ),
    { numRuns: 1500 },
  );
  // otherwise nothing was tried
  expect(edits - rounds).toBeGreaterThan(edits / 10);
  expect(refusals).toBeGreaterThan(500);
});

/** A form whose lines are weighed, and summed up in a field of the form. */
function weighed(sum: object): Plan {
  const fields = {
    packets: { label: 'Packets', type: 'number', column: 'packets' },
    grams: { label: 'Grams', type: 'number', column: 'grams', value: { kind: 'prefill', formula: 'packets * 2' } },
    total: { label: 'Total', type: 'number', column: 'total', value: { kind: 'calculation', formula: 'packets * grams' } },
  };
  const own = {
    sum: { label: 'Sum', type: 'number', ...sum },
    other: { label: 'Other', type: 'number' },
  };
  const form = parseForm({
    ...lotForm(own),
    pages: [{ id: 'p1', label: '', sections: [{ id: 's1', label: 'All', fields: ['sum', 'other', 'packings'] }] }],
    lines: { packings: { label: 'Packings', table: 'packings', link: 'lot', order: 'place', fields, columns: Object.keys(fields) } },
  }); // prettier-ignore
  return compileForm(form, SEEDBANK_TABLES);
}
const SUMMED = { value: { kind: 'calculation', formula: 'SUM(packings.total)' } };
/** A log as somebody types it: line after line. */
const typed = (lines: number): Edit[] =>
  Array.from({ length: lines }, (_, i) => -2 - i).flatMap((no): Edit[] => [
    { kind: 'addLine', field: 'packings', line: no },
    { kind: 'set', field: 'packings.packets', line: no, value: 3 },
    { kind: 'set', field: 'packings.grams', line: no, value: 7 - no },
  ]);
const counted = (rounds: readonly (readonly Edit[])[]): number[] => rounds.map((r) => r.length);

test('lines that say nothing of each other settle side by side, as often as one line has steps', () => {
  const plan = weighed(SUMMED);
  expect(counted(inRounds(plan, typed(20), true))).toEqual([20, 20, 20]);
  // of a stored record a calculation stays as it was until something it reads has changed: the sum comes after each line
  expect(counted(inRounds(plan, typed(2), false))).toEqual([1, 1, 1, 1, 1, 1]);
  // a field of the form that nothing rests on stands beside the first lines
  expect(counted(inRounds(plan, [...typed(20), { kind: 'set', field: 'other', value: 1 }], true))).toEqual([21, 20, 20]);
  // what many lack at once is asked in parts
  expect(counted(inRounds(plan, typed(100), true))).toEqual([64, 36, 64, 36, 64, 36]);
});

test('what somebody may type over is filled after each edit that it rests on', () => {
  const plan = weighed({ value: { kind: 'prefill', formula: 'SUM(packings.total)', typedOver: 'refill' } });
  expect(counted(inRounds(plan, typed(2), true))).toEqual([1, 1, 1, 1, 1, 1]);
});

test('a line that is taken out comes after all before it, and before all after it', () => {
  const gone: Edit = { kind: 'removeLine', field: 'packings', line: -2 };
  const rounds = inRounds(weighed(SUMMED), [...typed(3), gone, { kind: 'set', field: 'other', value: 1 }], true);
  expect(counted(rounds)).toEqual([3, 3, 3, 1, 1]);
  expect(rounds[3]).toEqual([gone]);
});

test('what the form has no field for comes alone, and is refused where it stands', () => {
  const lost: Edit = { kind: 'set', field: 'nowhere', value: 1 };
  expect(inRounds(weighed(SUMMED), [lost, { kind: 'addLine', field: 'nowhere', line: -2 }, ...typed(1)], true)).toHaveLength(5);
});
