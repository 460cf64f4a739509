import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { parseOutline } from '../model/lists.ts';
import { CONTEXT, LOT_FIELDS, SEEDBANK, SEEDBANK_TABLES, lotForm, lotPlan, openSettled, settleAll, table } from '../testing/seedbank.ts';
import type { Row } from '../values/types.ts';
import { compileForm } from './compile.ts';
import { DataCache } from './cache.ts';
import { type Entry, openEntry } from './entry.ts';
import type { Edit } from './state.ts';
import { verify } from './verify.ts';
import { why } from './why.ts';

/* Cascades with a level in the middle that is empty: no order of choosing makes a combination that cannot exist. */

const set = (field: string, value: unknown): Edit => ({ kind: 'set', field, value }) as Edit;
const clear = (field: string): Edit => ({ kind: 'clear', field });
const cascade = (waiting: string, more: object = {}): Record<string, object> => {
  const of = (key: string): { source: object } => LOT_FIELDS[key] as { source: object };
  return {
    family: of('family'),
    genus: { ...of('genus'), source: { ...of('genus').source, waiting, ...more } },
    species: { ...of('species'), source: { ...of('species').source, waiting, single: 'leave', ...more } },
  };
};
const rowsOf = (key: string): readonly Row[] => SEEDBANK.find((t) => t.key === key)?.data ?? [];
const row = (key: string, id: unknown): Row | undefined => rowsOf(key).find((r) => r.id === id);
const offered = (entry: Entry, field: string): unknown[] => entry.offer(field)?.rows?.map((r) => r.id) ?? [];

/** Whether what stands in the three fields can be true together. */
function agrees(entry: Entry): boolean {
  const [family, genus, species] = ['family', 'genus', 'species'].map((k) => entry.value(k));
  const ofSpecies = species === null ? null : row('species', species)?.genus;
  if (genus !== null && ofSpecies !== null && ofSpecies !== genus) return false;
  const lowest = genus ?? ofSpecies;
  return family === null || lowest === null || row('genera', lowest)?.family === family;
}

describe('a level in the middle is empty', () => {
  test('what is below is narrowed by the level above it, through the links', () => {
    const entry = openSettled(lotPlan(cascade('all')));
    entry.apply([set('family', 2)]);
    expect(offered(entry, 'species')).toEqual([211, 202, 201]);
    expect(entry.offer('species')?.status).toBe('ready');
    // and what is chosen there fills up the level between, which fits to the one above
    entry.apply([set('species', 211)]);
    expect([entry.value('genus'), entry.value('family')]).toEqual([22, 2]);
    expect(agrees(entry)).toBe(true);
  });

  test('a combination that cannot exist is not offered, so it is refused', () => {
    const entry = openSettled(lotPlan(cascade('all')));
    entry.apply([set('family', 2), set('species', 101)]);
    expect(verify(entry).map((i) => [i.field, i.code])).toEqual([['species', 'notOffered']]);
  });

  test('a record that was saved so is told, and not filled up with what contradicts', () => {
    const values = { family: 2, genus: null, species: 101 };
    const entry = openSettled(lotPlan(cascade('all')), { mode: 'edit' }, { values, origins: {} });
    expect(entry.state('species').gone).toBe(true);
    expect(entry.value('genus')).toBeNull();
  });

  test('the question what narrows it names the part that follows, and only while it counts', () => {
    const plan = lotPlan(cascade('all'));
    const entry = openSettled(plan);
    const told = (): string => JSON.stringify(why(entry, 'species'));
    expect(told()).not.toContain('choice.genus.family');
    entry.apply([set('family', 2)]);
    expect(told()).toContain('choice.genus.family = family');
    entry.apply([set('genus', 21)]);
    expect(told()).not.toContain('choice.genus.family');
  });

  test('whatever is chosen and cleared in whatever order, what is offered can be true together', () => {
    const edit = fc.oneof(
      fc.constantFrom(1, 2, 3).map((id) => ['family', id] as const),
      fc.constantFrom(...rowsOf('genera').map((r) => r.id)).map((id) => ['genus', id] as const),
      fc.constantFrom(...rowsOf('species').map((r) => r.id)).map((id) => ['species', id] as const),
      fc.constantFrom('family', 'genus', 'species').map((field) => [field, null] as const),
    );
    const behaviour = fc.record({ onDriverChange: fc.constantFrom('clearIfGone', 'clear'), fillUp: fc.boolean() });
    fc.assert(
      fc.property(fc.constantFrom('all', 'none'), behaviour, fc.array(edit, { maxLength: 15 }), (waiting, more, edits) => {
        const entry = openSettled(lotPlan(cascade(waiting, more)));
        for (const [field, id] of edits) {
          // a person chooses only what is offered
          if (id !== null && !offered(entry, field).includes(id)) continue;
          entry.apply([id === null ? clear(field) : set(field, id)]);
          settleAll(entry);
          expect(agrees(entry), JSON.stringify(edits)).toBe(true);
        }
      }),
    );
  });

  test('over HTTP anything may be sent: what is not refused can be true together', () => {
    const any = fc.tuple(
      fc.constantFrom('family', 'genus', 'species'),
      fc.constantFrom(1, 2, 3, 11, 12, 21, 22, 31, 101, 111, 201, 211, 301),
    );
    fc.assert(
      fc.property(fc.constantFrom('all', 'none'), fc.array(any, { maxLength: 6 }), (waiting, edits) => {
        const entry = openSettled(lotPlan(cascade(waiting)));
        for (const [field, id] of edits) {
          entry.apply([set(field, id)]);
          settleAll(entry);
        }
        if (!verify(entry).some((i) => i.code === 'notOffered')) expect(agrees(entry), JSON.stringify(edits)).toBe(true);
      }),
    );
  });
});

