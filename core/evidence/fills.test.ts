import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { lotPlan, openSettled } from '../testing/seedbank.ts';
import { atOnce } from '../engine/inSteps.ts';
import type { Origin } from '../model/origin.ts';
import type { Datum } from '../values/types.ts';
import { OUTCOMES, type Outcome, type SavedLine, howFillsWork, outcomeOf, spansBetween } from './fills.ts';
import { type Attribute, whereMost } from './where.ts';

const plan = lotPlan();
const columns = plan.own.flatMap((f) => (f.definition.column ? [f.definition.column] : []));
const line = (more: Partial<SavedLine>): SavedLine => ({ row: 1, isNew: true, at: '2026-03-10T09:00:00', version: 1, values: {}, origins: { x: 'typed' }, gave: {}, ...more }); // prettier-ignore

/** How a save looks of which this became of a column. */
const SAID: Readonly<Record<Outcome, { value: Datum; origin: Origin['kind'] | undefined; gave: Datum }>> = {
  kept: { value: 5, origin: 'prefill', gave: null },
  over: { value: 6, origin: 'typed', gave: 5 },
  emptied: { value: null, origin: 'emptied', gave: 5 },
  hand: { value: 6, origin: 'typed', gave: null },
  empty: { value: null, origin: undefined, gave: null },
};
const without = <V>(all: readonly (readonly [string, V | null | undefined])[]): Record<string, V> =>
  Object.fromEntries(all.flatMap(([k, v]) => (v === null || v === undefined ? [] : [[k, v] as const])));

describe('how well fills work', () => {
  test('the shares are those of a plain count, whatever was saved; each record is counted once', () => {
    const saves = fc.array(
      fc.record({
        outcomes: fc.array(fc.constantFrom(...OUTCOMES), { minLength: columns.length, maxLength: columns.length }),
        day: fc.integer({ min: 0, max: 900 }),
        version: fc.integer({ min: 1, max: 3 }),
        later: fc.option(fc.constantFrom(...columns)),
      }),
      { maxLength: 60 },
    );
    fc.assert(
      fc.property(saves, (given) => {
        const ordered = [...given].sort((a, b) => a.day - b.day);
        const lines = ordered.flatMap(({ outcomes, day, version, later }, row) => {
          const said = columns.map((c, i) => [c, SAID[outcomes[i]!]] as const);
          const at = `${new Date(Date.parse('2024-01-01') + day * 86_400_000).toISOString().slice(0, 10)}T08:00:00`;
          const origins = { id: 'typed' as const, ...without(said.map(([c, s]) => [c, s.origin] as const)) };
          const made = line({ row, at, version, values: without(said.map(([c, s]) => [c, s.value] as const)), origins, gave: without(said.map(([c, s]) => [c, s.gave] as const)) }); // prettier-ignore
          return later === null ? [made] : [made, line({ row, at, version, isNew: false, values: { [later]: 9 }, origins: { [later]: 'typed' } })]; // prettier-ignore
        });
        const use = howFillsWork(plan.own, lines, [], new Map());
        expect(use.records).toBe(given.length);
        for (const [i, column] of columns.entries()) {
          const field = plan.own.find((f) => f.definition.column === column)!;
          const told = use.fields.find((u) => u.field === field.key)!;
          for (const o of OUTCOMES) {
            expect(told.counts[o]).toBe(given.filter((g) => g.outcomes[i] === o).length);
            expect(told.spans.reduce((n, s) => n + s[o], 0)).toBe(told.counts[o]);
          }
          if (field.value?.kind !== 'calculation')
            expect(told.later).toBe(given.filter((g) => g.outcomes[i] === 'kept' && g.later === column).length);
          expect(told.over.reduce((n, o) => n + o.count, 0)).toBe(told.counts.over);
        }
        expect(new Set(use.versions.map((v) => v.version))).toEqual(new Set(given.map((g) => g.version)));
        expect(use.spans.length).toBeLessThanOrEqual(61);
      }),
      { numRuns: 150 },
    );
  });
  test('records of which nothing was noted are told apart, not counted', () => {
    const use = howFillsWork(plan.own, [line({}), line({ row: 2, origins: {} })], [], new Map());
    expect(use).toMatchObject({ records: 1, unknown: 1 });
  });
  test('what a fill gave was not noted by a version before: what is typed there is by hand, not over it', () => {
    expect(outcomeOf('a', line({ values: { a: 1 }, origins: { a: 'typed' }, gave: null }))).toBe('hand');
    expect(outcomeOf('a', line({ values: { a: 1 }, origins: { a: 'carried' }, gave: {} }))).toBe('kept');
  });
  test('days are told by how far they are from the day that was given', () => {
    const dated = lotPlan();
    const field = dated.own.find((f) => f.definition.type === 'date')!;
    const column = field.definition.column!;
    const saves = [3, 3, 1].map((n, row) => line({ row, values: { [column]: `2026-03-${10 - n < 10 ? '0' : ''}${10 - n}` }, origins: { [column]: 'typed' }, gave: { [column]: '2026-03-10' } })); // prettier-ignore
    const { over } = howFillsWork(dated.own, saves, [], new Map()).fields.find((u) => u.field === field.key)!;
    expect(over.map((o) => [o.days, o.count])).toEqual([[-3, 2], [-1, 1]]); // prettier-ignore
  });
  test('what is offered and never chosen, be it later', () => {
    const [column] = columns;
    const field = plan.own.find((f) => f.definition.column === column)!;
    const saves = [line({ values: { [column!]: 'a' } }), line({ isNew: false, values: { [column!]: ['b', 'd'] }, origins: {} })];
    const use = howFillsWork(plan.own, saves, [], new Map([[field.key, ['a', 'b', 'c']]]));
    expect(use.fields.find((u) => u.field === field.key)!.unchosen).toEqual(['c']);
  });
});

