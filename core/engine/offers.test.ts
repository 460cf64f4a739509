import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { Datum } from '../values/types.ts';
import { CONTEXT, LOT_FIELDS, SEEDBANK_TABLES, answer, lotForm } from '../testing/seedbank.ts';
import { DataCache } from './cache.ts';
import { compileForm } from './compile.ts';
import { type Entry, openEntry } from './entry.ts';
import type { Answered } from './wants.ts';

/* What is remembered of the offers of whole tables and lists is what working them out gives, whatever is asked in between. */

const rows = (table: string, more: object): object => ({ kind: 'rows', table, show: 'name', sort: ['name'], ...more });
const FIELDS: Record<string, object> = {
  ...LOT_FIELDS,
  cold: { label: 'Cold', type: 'link', source: rows('species', { where: 'choice.active AND choice.storage_c < quantity_g', waiting: 'all' }) },
  kin: { label: 'Kin', type: 'link', source: rows('species', { where: 'choice.genus.family = family' }) },
  hardy: { label: 'Hardy', type: 'link', source: rows('species', { where: 'choice.storage_c < 0' }) },
  team: { label: 'Team', type: 'choice', source: { kind: 'distinct', table: 'people', values: 'team' } },
  size: {
    label: 'Size', type: 'choice',
    source: { kind: 'options', options: ['s', 'm', 'l'].map((value) => ({ value, label: value })), where: 'choice.value <> "m" OR quantity_g > 3' },
  },
}; // prettier-ignore
const LISTS = ['family', 'genus', 'species', 'cold', 'kin', 'hardy', 'team', 'size'];

/** Answers as `answer` does, from rows of its own: nothing is known of them. */
const anew = (answered: readonly Answered[]): Answered[] => structuredClone(answered) as Answered[];
function settle(entry: Entry, from: (a: Answered[]) => Answered[]): void {
  for (let i = 0; entry.wants.length; i++) {
    if (i > 20) throw new Error('the entry keeps wanting');
    entry.supply(from(answer(entry.wants)));
  }
}
const offers = (entry: Entry): unknown => Object.fromEntries(LISTS.map((key) => [key, entry.offer(key)]));

test('lists that were offered before, by other entries too, are offered as they are worked out', () => {
  const plan = compileForm(lotForm(FIELDS), SEEDBANK_TABLES);
  expect(plan.problems.filter((p) => p.severity === 'error')).toEqual([]);
  const shared = new DataCache();
  const value: fc.Arbitrary<[string, Datum]> = fc.oneof(
    fc.constantFrom(1, 2, 3, null).map((v): [string, Datum] => ['family', v]),
    fc.constantFrom(11, 12, 21, null).map((v): [string, Datum] => ['genus', v]),
    fc.constantFrom(-20, -5, 2, 4.5, null).map((v): [string, Datum] => ['quantity_g', v]),
  );
  let same = 0;
  fc.assert(
    fc.property(fc.array(value, { maxLength: 8 }), (steps) => {
      const entry = openEntry(plan, CONTEXT, shared);
      const fresh = openEntry(plan, CONTEXT, new DataCache());
      settle(entry, (a) => a);
      settle(fresh, anew);
      for (const [field, v] of steps) {
        for (const e of [entry, fresh]) e.apply([v === null ? { kind: 'clear', field } : { kind: 'set', field, value: v }]);
        settle(entry, (a) => a);
        settle(fresh, anew);
        expect(offers(entry)).toEqual(offers(fresh));
        same++;
      }
      // the same question has the very same answer: it was not worked out again
      const again = openEntry(plan, CONTEXT, shared);
      expect(again.offer('hardy')).toBe(entry.offer('hardy'));
      expect(again.offer('team')).toBe(entry.offer('team'));
    }),
    { numRuns: 200 },
  );
  // what follows from the levels above is skipped once the one below is filled: the list asks its rows alone then
  const [one, other] = [openEntry(plan, CONTEXT, shared), openEntry(plan, CONTEXT, shared)];
  for (const e of [one, other]) e.apply([{ kind: 'set', field: 'genus', value: 11 }]);
  for (const e of [one, other]) settle(e, (a) => a);
  expect(one.offer('species')?.status).toBe('ready');
  expect(one.offer('species')).toBe(other.offer('species'));
  expect(same).toBeGreaterThan(300);
});
