import fc from 'fast-check';
import { expect, test } from 'vitest';
import { isFormulaError } from '../formula/errors.ts';
import { type Feed } from '../model/feeds.ts';
import { feedSchema } from '../model/schemas.ts';
import { CONTEXT, SEEDBANK_TABLES, lotForm, settleAll } from '../testing/seedbank.ts';
import { type Case, cases, planOf, recordOf } from '../testing/storedCases.ts';
import { parseForm } from '../form/schemas.ts';
import { compileForm } from './compile.ts';
import type { StoredRecord } from './context.ts';
import { type Entry, openEntry } from './entry.ts';
import type { Plan } from './plan.ts';
import { atOnce } from './inSteps.ts';
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
  return { all, lines: entry.lines('packings'), step: entry.step?.value, moves: entry.movesNow, overruled: [...atOnce(entry.overruledInSteps())], problems: verify(entry), wants: entry.wants }; // prettier-ignore
};

test('edits made in rounds, each settled once, come to what they come to one by one', () => {
  let [edits, rounds, refusals] = [0, 0, 0];
  fc.assert(
    fc.property(
      cases,
      fc.array(lineEdit, { maxLength: 14 }),
      fc.array(fc.boolean(), { maxLength: 26 }),
      fc.boolean(),
      fc.boolean(),
      ({ one: drawn, ...rest }, inLines, turns, isNew, opens) => {
        // with many rules hardly any form has none that acts as a record opens
        const rules = opens ? drawn.rules : drawn.rules.map((r) => ({ ...r, opens: false }));
        const c = { ...rest, one: { ...drawn, rules } };
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
    { numRuns: 800 },
  );
  // otherwise nothing was tried
  expect(edits - rounds).toBeGreaterThan(edits / 10);
  expect(refusals).toBeGreaterThan(200);
});

/** A form with fields of its own beside lines. */
function formOf(own: Record<string, object>, inLines: Record<string, object>, more: object = {}, feeds = new Map<string, Feed>()): Plan {
  const fields = Object.fromEntries(Object.entries(inLines).map(([key, f]) => [key, { label: key, type: 'number', column: key, ...f }]));
  const form = parseForm({
    ...lotForm(Object.fromEntries(Object.entries(own).map(([key, f]) => [key, { label: key, type: 'number', ...f }]))),
    pages: [{ id: 'p1', label: '', sections: [{ id: 's1', label: 'All', fields: [...Object.keys(own), 'packings'] }] }],
    lines: { packings: { label: 'Packings', table: 'packings', link: 'lot', order: 'place', fields, columns: Object.keys(fields) } },
    ...more,
  });
  const plan = compileForm(form, SEEDBANK_TABLES, new Map(), feeds);
  expect(plan.problems).toEqual([]);
  return plan;
}
const WEIGHED = {
  packets: {},
  grams: { value: { kind: 'prefill', formula: 'packets * 2' } },
  total: { value: { kind: 'calculation', formula: 'packets * grams' } },
};
const SUMMED = formOf({ sum: { value: { kind: 'calculation', formula: 'SUM(packings.total)' } }, other: {} }, WEIGHED);
const set = (field: string, value: number, no?: number): Edit => ({ kind: 'set', field, value, ...(no === undefined ? {} : { line: no }) });
const add = (no: number): Edit => ({ kind: 'addLine', field: 'packings', line: no });
/** A log as somebody types it: line after line. */
const typed = (lines: number): Edit[] =>
  Array.from({ length: lines }, (_, i) => -2 - i).flatMap((no) => [add(no), set('packings.packets', 3, no), set('packings.grams', 7 - no, no)]); // prettier-ignore
const counted = (plan: Plan, log: readonly Edit[], isNew = true): number[] => inRounds(plan, log, isNew).map((r) => r.length);

test('lines that say nothing of each other settle side by side, as often as one line has steps', () => {
  expect(counted(SUMMED, typed(20))).toEqual([20, 20, 20]);
  // of a stored record a calculation stays as it was until something it reads has changed: the sum comes after each line
  expect(counted(SUMMED, typed(2), false)).toEqual([1, 1, 1, 1, 1, 1]);
  // a field of the form that nothing rests on stands beside the first lines
  expect(counted(SUMMED, [...typed(20), set('other', 1)])).toEqual([21, 20, 20]);
  // what many lack at once is asked in parts
  expect(counted(SUMMED, typed(100))).toEqual([64, 36, 64, 36, 64, 36]);
});

test('what is filled and may be typed over is filled after each edit that it rests on', () => {
  const filled = (formula: string, more = {}): Record<string, object> => ({ sum: { value: { kind: 'prefill', formula, ...more } } });
  expect(counted(formOf(filled('SUM(packings.total)', { typedOver: 'refill' }), WEIGHED), typed(2))).toEqual([1, 1, 1, 1, 1, 1]);
  // a calculation that may be hidden also tells what emptied it
  const hidden = { value: { kind: 'calculation', formula: 'SUM(packings.total)' }, shown: 'other > 1' };
  expect(counted(formOf({ other: {}, sum: hidden }, WEIGHED), typed(2))).toEqual([1, 1, 1, 1, 1, 1]);
  // how many lines there are, too
  expect(counted(formOf(filled('COUNT(packings)', { once: true }), WEIGHED), [add(-2), add(-3)])).toEqual([1, 1]);
});

test('what locks a field is settled before the field is tried', () => {
  const plan = formOf({ sum: {}, other: { locked: 'sum > 3' } }, { packets: {}, grams: { locked: 'packets > 3' }, total: {} });
  expect(counted(plan, [set('sum', 5), set('other', 1)])).toEqual([1, 1]);
  expect(counted(plan, [set('other', 1), set('sum', 5)])).toEqual([1, 1]);
  expect(counted(plan, [set('packings.packets', 5, -1), set('packings.grams', 1, -1)])).toEqual([1, 1]);
  // of another line, and of another field, nothing is known by it
  expect(counted(plan, [set('packings.packets', 5, -1), set('packings.grams', 1, -2), set('packings.total', 1, -1)])).toEqual([3]);
});

test('what a choice fills above it is settled before what rests on that is typed', () => {
  const link = (key: string, table: string, more: object): object => ({ type: 'link', column: key, source: { kind: 'rows', table, show: 'name', ...more } }); // prettier-ignore
  const above = (fillUp: boolean): Plan =>
    formOf(
      {
        genus: link('genus', 'genera', {}),
        species: link('species', 'species', { where: 'choice.genus = genus', fillUp }),
        n: { value: { kind: 'prefill', formula: 'genus.family.id' } },
      },
      { packets: {} },
    );
  const log = [set('species', 101), set('n', 4)];
  expect(counted(above(true), log)).toEqual([1, 1]);
  expect(counted(above(false), log)).toEqual([2]);
});

test('a change that sets off a rule or sets other fields comes alone', () => {
  const rule = { id: 'r', opens: false, saves: false, reaches: [], changes: ['sum'], mode: 'both', when: null, then: [{ kind: 'set', field: 'other', formula: 'third', once: false }], otherwise: [] }; // prettier-ignore
  const plan = formOf({ sum: {}, other: {}, third: {}, fourth: {} }, { packets: {} }, { rules: [rule] });
  expect(counted(plan, [set('third', 1), set('fourth', 2), set('sum', 5), set('third', 2), set('fourth', 3)])).toEqual([2, 1, 2]);
  const spreading = formOf({ sum: { spreads: [{ field: 'other', formula: 'third' }] }, other: {}, third: {} }, { packets: {} });
  expect(counted(spreading, [set('sum', 1), set('third', 2), set('packings.packets', 2, -1)])).toEqual([1, 2]);
});

test('where a rule acts as a record opens, and may wait for an outside service by then, every edit comes alone', () => {
  const weather = feedSchema.parse({
    key: 'weather',
    label: 'Weather',
    url: 'https://weather.example/now',
    attributes: [{ key: 'rain', label: 'Rain', type: 'number', path: 'rain' }],
  });
  const opening = (formula: string): Plan => {
    const rule = { id: 'r', opens: true, saves: false, reaches: [], changes: [], mode: 'both', when: null, then: [{ kind: 'set', field: 'other', formula, once: false }], otherwise: [] }; // prettier-ignore
    return formOf({ sum: {}, other: {}, third: {} }, { packets: {} }, { rules: [rule] }, new Map([['weather', weather]]));
  };
  const log = [set('sum', 1), set('third', 2)];
  expect(counted(opening('1'), log)).toEqual([2]);
  expect(counted(opening('FEED(weather).rain'), log)).toEqual([1, 1]);
});

test('a line that is taken out comes after all before it, and before all after it', () => {
  const gone: Edit = { kind: 'removeLine', field: 'packings', line: -2 };
  const rounds = inRounds(SUMMED, [...typed(3), gone, set('other', 1)], true);
  expect(rounds.map((r) => r.length)).toEqual([3, 3, 3, 1, 1]);
  expect(rounds[3]).toEqual([gone]);
});

test('what the form has no field for comes alone, and is refused where it stands', () => {
  expect(counted(SUMMED, [set('nowhere', 1), { kind: 'addLine', field: 'nowhere', line: -2 }, ...typed(1)])).toEqual([1, 1, 1, 1, 1]);
});
