import fc from 'fast-check';
import { expect, test } from 'vitest';
import { type Want, wantKey } from '../engine/wants.ts';
import { answered } from './entries.ts';

/* What is asked is found again when its answer comes, whatever the way did to the order of its properties. */

const name = fc.constantFrom('species', 'genus', 'a b', 'count');
const datum = fc.oneof(fc.integer(), fc.string({ maxLength: 5 }), fc.boolean(), fc.constant(null));
const list = { field: name, params: fc.array(datum, { maxLength: 3 }), open: fc.array(fc.nat(9), { maxLength: 3 }) };
const want: fc.Arbitrary<Want> = fc.oneof(
  fc.record({ kind: fc.constant('table'), table: name }),
  fc.record({ kind: fc.constant('row'), table: name, id: fc.nat(99) }),
  fc.record({ kind: fc.constant('feed'), feed: name, params: fc.dictionary(fc.constantFrom('a', 'b', 'c'), datum, { noNullPrototype: true }) }),
  fc.record({ kind: fc.constant('count'), ...list }),
  fc.record({ kind: fc.constant('offered'), value: fc.oneof(fc.nat(9), fc.constantFrom('1', '2')), ...list }),
  fc.record({ kind: fc.constant('page'), search: fc.constantFrom('', '1', 'x'), offset: fc.nat(9), limit: fc.integer({ min: 1, max: 9 }), ...list }),
  fc.record({ kind: fc.constant('funnel'), ...list }),
  fc.record({ kind: fc.constant('usual'), ...list }),
  fc.record({ kind: fc.constant('picked'), pick: fc.nat(9), params: fc.array(datum, { maxLength: 3 }) }),
  fc.record({ kind: fc.constant('last'), column: fc.option(name), value: datum }),
  fc.record({ kind: fc.constant('series'), series: name }),
) as fc.Arbitrary<Want>; // prettier-ignore

/** The same with the properties of every object in the other order. */
const turned = <T>(value: T): T =>
  (Array.isArray(value)
    ? value.map(turned)
    : value !== null && typeof value === 'object'
      ? Object.fromEntries(
          Object.entries(value)
            .reverse()
            .map(([k, v]) => [k, turned(v)]),
        )
      : value) as T;

test('a want that has travelled has the key it had', () => {
  fc.assert(
    fc.property(want, (asked) => {
      const back = answered.parse(JSON.parse(JSON.stringify({ want: asked, answer: { kind: 'failed', reason: '' } }))).want;
      expect(back).toEqual(asked);
      expect(wantKey(back)).toBe(wantKey(asked));
      expect(wantKey(turned(asked))).toBe(wantKey(asked));
    }),
    { numRuns: 500 },
  );
});

test('others have other keys', () => {
  fc.assert(
    fc.property(want, want, (one, other) => {
      let alike = true;
      try {
        expect(one).toEqual(other);
      } catch {
        alike = false;
      }
      expect(wantKey(one) === wantKey(other)).toBe(alike);
    }),
    { numRuns: 2000 },
  );
});
