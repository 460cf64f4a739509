import fc from 'fast-check';
import type { Edit } from '../engine/state.ts';
import type { Role } from '../values/roles.ts';
import { LOT_FIELDS } from './seedbank.ts';

/*
 * Random forms: number fields n0…nk, each with nothing, a default, a prefill or a calculation over fields before it,
 * some hidden by condition; beside them the family › genus › species cascade with random behaviour, and rules that show, hide,
 * lock, say, set and clear. Fields are placed in a random order, since the result must not depend on it.
 */
/** A form, and what is done in an entry of it. */
export interface Generated {
  readonly fields: Record<string, object>;
  readonly order: readonly string[];
  readonly rules: readonly object[];
  readonly steps: object | null;
  readonly access: readonly object[];
  readonly roles: readonly Role[];
  readonly edits: readonly Edit[];
}

const SPECIES = [101, 102, 103, 111, 201, 202, 211, 301];
/** A number, a column of what is chosen, or a field before the i-th. */
export const operand = (i: number): fc.Arbitrary<string> =>
  fc.oneof(
    fc.integer({ min: -20, max: 20 }).map((n) => (n < 0 ? `(${n})` : String(n))),
    fc.constantFrom('0.1', '2.55', 'species.storage_c', 'species.genus.family.id', 'EMPTY()'),
    ...(i > 0 ? [fc.integer({ min: 0, max: i - 1 }).map((k) => `n${k}`)] : []),
  );
const formula = (i: number): fc.Arbitrary<string> =>
  fc.oneof(
    fc.tuple(operand(i), fc.constantFrom('+', '-', '*', '/'), operand(i)).map(([a, op, b]) => `${a} ${op} ${b}`),
    fc.tuple(operand(i), operand(i), operand(i)).map(([a, b, c]) => `IF(${a} > ${b}, ${c}, ${a})`),
    fc.array(operand(i), { minLength: 1, maxLength: 4 }).map((xs) => `SUM(${xs.join(', ')})`),
    fc.tuple(operand(i), operand(i)).map(([a, b]) => `COALESCE(${a}, ROUND(${b}, 1))`),
    operand(i).map((a) => `PICK(species, choice.genus = genus AND choice.storage_c > ${a}).germination_days`),
    operand(i).map((a) => `SUM(GATHER(species, choice.storage_c < ${a}).germination_days)`),
    operand(i).map((a) => `COUNTOF(GATHER(species, choice.genus = genus), each.storage_c < ${a} OR each.genus = genus)`),
  );
const spreads = (i: number, count: number): fc.Arbitrary<object[]> =>
  i + 1 >= count
    ? fc.constant([])
    : fc.array(
        fc.record({
          field: fc.integer({ min: i + 1, max: count - 1 }).map((k) => `n${k}`),
          formula: fc.option(formula(i + 1), { nil: null }),
          when: fc.option(
            operand(i).map((x) => `n${i} > ${x}`),
            { nil: null },
          ),
        }),
        { maxLength: 2 },
      );
const numberField = (i: number, count: number): fc.Arbitrary<object> =>
  fc
    .record({
      kind: fc.constantFrom('none', 'none', 'default', 'prefill', 'calculation'),
      text: formula(i),
      typedOver: fc.constantFrom('keep', 'refill'),
      shown: fc.option(
        operand(i).map((x) => `NOT(${x} > 5)`),
        { nil: null, freq: 4 },
      ),
      hiddenValue: fc.constantFrom('keep', 'clear'),
      spreads: spreads(i, count),
    })
    .map(({ kind, text, typedOver, shown, hiddenValue, spreads: others }) => ({
      label: `N${i}`,
      type: 'number',
      shown,
      hiddenValue,
      spreads: others,
      value: kind === 'none' ? null : { kind, formula: text, ...(kind === 'prefill' ? { typedOver } : {}) },
    }));
const anyNumber = (count: number): fc.Arbitrary<string> => fc.integer({ min: 0, max: count - 1 }).map((k) => `n${k}`);
const effect = (count: number): fc.Arbitrary<object> =>
  fc.oneof(
    fc.record({ kind: fc.constantFrom('show', 'require', 'lock'), field: anyNumber(count) }),
    fc.record({ kind: fc.constant('hide'), field: anyNumber(count), hiddenValue: fc.constantFrom('own', 'keep', 'clear') }),
    fc.record({ kind: fc.constant('message'), field: anyNumber(count), message: fc.constantFrom('fixed', 'with {n0}') }),
    fc.record({ kind: fc.constant('set'), field: anyNumber(count), formula: operand(count), once: fc.boolean() }),
    fc.record({ kind: fc.constant('clear'), field: fc.oneof(anyNumber(count), fc.constant('genus')) }),
    fc.record({ kind: fc.constant('step'), to: fc.constantFrom('a', 'b', 'c') }),
  );
