import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { parseForm } from '../form/schemas.ts';
import type { Origin } from '../model/origin.ts';
import { CONTEXT, LOT_FIELDS, answer, lotForm, openSettled } from '../testing/seedbank.ts';
import { operand } from '../testing/randomForms.ts';
import { TABLES } from '../testing/storedCases.ts';
import type { Tables } from '../model/tables.ts';
import type { Datum } from '../values/types.ts';
import { OVERS, backfill, toGive } from './backfill.ts';
import { DataCache } from './cache.ts';
import { compileForm } from './compile.ts';
import type { StoredRecord } from './context.ts';
import { type Entry, openEntry } from './entry.ts';
import { extentOf } from './extent.ts';
import { weigh } from './impact.ts';
import { Straight } from './straight.ts';

/* What the straight way says of a record is what its entry comes to. */

const COUNT = 7;
const LOT_SPECIES = LOT_FIELDS.species as { source: object };
/** The same tables, too large to be sent whole. */
const LARGE: Tables = new Map([...TABLES].map(([key, t]) => [key, { ...t, large: true }]));
/** A species that no genus above it narrows. */
const SPECIES = { ...LOT_SPECIES, source: { ...LOT_SPECIES.source, where: null } };
const or = <T>(arb: fc.Arbitrary<T>, freq = 2): fc.Arbitrary<T | null> => fc.option(arb, { nil: null, freq });
const rarely = <T>(arb: fc.Arbitrary<T>): fc.Arbitrary<T | null> =>
  fc.oneof({ weight: 5, arbitrary: fc.constant(null) }, { weight: 1, arbitrary: arb });
const formula = (i: number): fc.Arbitrary<string> =>
  fc.oneof(
    fc.tuple(operand(i), fc.constantFrom('+', '-', '*', '/'), operand(i)).map(([a, op, b]) => `${a} ${op} ${b}`),
    fc.tuple(operand(i), operand(i), operand(i)).map(([a, b, c]) => `IF(${a} > ${b}, ${c}, ${a})`),
    fc.tuple(operand(i), operand(i)).map(([a, b]) => `COALESCE(${a}, ROUND(${b} * 1.15, 1))`),
    fc.constantFrom('species.germination_days', 'before.n1 + 1', 'YEAR(TODAY())'),
  );
const condition = (i: number): fc.Arbitrary<string> => fc.tuple(operand(i), operand(i)).map(([a, b]) => `NOT(${a} > ${b})`);
const numberField = (i: number): fc.Arbitrary<object> =>
  fc
    .record({
      kind: fc.constantFrom('none', 'default', 'prefill', 'prefill', 'calculation', 'calculation'),
      text: formula(i),
      typedOver: fc.constantFrom('keep', 'refill'),
      once: fc.boolean(),
      always: fc.boolean(),
      isScratch: rarely(fc.constant(true)),
      shown: rarely(condition(i)),
      hiddenValue: fc.constantFrom('keep', 'clear'),
      required: rarely(condition(COUNT)),
      decimals: or(fc.integer({ min: 0, max: 3 })),
      check: rarely(fc.record({ when: operand(COUNT).map((x) => `${x} > 20`), message: fc.constantFrom('Much', 'Much: {n0}'), severity: fc.constantFrom('error', 'warning') })),
    })
    .map(({ kind, text, typedOver, once, always, isScratch, check, ...rest }) => ({
      label: `N${i}`,
      type: 'number',
      ...rest,
      ...(isScratch ? {} : { column: `n${i}` }),
      checks: check ? [check] : [],
      value:
        kind === 'none' ? null
        : kind === 'prefill' ? { kind, formula: text, typedOver, once }
        : { kind, formula: text, ...(kind === 'calculation' ? { always } : {}) },
    })); // prettier-ignore
const rule = fc
  .record({ when: condition(COUNT), kind: fc.constantFrom('show', 'hide', 'require', 'message'), n: fc.nat({ max: COUNT - 1 }), hiddenValue: fc.constantFrom('own', 'keep', 'clear') })
  .map(({ when, kind, n, hiddenValue }, ) => ({ when, then: [{ kind, field: `n${n}`, ...(kind === 'hide' ? { hiddenValue } : {}), ...(kind === 'message' ? { message: 'So {n0}', severity: 'error' } : {}) }] })); // prettier-ignore