describe('filling up', () => {
  const PLOTS = table('plots', { name: 'text', site: 'text', region: 'text' }, [
    { id: 1, name: 'P1', site: 'Ash Ghyll', region: 'North' },
    { id: 2, name: 'P2', site: 'Ash Ghyll', region: 'North' },
    { id: 3, name: 'P3', site: 'Black Tarn', region: 'South' },
    { id: 4, name: 'P4', site: 'Common', region: 'North' },
    { id: 5, name: 'P5', site: 'Common', region: 'South' },
  ]);
  const tables = new Map([...SEEDBANK_TABLES, ['plots', PLOTS]]);
  const distinct = (values: string, where: string | null) => ({ label: values, type: 'choice', source: { kind: 'distinct', table: 'plots', values, where, waiting: 'all', single: 'leave' } }); // prettier-ignore
  const open = (): Entry => {
    const plan = compileForm(lotForm({ region: distinct('region', null), site: distinct('site', 'choice.region = region') }), tables);
    expect(plan.problems.filter((p) => p.severity === 'error')).toEqual([]);
    const entry = openEntry(plan, CONTEXT, new DataCache());
    entry.supply([{ want: { kind: 'table', table: 'plots' }, answer: { kind: 'table', rows: PLOTS.data } }]);
    return entry;
  };

  test('from a value of a column, where all its rows agree; where they do not, nothing is made up', () => {
    const entry = open();
    entry.apply([set('site', 'Ash Ghyll')]);
    expect(entry.state('region')).toMatchObject({ value: 'North', origin: { kind: 'filledUp', from: 'site' } });
    const other = open();
    other.apply([set('site', 'Common')]);
    expect(other.value('region')).toBeNull();
    // choosing the region afterwards keeps what fits to either
    other.apply([set('region', 'South')]);
    expect(other.value('site')).toBe('Common');
  });

  test('from the third level of an option list to the first', () => {
    const items = parseOutline('a = A\n  a1 = A1\n    a11 = A11\n    a12 = A12\nb = B\n  b1 = B1\n    b11 = B11');
    const lists = new Map([['l', { key: 'l', label: 'L', items }]]);
    const level = (n: number, where: string | null) => ({ label: `L${n}`, type: 'choice', source: { kind: 'list', list: 'l', level: n, where, waiting: 'all', single: 'leave' } }); // prettier-ignore
    const fields = { one: level(1, null), two: level(2, 'choice.parent = one'), three: level(3, 'choice.parent = two') };
    const plan = compileForm(lotForm(fields), SEEDBANK_TABLES, lists);
    const entry = openSettled(plan);
    entry.apply([set('three', 'a12')]);
    expect([entry.value('two'), entry.value('one')]).toEqual(['a1', 'a']);
    // with the middle empty, the third level follows the first
    const other = openSettled(plan);
    other.apply([set('one', 'b')]);
    expect(other.offer('three')?.rows?.map((r) => r.value)).toEqual(['b11']);
  });
});