const STEPS = ['a', 'b', 'c'];
const some = fc.record({ roles: fc.subarray(['clerk', 'reviewer'] as const), teams: fc.subarray(['Lab', 'Field']) });
const who = fc.oneof(fc.constant({ roles: [], teams: [] }), some);
const grants = fc.array(fc.record({ who, steps: fc.subarray(STEPS) }), { maxLength: 2 });
const move = (count: number, i: number): fc.Arbitrary<object> =>
  fc.record({
    id: fc.constant(`m${i}`),
    label: fc.constant(`Move ${i}`),
    from: fc.oneof(fc.constant([]), fc.subarray(STEPS)),
    to: fc.constantFrom(...STEPS),
    who,
    when: fc.option(
      operand(count).map((x) => `NOT(${x} > 10)`),
      { nil: null },
    ),
    filled: fc.array(anyNumber(count), { maxLength: 1 }),
    sets: fc.array(fc.record({ field: anyNumber(count), formula: fc.oneof(operand(count), fc.constant('')) }), { maxLength: 2 }),
  });
const steps = (count: number): fc.Arbitrary<object> =>
  fc.record({
    field: fc.constant('step'),
    list: fc.constant(STEPS.map((value) => ({ value, label: value.toUpperCase() }))),
    moves: fc.tuple(move(count, 0), move(count, 1), move(count, 2), move(count, 3)),
  });
const access = (count: number): fc.Arbitrary<object[]> =>
  fc
    .array(fc.record({ place: fc.oneof(anyNumber(count), fc.constantFrom('genus', '@s1')), seen: grants, filled: grants }), {
      maxLength: 3,
    })
    .map((all) => all.filter((a, i) => all.findIndex((b) => b.place === a.place) === i));
const rule = (count: number, i: number): fc.Arbitrary<object> =>
  fc.record({
    id: fc.constant(`r${i}`),
    opens: fc.boolean(),
    saves: fc.boolean(),
    reaches: fc.subarray(STEPS),
    changes: fc.array(fc.oneof(anyNumber(count), fc.constantFrom('genus', 'species')), { maxLength: 2 }),
    mode: fc.constantFrom('both', 'both', 'new', 'edit'),
    when: fc.option(
      fc.tuple(operand(count), operand(count)).map(([a, b]) => `${a} > ${b}`),
      { nil: null },
    ),
    then: fc.array(effect(count), { maxLength: 3 }),
    otherwise: fc.array(effect(count), { maxLength: 2 }),
  });
const behaviour = fc.record({
  waiting: fc.constantFrom('none', 'all', 'hide'),
  onDriverChange: fc.constantFrom('clearIfGone', 'clear', 'keep'),
  single: fc.constantFrom('take', 'leave'),
  fillUp: fc.boolean(),
});
const edit = (count: number): fc.Arbitrary<Edit> =>
  fc.oneof(
    fc
      .tuple(fc.integer({ min: 0, max: count - 1 }), fc.double({ min: -100, max: 100, noNaN: true }))
      .map(([i, n]): Edit => ({ kind: 'set', field: `n${i}`, value: Math.round(n * 100) / 100 })),
    fc.constantFrom('n0', 'n1', 'family', 'genus', 'species').map((field): Edit => ({ kind: 'clear', field })),
    fc.integer({ min: 0, max: count - 1 }).map((i): Edit => ({ kind: 'takeSuggestion', field: `n${i}` })),
    ...[1, 2, 3].map(() => fc.constantFrom('m0', 'm1', 'm2', 'm3').map((m): Edit => ({ kind: 'move', field: 'step', move: m }))),
    fc.constant<Edit>({ kind: 'unmove', field: 'step' }),
    fc.constantFrom(1, 2, 3).map((value): Edit => ({ kind: 'set', field: 'family', value })),
    fc.constantFrom(11, 12, 21, 22, 31).map((value): Edit => ({ kind: 'set', field: 'genus', value })),
    fc.constantFrom(...SPECIES).map((value): Edit => ({ kind: 'set', field: 'species', value })),
  );
export const generated: fc.Arbitrary<Generated> = fc.integer({ min: 2, max: 9 }).chain((count) =>
  fc
    .record({
      numbers: fc.tuple(...Array.from({ length: count }, (_, i) => numberField(i, count))),
      genus: behaviour,
      species: behaviour,
      edits: fc.array(edit(count), { maxLength: 12 }),
      rules: fc.oneof(fc.constant([]), fc.tuple(rule(count, 0), rule(count, 1), rule(count, 2))),
      steps: fc.oneof(fc.constant(null), steps(count), steps(count)),
      access: access(count),
      roles: fc.subarray(['clerk', 'reviewer'] as const),
      shuffle: fc.array(fc.nat(), { minLength: count + 4, maxLength: count + 4 }),
    })
    .map(({ numbers, genus, species, edits, rules, shuffle, ...rest }) => {
      const base = (key: string): { source: object } => LOT_FIELDS[key] as { source: object };
      const fields: Record<string, object> = {
        family: base('family'),
        genus: { ...base('genus'), source: { ...base('genus').source, ...genus } },
        species: { ...base('species'), source: { ...base('species').source, ...species } },
        step: {
          label: 'Step',
          type: 'choice',
          source: { kind: 'options', options: STEPS.map((value) => ({ value, label: value })) },
          value: { kind: 'default', formula: '"a"' },
        },
        ...Object.fromEntries(numbers.map((f, i) => [`n${i}`, f])),
      };
      const order = Object.keys(fields)
        .map((key, i) => ({ key, at: shuffle[i] ?? 0 }))
        .sort((a, b) => a.at - b.at)
        .map((x) => x.key);
      return { fields, order, edits, rules, ...rest };
    }),
);