const ORIGINS: readonly Origin[] = [
  { kind: 'typed' },
  { kind: 'calculation' },
  { kind: 'prefill' },
  { kind: 'default' },
  { kind: 'hidden' },
];
const stored: fc.Arbitrary<StoredRecord> = fc
  .record({
    numbers: fc.array(or(fc.oneof(fc.integer({ min: -30, max: 30 }), fc.double({ min: -50, max: 50, noNaN: true }).map((n) => Number(n.toPrecision(6)))), 4), { minLength: COUNT, maxLength: COUNT }),
    species: fc.constantFrom(null, 101, 102, 103, 111, 201, 301),
    genus: fc.constantFrom(null, null, 11, 12, 21),
    family: fc.constantFrom(null, 1, 2),
    origins: fc.array(or(fc.constantFrom(...ORIGINS)), { minLength: COUNT, maxLength: COUNT }),
  })
  .map(({ numbers, species, genus, family, origins }) => ({
    values: { id: 7, species, genus, family, ...Object.fromEntries(numbers.map((n, i): [string, Datum] => [`n${i}`, n])) },
    origins: Object.fromEntries(origins.flatMap((o, i) => (o && numbers[i] !== null ? [[`n${i}`, o]] : []))),
  })); // prettier-ignore
/** A species that may be narrowed, by the genus above it and by numbers. */
const species = fc
  .record({
    where: fc.constantFrom(null, 'choice.genus = genus', 'choice.genus = genus AND choice.storage_c < n3', 'choice.storage_c < n1', 'choice.genus = genus AND choice.germination_days > n0', 'ISBLANK(n2) OR choice.storage_c = n2'),
    waiting: fc.constantFrom('none', 'all', 'hide'),
    onDriverChange: fc.constantFrom('clearIfGone', 'clear', 'keep'),
    single: fc.constantFrom('take', 'leave'),
    fillUp: fc.boolean(),
    hiddenValue: fc.constantFrom('keep', 'clear'),
  })
  .map(({ hiddenValue, ...source }) => ({ ...SPECIES, hiddenValue, source: { ...LOT_SPECIES.source, ...source } })); // prettier-ignore
const cases = fc.record({
  species,
  numbers: fc.tuple(...Array.from({ length: COUNT }, (_, i) => numberField(i))),
  rules: fc.oneof(fc.array(rule, { maxLength: 0 }), fc.array(rule, { maxLength: 2 })),
  // one after the other on the same way: nothing of one may be left for the next
  records: fc.array(stored, { minLength: 1, maxLength: 4 }),
  asked: fc.array(fc.nat(), { minLength: 1, maxLength: 3 }),
  over: fc.constantFrom(...OVERS),
  isLarge: fc.boolean(),
});

function through<T>(entry: Entry, steps: Generator<void, T>): T {
  for (let asked = 0; asked < 100; asked++) {
    const step = steps.next();
    if (step.done) return step.value;
    entry.supply(answer(entry.wants));
  }
  throw new Error('It keeps wanting the same.');
}

test('what is told straight of a record is what an entry comes to', () => {
  const seen = { records: 0, narrowed: 0, told: 0, given: 0, followed: 0, weighed: 0, next: 0, standing: 0, refused: 0 };
  fc.assert(
    fc.property(cases, ({ species, numbers, rules, records, asked, over, isLarge }) => {
      const { family, genus } = LOT_FIELDS;
      const fields = {
        family: family as object,
        genus: genus as object,
        species,
        ...Object.fromEntries(numbers.map((f, i) => [`n${i}`, f])),
      };
      const plan = compileForm(
        parseForm({ ...lotForm(fields), rules: rules.map((r, i) => ({ id: `r${i}`, ...r })) }),
        isLarge ? LARGE : TABLES,
      );
      // those that nothing fills too: what another version fills is asked of this one
      const able = plan.fields.filter((f) => f.definition.type === 'number' && f.definition.column !== null).map((f) => f.key);
      // what waits for itself is never published
      if (!able.length || plan.problems.some((p) => p.code === 'cycle')) return;
      const paths = [...new Set(asked.map((n) => able[n % able.length]!))];
      const give = toGive(plan, paths);
      const extent = extentOf(plan, paths);
      const way = Straight.of(plan, give, extent);
      if (!way) throw new Error('there is nothing more to these forms');
      const cache = new DataCache();
      for (const record of records) {
        // with the data at hand: while some is on its way an entry may take a stored value for changed
        openSettled(plan, { mode: 'edit', isQuiet: true, extent }, record, cache);
        const columns = Object.entries(record.values).filter(([column]) => way.columns.has(column));
        const read = { ...record, values: Object.fromEntries([['id', record.values.id ?? null], ...columns]) };
        const open = (): Entry => openEntry(plan, { ...CONTEXT, mode: 'edit', isQuiet: true, extent }, cache, record);
        const entry = open();
        seen.records++;
        const given = through(entry, backfill(entry, record, give, over));
        const told = way.backfill(read, CONTEXT, cache, over);
        if (told) {
          seen.told++;
          seen.refused += told.problems.length;
          if (extent.cells.some((n, id) => n === 1 && plan.cells[id]!.kind === 'choices')) seen.narrowed++;
          seen.given += told.given.filter((g) => g.asked).length;
          seen.followed += told.given.filter((g) => !g.asked).length;
          expect(told).toEqual(given);
        }
        const weight = way.weigh(read, CONTEXT, cache);
        if (weight) {
          seen.weighed++;
          seen.next += weight.next.size;
          seen.standing += weight.standing.size;
          const other = open();
          expect(weight).toEqual(through(other, weigh(other, record, give)));
        }
      }
    }),
    { numRuns: 1500 },
  );
  // most are told, and much of what can happen to them happens
  expect(seen.told).toBeGreaterThan(seen.records / 2);
  for (const n of [seen.narrowed, seen.standing, seen.refused]) expect(n).toBeGreaterThan(25);
  for (const n of [seen.given, seen.followed, seen.weighed, seen.next]) expect(n).toBeGreaterThan(200);
});

