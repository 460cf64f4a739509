import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Env } from '../formula/env.ts';
import { formula } from '../formula/formula.ts';
import { withBinding } from '../formula/scope.ts';
import { testEnv, testScope } from '../testing/scope.ts';
import * as T from '../values/typing.ts';
import type { Row } from '../values/types.ts';
import { type Narrowing, narrowRows, narrowWhole, narrowingOf } from './narrowing.ts';

const scope = withBinding(testScope(), { name: 'choice', label: 'choice', type: T.rowOf('species'), source: { kind: 'candidate' } });
const narrowing = (text: string): Narrowing => {
  const checked = formula(text, scope, T.YESNO);
  expect(checked.problems.filter((p) => p.severity === 'error')).toEqual([]);
  return narrowingOf(checked);
};
/** The parameters as an entry works them out, and what tells them apart. */
function asked(n: Narrowing, env: Env): string {
  env.params = n.params.map((p) => p.run(env));
  return JSON.stringify(env.params);
}

describe('what a condition asks', () => {
  test.each([
    ['choice.genus = genus', true],
    ['choice.active AND choice.storage_c BETWEEN a AND b', true],
    ['choice.name IN (word, "b") OR ISBLANK(choice.genus)', true],
    ['choice.storage_c + a > b', true],
    ['COALESCE(choice.storage_c, 0) > LEN(word)', true],
    // what it leads to may be changed while the rows are not
    ['choice.genus.family = species.genus.family', false],
    ['choice.genus.name = word', false],
    ['CONTAINSANY(choice.name, word)', false],
  ])('%s: of the rows alone %s', (text, alone) => {
    expect(narrowing(text).ofRowsAlone).toBe(alone);
  });

  test('what is remembered of whole tables is what narrowing them gives, whatever is asked in between', () => {
    const all = ['choice.genus = genus', 'choice.active AND choice.storage_c > a', 'choice.name IN (word, "b") OR ISBLANK(choice.storage_c)', 'choice.genus.family.name = word'].map(narrowing); // prettier-ignore
    const row = fc.record({
      name: fc.constantFrom('a', 'B', 'b', null),
      genus: fc.constantFrom(1, 2, null),
      storage_c: fc.constantFrom(-20, 4, 4.5, null),
      active: fc.constantFrom(true, false, null),
    });
    const entry = fc.record({ a: fc.constantFrom(-20, 0, 4, null), b: fc.constantFrom(1, 2), word: fc.constantFrom('A', 'b', null), genus: fc.constantFrom(1, 2, null) }); // prettier-ignore
    fc.assert(
      fc.property(fc.array(row, { maxLength: 30 }), fc.array(fc.tuple(entry, fc.nat(all.length - 1)), { maxLength: 12 }), (rows, steps) => {
        const whole: readonly Row[] = rows.map((r, i) => ({ ...r, id: i + 1 }));
        // families of the two genera, which change while the species do not
        let family = 1;
        for (const [values, which] of steps) {
          family = 3 - family;
          const n = all[which]!;
          const names = ['a', 'b'];
          const env: Env = {
            ...testEnv(values),
            row: (table, id) => (table === 'genera' ? { id, family: id === 1 ? family : 2 } : { id, name: names[id - 1] ?? null }),
          };
          const key = asked(n, env);
          const now = narrowWhole(n, whole, new Set(), env, key);
          expect(now).toEqual(narrowRows(n, whole, new Set(), env));
          if (n.ofRowsAlone) expect(narrowWhole(n, whole, new Set(), env, key)).toBe(now);
        }
      }),
      { numRuns: 300 },
    );
  });
});
