import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { Generated } from '../testing/randomForms.ts';
import { answer, openSettled } from '../testing/seedbank.ts';
import { type Case, cases, planOf, recordOf } from '../testing/storedCases.ts';
import { affectedFills } from './affected.ts';
import { backfill, fillable, toGive } from './backfill.ts';
import type { StoredRecord } from './context.ts';
import type { Entry } from './entry.ts';
import { type Extent, extentOf, extentsOf } from './extent.ts';
import { impactOn, weigh } from './impact.ts';
import type { Plan } from './plan.ts';

/* What is worked out in an extent is what is worked out in the whole form. */

/** The form with some fields, and maybe the rules, of the other. */
function draftOf({ one, other, changes, takesRules }: Case): Generated {
  const keys = Object.keys(one.fields).filter((k) => k in other.fields && k !== 'family' && k !== 'step');
  const taken = changes.map((n) => keys[n % keys.length]!);
  const isWider = Object.keys(other.fields).length > Object.keys(one.fields).length;
  return {
    ...one,
    fields: Object.fromEntries(Object.entries(one.fields).map(([k, f]) => [k, taken.includes(k) && !isWider ? other.fields[k]! : f])),
    ...(takesRules && !isWider ? { rules: other.rules, access: other.access } : {}),
  };
}
const open = (plan: Plan, record: StoredRecord, { one }: Case, extent?: Extent): Entry =>
  openSettled(plan, { mode: 'edit', isQuiet: true, roles: one.roles, extent }, record);
function through<T>(entry: Entry, steps: Generator<void, T>): T {
  for (let asked = 0; asked < 100; asked++) {
    const step = steps.next();
    if (step.done) return step.value;
    // once: what a fill asked for while it was given stands until it is given again
    entry.supply(answer(entry.wants));
  }
  throw new Error(`It keeps wanting the same: ${JSON.stringify(entry.wants)}`);
}
const isSound = (plan: Plan): boolean => !plan.problems.some((p) => p.code === 'cycle');

test('a backfill comes to the same in its extent as in the whole form', () => {
  let [given, left] = [0, 0];
  fc.assert(
    fc.property(cases, (c) => {
      const plan = planOf(c.one, c.lines, c);
      fc.pre(isSound(plan));
      const able = fillable(plan).map((f) => f.key);
      const fields = [...new Set(c.asked.map((n) => able[n % able.length]!))];
      const record = recordOf(c);
      const extent = extentOf(plan, fields);
      left += extent.cells.filter((n) => n === 0).length;
      const outcomes = [undefined, extent].map((e) => {
        const entry = open(plan, record, c, e);
        return through(entry, backfill(entry, record, toGive(plan, fields), c.over));
      });
      given += outcomes[0]!.given.length;
      expect(outcomes[1]).toEqual(outcomes[0]);
    }),
    { numRuns: 600 },
  );
  expect(given).toBeGreaterThan(150);
  expect(left).toBeGreaterThan(1000);
});

test('what a draft does to a record is the same in the extents of both versions as in the whole forms', () => {
  const found = new Map<string, number>();
  let left = 0;
  fc.assert(
    fc.property(cases, (c) => {
      const [before, now] = [planOf(c.one, c.lines, c), planOf(draftOf(c), c.takesLines ? c.otherLines : c.lines, c)];
      fc.pre(isSound(before) && isSound(now));
      const fields = affectedFills(before, now);
      const record = recordOf(c);
      const extents = extentsOf(before, now, fields);
      left += extents.now.cells.filter((n) => n === 0).length;
      const [whole, within] = [null, extents].map((e) => {
        const [was, is] = ([[before, e?.before], [now, e?.now]] as const).map(([plan, extent]) => {
          const entry = open(plan, record, c, extent);
          return through(entry, weigh(entry, record, toGive(plan, fields.filter((f) => plan.slots.has(f)))));
        }); // prettier-ignore
        return impactOn(was!, is!);
      });
      for (const { kind } of whole!) found.set(kind, (found.get(kind) ?? 0) + 1);
      expect(within).toEqual(whole);
    }),
    { numRuns: 600 },
  );
  expect(left).toBeGreaterThan(1000);
  // the rarest is found some ten times: that none is there by chance is one run in tens of thousands
  for (const kind of ['change', 'follow', 'next', 'required', 'error', 'warning']) expect([...found.keys()]).toContain(kind);
});