/** The straight way of giving a number by which a list is narrowed. */
function givingNarrowing(fields: Record<string, object>) {
  const n0 = { label: 'N0', type: 'number', column: 'n0' };
  const n1 = { label: 'N1', type: 'number', column: 'n1', value: { kind: 'prefill', formula: 'n0' } };
  const plan = compileForm(lotForm({ ...fields, n0, n1 }), TABLES);
  const extent = extentOf(plan, ['n1']);
  return { plan, extent, way: Straight.of(plan, toGive(plan, ['n1']), extent)! };
}
test('a choice that levels further up no longer offer is left to an entry', () => {
  const where = 'choice.genus = genus AND choice.germination_days >= n1';
  const fields = {
    family: LOT_FIELDS.family as object,
    genus: { ...LOT_FIELDS.genus, source: { ...(LOT_FIELDS.genus as { source: object }).source, fillUp: false } },
    species: { ...LOT_SPECIES, source: { ...LOT_SPECIES.source, where, waiting: 'all', fillUp: false } },
  };
  const { plan, extent, way } = givingNarrowing(fields);
  const told = (family: number) => {
    const record: StoredRecord = { values: { id: 7, family, genus: null, species: 101, n0: 0, n1: null }, origins: {} };
    const { cache } = openSettled(plan, { mode: 'edit', isQuiet: true, extent }, record);
    return way.backfill(record, CONTEXT, cache, 'empty');
  };
  expect([told(1)?.given.length, told(2)]).toEqual([1, null]);
});

test('lists that were met are told apart by all that they hang on, and by what is known of the data', () => {
  const where = 'choice.genus = genus AND choice.storage_c < n1';
  const fields = {
    genus: LOT_FIELDS.genus as object,
    species: { ...LOT_SPECIES, source: { ...LOT_SPECIES.source, where, waiting: 'all', fillUp: false } },
  };
  const { plan, extent, way } = givingNarrowing(fields);
  const cache = new DataCache();
  const record = (n0: number): StoredRecord => ({ values: { id: 7, genus: 11, species: 101, n0, n1: null }, origins: {} });
  const told = (n0: number): boolean => {
    openSettled(plan, { mode: 'edit', isQuiet: true, extent }, record(n0), cache);
    return way.backfill(record(n0), CONTEXT, cache, 'empty') !== null;
  };
  // with and without it on the list, by turns
  expect([told(1000), told(-1000), told(1000), told(-1000)]).toEqual([true, false, true, false]);
  const { rows } = cache.table('species')!;
  const warmer = rows.map((r) => (r.id === 101 ? { ...r, storage_c: 2000 } : r));
  cache.supply([{ want: { kind: 'table', table: 'species' }, answer: { kind: 'table', rows: warmer } }], () => null);
  expect([told(1000), told(3000)]).toEqual([false, true]);
});

describe('there is no straight way', () => {
  const fields = { species: SPECIES, n0: { label: 'N0', type: 'number', column: 'n0' } };
  const wayOf = (more: Record<string, object>, asked: string): Straight | null => {
    const plan = compileForm(lotForm({ ...fields, ...more }), TABLES);
    expect(plan.problems.filter((p) => p.severity === 'error')).toEqual([]);
    return Straight.of(plan, toGive(plan, [asked]), extentOf(plan, [asked]));
  };
  const filled = (formula: string, kind = 'prefill'): Record<string, object> => ({
    n1: { label: 'N1', type: 'number', column: 'n1', value: { kind, formula } },
  });
  test('but where fields and linked rows are all that is read', () => {
    expect(wayOf(filled('n0 * species.storage_c + MONTH(TODAY())'), 'n1')).not.toBeNull();
  });
  test.each([
    ['the record saved last', 'last.n0'],
    ['rows that are looked for', 'PICK(species, choice.storage_c > n0).storage_c'],
    ['all rows of a kind', 'SUM(GATHER(species, choice.storage_c > n0).storage_c)'],
  ])('to %s', (_, formula) => expect(wayOf(filled(formula), 'n1')).toBeNull());
  test('to a number of a series', () => expect(wayOf(filled('NEXTNUMBER("lots")', 'default'), 'n1')).toBeNull());
  test('where a choice is filled', () => {
    expect(
      wayOf({ species: { ...SPECIES, value: { kind: 'prefill', formula: 'PICK(species, choice.storage_c > n0)' } } }, 'species'),
    ).toBeNull();
  });
});