describe('spans of time', () => {
  test('hold every day, each once, and are few', () => {
    const day = fc.integer({ min: 0, max: 20_000 }).map((n) => new Date(n * 86_400_000).toISOString().slice(0, 10));
    fc.assert(
      fc.property(day, day, (a, b) => {
        const [first, last] = a < b ? [a, b] : [b, a];
        const spans = spansBetween(first, last);
        expect(spans[0]! <= first).toBe(true);
        expect(spans.at(-1)! <= last).toBe(true);
        expect([...spans].sort()).toEqual(spans);
        expect(new Set(spans).size).toBe(spans.length);
        expect(spans.length).toBeLessThanOrEqual(62);
      }),
    );
  });
});

describe('where something happens most', () => {
  const of = (path: string): Attribute => ({ path, column: path, of: (values) => values[path] ?? null });
  const attributes = [of('region'), of('plant'), of('remark')];
  const world = (n: number, happens: (i: number) => boolean) => {
    const all = Array.from({ length: n }, (_, i) => ({ values: { region: i % 4, plant: (i * 7) % 30, remark: `note ${i}` } }));
    return { all, over: new Set(all.filter((_, i) => happens(i))) };
  };
  test('is found, with its count', () => {
    const { all, over } = world(400, (i) => i % 4 === 2 && i % 20 !== 6);
    expect(whereMost(all, over, attributes)).toEqual({ path: 'region', value: 2, over: over.size, of: 100 });
  });
  test('is nothing where it happens everywhere alike, or hardly ever', () => {
    for (const happens of [(i: number) => i % 3 === 0, () => true, (i: number) => i === 7, () => false]) {
      const { all, over } = world(400, happens);
      expect(whereMost(all, over, attributes)).toBeNull();
    }
  });
});

describe('what a fill would give where a person decided otherwise', () => {
  test('is told of defaults and prefills that were typed over or emptied, and of no other field', () => {
    const entry = openSettled(plan);
    expect([...atOnce(entry.overruledInSteps())]).toEqual([]);
    const filled = plan.own.find((f) => f.value?.kind === 'default' && entry.value(f.key) !== null)!;
    const given = entry.value(filled.key);
    entry.apply([{ kind: 'clear', field: filled.key }]);
    expect([...atOnce(entry.overruledInSteps())]).toEqual([[filled.key, given]]);
    expect(entry.value(filled.key)).toBeNull();
    entry.apply([{ kind: 'set', field: filled.key, value: given as Datum }]);
    expect([...atOnce(entry.overruledInSteps())]).toEqual([]);
  });
});
