import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { printSyntax } from '../formula/print.ts';
import { isDatum } from '../formula/errors.ts';
import type { Datum } from '../values/types.ts';
import { LOT_FIELDS, lotPlan, openSettled, settleAll } from '../testing/seedbank.ts';
import type { Edit } from './state.ts';
import { type Against, whyNotValue } from './whyNotValue.ts';

const number = (formula: string | null = null, kind = 'calculation'): object => ({ label: 'N', type: 'number', value: formula === null ? null : { kind, formula } }); // prettier-ignore
function opened(formula: string, edits: readonly Edit[] = [], kind = 'calculation') {
  const fields = { ...LOT_FIELDS, a: number(), b: number(), c: number(), x: number(formula, kind) };
  const entry = openSettled(lotPlan(fields));
  for (const e of edits) {
    entry.apply([e]);
    settleAll(entry);
  }
  return entry;
}
const set = (field: string, value: Datum): Edit => ({ kind: 'set', field, value });
const short = (a: Against): unknown => {
  switch (a.kind) {
    case 'branch':
      return [a.kind, printSyntax(a.condition), a.wants, printSyntax(a.gives)];
    case 'earlier':
      return [a.kind, printSyntax(a.part), printSyntax(a.gives)];
    case 'name':
      return [a.kind, printSyntax(a.name), a.needed, a.rows?.count ?? null];
    case 'set':
      return [a.kind, a.origin.kind, a.wouldFit];
    default:
      return [a.kind];
  }
};
const told = (entry: ReturnType<typeof opened>, expected: Datum, field = 'x'): unknown[] =>
  whyNotValue(entry, field, null, expected).map(short);

describe('why a value that was expected is not there', () => {
  test('nothing stands against what is there', () => expect(told(opened('a + 1', [set('a', 2)]), 3)).toEqual([]));
  test('a field without a fill', () => expect(told(opened('1'), 3, 'a')).toEqual([['noFill']]));
  test('a name, worked backwards', () => {
    expect(told(opened('a * 3 - 1', [set('a', 2)]), 14)).toEqual([['name', 'a', 5, null]]);
    expect(told(opened('ROUND(-(a / 4), 1) + 10 %', [set('a', 2)]), 3.1)).toEqual([['name', 'a', -12, null]]);
    expect(told(opened('a - b', [set('a', 2), set('b', 1)]), 5)).toEqual([['name', 'a', 6, null], ['name', 'b', -3, null]]); // prettier-ignore
    expect(told(opened('a / b', [set('a', 6), set('b', 3)]), 3)).toEqual([['name', 'a', 9, null], ['name', 'b', 2, null]]); // prettier-ignore
  });
  test('a name that stands there twice is not worked backwards', () =>
    expect(told(opened('a * a', [set('a', 2)]), 9)).toEqual([['gives']]));
  test('the branch that would give it', () => {
    expect(told(opened('IF(a > 5, 1, 2)', [set('a', 2)]), 1)).toEqual([['branch', 'a > 5', true, '1']]);
    expect(told(opened('IF(a > 5, 1, b)', [set('a', 9), set('b', 7)]), 7)).toEqual([['branch', 'a > 5', false, 'b']]);
    expect(told(opened('IFS(a > 5, 1, b > 5, 2, TRUE, 3)', [set('a', 9), set('b', 7)]), 2)).toEqual([
      ['branch', 'b > 5', true, '2'],
      ['branch', 'a > 5', false, '2'],
    ]);
    // the branch that is taken may give it too
    expect(told(opened('IF(a > 5, 1, b)', [set('a', 2), set('b', 7)]), 1)).toEqual([['branch', 'a > 5', true, '1'], ['name', 'b', 1, null]]); // prettier-ignore
  });
  test('an earlier alternative that is not empty', () =>
    expect(told(opened('COALESCE(a, b, 4)', [set('a', 2)]), 4)).toEqual([['earlier', 'a', '4']]));
  test('a link that leads to a row with something else, and how many rows would have it', () => {
    const [first] = whyNotValue(opened('species.storage_c', [set('species', 101)]), 'x', null, -20);
    expect(first).toMatchObject({ kind: 'name', needed: -20, rows: { table: 'species' } });
  });
  test('somebody typed over it: what its fill would give is told, and whether that is it', () => {
    const entry = opened('a + 1', [set('a', 2), set('x', 9)], 'prefill');
    expect(told(entry, 3)).toEqual([['set', 'typed', true]]);
    expect(told(entry, 4)).toEqual([['set', 'typed', false], ['name', 'a', 3, null]]); // prettier-ignore
  });
});

test('what is told of a name is so: with it, the field has the value', () => {
  const leaf = fc.constantFrom('a', 'b', '2', '0.5', '10');
  const tree: fc.Arbitrary<string> = fc.letrec<{ t: string }>((tie) => ({
    t: fc.oneof(
      { depthSize: 'small', withCrossShrink: true },
      leaf,
      fc.tuple(tie('t'), fc.constantFrom('+', '-', '*'), tie('t')).map(([l, op, r]) => `(${l} ${op} ${r})`),
      tie('t').map((t) => `COALESCE(${t}, 1)`),
      fc.tuple(tie('t'), tie('t')).map(([t, u]) => `IF(a > 3, ${t}, ${u})`),
    ),
  })).t;
  let proven = 0;
  fc.assert(
    fc.property(tree, fc.integer({ min: -9, max: 9 }), fc.integer({ min: -9, max: 9 }), fc.integer({ min: -50, max: 50 }), (text, a, b, expected) => {
      const entry = opened(text, [set('a', a), set('b', b)]);
      for (const w of whyNotValue(entry, 'x', null, expected)) {
        if (w.kind !== 'name' || typeof w.needed !== 'number' || !Number.isInteger(w.needed)) continue;
        // a condition may turn with the name itself: then another branch counts
        if (text.includes('IF(') && printSyntax(w.name) === 'a') continue;
        entry.apply([set(printSyntax(w.name), w.needed)]);
        settleAll(entry);
        const now = entry.value('x');
        expect([text, isDatum(now) && now]).toEqual([text, expected]);
        proven++;
        entry.apply([set('a', a), set('b', b)]);
      }
    }),
    { numRuns: 400 },
  );
  expect(proven).toBeGreaterThan(20);
}); // prettier-ignore
