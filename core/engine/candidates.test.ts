import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { Row } from '../values/types.ts';
import { compileForm } from './compile.ts';
import { renewedRows, sortedWhole } from './candidates.ts';
import type { PlanField } from './plan.ts';
import { LOT_FIELDS, SEEDBANK_TABLES, lotForm } from '../testing/seedbank.ts';

/* A whole table of which some rows were written is what reading and sorting all of it gives. */

const [family, genus, species] = ['family', 'genus', 'species'].map((key) => {
  const plan = compileForm(lotForm(LOT_FIELDS), SEEDBANK_TABLES);
  return plan.fields[plan.slots.get(key) ?? -1] as PlanField;
}) as [PlanField, PlanField, PlanField];
const byAge: PlanField = { ...genus, choices: { ...genus.choices!, sort: [{ key: 'age', type: 'number' }, { key: 'name', type: 'text' }] as NonNullable<PlanField['choices']>['sort'] } }; // prettier-ignore
const FIELDS = [family, genus, species, byAge];

const row = (id: number): fc.Arbitrary<Row> =>
  fc.record({
    id: fc.constant(id),
    name: fc.constantFrom('Ash', 'ash', 'Élan', 'elm', 'Oak', '', null),
    age: fc.constantFrom(1, 2.5, null),
  });
const written = fc.uniqueArray(fc.integer({ min: 1, max: 30 }), { maxLength: 6 });
/** For some numbers, the row as it is now; null where it is gone. */
const change = written.chain((ids) =>
  fc.tuple(...ids.map((id) => fc.tuple(fc.constant(id), fc.option(row(id), { freq: 3 })))),
) as fc.Arbitrary<[number, Row | null][]>;

test('whatever rows were written, put in and taken out, one commit after the other', () => {
  fc.assert(
    fc.property(change, fc.array(change, { maxLength: 6 }), fc.integer({ min: 0, max: 15 }), (start, changes, sorts) => {
      const table = new Map(start.flatMap(([id, r]) => (r ? [[id, r] as const] : [])));
      const all = (): Row[] => [...table.values()].sort((a, b) => a.id - b.id);
      let kept: readonly Row[] = all();
      for (const now of changes) {
        // some orders are asked before, some are not
        FIELDS.forEach((field, i) => (sorts >> i) & 1 && sortedWhole(kept, field));
        for (const [id, r] of now) if (r) table.set(id, r); else table.delete(id); // prettier-ignore
        const before = [...kept];
        const renewed = renewedRows(kept, now.map(([id]) => id), now.flatMap(([, r]) => r ?? []).reverse()); // prettier-ignore
        expect(kept).toEqual(before);
        kept = renewed;
        expect(kept).toEqual(all());
        for (const field of FIELDS) expect(sortedWhole(kept, field)).toEqual(sortedWhole(all(), field));
      }
    }),
    { numRuns: 500 },
  );
});
