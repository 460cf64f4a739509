import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { CONTEXT, LARGE_TABLES, LOT_FIELDS, SEEDBANK, answer, lotForm, lotPlan, openSettled } from '../testing/seedbank.ts';
import { compileForm } from './compile.ts';
import { DataCache } from './cache.ts';
import type { Row } from '../values/types.ts';
import { type Entry, openEntry } from './entry.ts';
import type { Edit } from './state.ts';
import { againstWords, whyNot } from './whyNot.ts';

/* Which part of a narrowing stands against a row. */

const set = (field: string, value: unknown): Edit => ({ kind: 'set', field, value }) as Edit;
const rowsOf = (key: string): readonly Row[] => SEEDBANK.find((t) => t.key === key)?.data ?? [];
const FIELDS = ['genus', 'species'] as const;
const tableOf = { genus: 'genera', species: 'species' } as const;
/** the lists as the fixture has them, and as they go on while nothing is chosen above */
const plan = (waiting: string) =>
  lotPlan({
    ...LOT_FIELDS,
    ...Object.fromEntries(
      FIELDS.map((k) => {
        const of = LOT_FIELDS[k] as { source: object };
        return [k, { ...of, source: { ...of.source, waiting, single: 'leave' } }];
      }),
    ),
  });

describe('why a row is not offered', () => {
  test('a row is offered where no part stands against it, and only there', () => {
    const families = rowsOf('families').map((r) => r.id);
    const genera = rowsOf('genera').map((r) => r.id);
    fc.assert(
      fc.property(
        fc.constantFrom('none', 'all'),
        fc.option(fc.constantFrom(...families), { nil: null }),
        fc.option(fc.constantFrom(...genera), { nil: null }),
        (waiting, family, genus) => {
          const entry: Entry = openSettled(plan(waiting));
          entry.apply([set('family', family), set('genus', genus)]);
          for (const field of FIELDS) {
            const offer = entry.offer(field);
            if (offer?.status !== 'ready') continue;
            const offered = new Set(offer.rows?.map((r) => r.id));
            for (const row of rowsOf(tableOf[field])) {
              const against = whyNot(entry, field, null, row).filter((p) => !p.skipped && p.holds !== true);
              expect([field, row.id, against.length === 0]).toEqual([field, row.id, offered.has(row.id)]);
            }
          }
        },
      ),
    );
  });

  test('the part is named with what the row has, also while the list waits', () => {
    const entry = openSettled(plan('none'));
    const species = rowsOf('species')[0]!;
    entry.apply([set('genus', rowsOf('genera').find((g) => g.id !== species.genus)!.id)]);
    const [part] = whyNot(entry, 'species', null, species);
    expect(part).toMatchObject({ part: 0, holds: false, skipped: false, has: [{ name: 'genus', value: species.genus }] });
    expect(whyNot(openSettled(plan('none')), 'species', null, species).some((p) => p.holds === true && p.has[0]?.name === 'genus')).toBe(
      false,
    );
    expect(whyNot(entry, 'family', null, rowsOf('families')[0]!)).toEqual([]);
    expect(() => whyNot(entry, 'nowhere', null, species)).toThrow(RangeError);
  });

  test('of a stored choice it is said in words, without values of the entry', () => {
    const species = rowsOf('species')[0]!;
    const genus = rowsOf('genera').find((g) => g.id !== species.genus)!.id;
    const record = { values: { family: null, genus, species: species.id }, origins: {} };
    const entry = openSettled(plan('all'), { mode: 'edit' }, record);
    expect(entry.state('species').gone).toBe(true);
    expect(againstWords(entry, 'species', null)).toMatch(/^not true of it: its genus is the entry’s Genus/i);
    expect(againstWords(entry, 'family', null)).toBeNull();
  });
});

describe('of a large table, whose rows are not here', () => {
  test('what a row is asked through is wanted, answered, and then told', () => {
    const of = LOT_FIELDS.species as { source: object };
    const where = 'choice.genus.family = family';
    const fields = { ...LOT_FIELDS, species: { ...of, source: { ...of.source, where } } };
    const entry = openEntry(compileForm(lotForm(fields), LARGE_TABLES), CONTEXT, new DataCache());
    entry.apply([set('family', 1)]);
    const row = rowsOf('species').find((s) => s.id === 201)!;
    const ask = () => whyNot(entry, 'species', null, row);
    const before = entry.wants.length;
    for (let round = 0; round < 6; round++) {
      const lacking = entry.wantedBy(() => ask());
      if (!lacking.length) break;
      expect(lacking.every((w) => w.kind === 'row')).toBe(true);
      entry.supply(answer(lacking));
    }
    expect(ask()).toMatchObject([{ holds: false, has: [{ name: 'genus.family' }] }]);
    // asking is not wanting: nothing of it stays
    expect(entry.wants.length).toBe(before);
  });
});
