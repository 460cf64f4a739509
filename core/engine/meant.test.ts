import fc from 'fast-check';
import { expect, test } from 'vitest';
import { CONTEXT, LARGE_TABLES, SEEDBANK, SEEDBANK_TABLES, answer, lotForm, packingForm } from '../testing/seedbank.ts';
import { foldText } from '../values/text.ts';
import type { Row } from '../values/types.ts';
import { DataCache } from './cache.ts';
import { compileForm } from './compile.ts';
import { type Entry, openEntry } from './entry.ts';
import { type PageWant, choiceMeant, wantsBeside } from './meant.ts';
import type { Answer, Want } from './wants.ts';

const FIELDS = {
  genus: { label: 'Genus', type: 'link', column: 'genus', source: { kind: 'rows', table: 'genera', show: 'name' } },
  species: { label: 'Species', type: 'link', column: 'species', source: { kind: 'rows', table: 'species', show: 'name', sort: ['name'] } },
};
const PLAN = compileForm(lotForm(FIELDS), LARGE_TABLES);
const counted = (want: Want): Answer =>
  want.kind === 'count' ? { kind: 'count', total: 5000, capped: false, only: null } : answer([want])[0]!.answer;
function opened(plan = PLAN): Entry {
  const entry = openEntry(plan, { ...CONTEXT, mode: 'new' }, new DataCache());
  while (entry.wants.length) entry.supply(entry.wants.map((want) => ({ want, answer: counted(want) })));
  return entry;
} // prettier-ignore
/** A page as a server gives it: those that begin with what is searched for first, in their own order. */
const pageOf = (all: readonly Row[], { search, limit }: PageWant): Answer => {
  const holds = all.filter((r) => foldText(String(r.name)).includes(foldText(search)));
  const begins = holds.filter((r) => foldText(String(r.name)).startsWith(foldText(search)));
  const rows = [...begins, ...holds.filter((r) => !begins.includes(r))];
  return { kind: 'page', rows: rows.slice(0, limit), more: rows.length > limit };
};
function meantOf(entry: Entry, text: string, all: readonly Row[]): { value: unknown; asked: number } {
  for (let asked = 0; asked < 5; asked++) {
    const meant = choiceMeant(entry, 'species', null, text, 'en');
    if ('value' in meant) return { value: meant.value, asked };
    entry.supply([{ want: meant.want, answer: pageOf(all, meant.want) }]);
  }
  throw new Error('it goes on asking');
}

test('of a large list the row is meant that is called so, however many others begin with its name', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 260 }),
      fc.nat(),
      fc.constantFrom('Rosa', 'rosa ', 'ROSA'),
      fc.boolean(),
      (others, at, text, twice) => {
        const rows: Row[] = Array.from({ length: others }, (_, i) => ({ id: i + 1, name: `Rosa no. ${i}` }));
        const place = at % (others + 1);
        rows.splice(place, 0, { id: 1000, name: 'Rosa' });
        if (twice) rows.splice(place, 0, { id: 1001, name: 'Rosa' });
        const { value, asked } = meantOf(opened(), text, rows);
        // two that are called so are none; what stands behind the two hundredth is not looked at
        const seen = rows.slice(0, 200).filter(({ name }) => name === 'Rosa');
        expect(value).toBe(seen.length === 1 ? seen[0]!.id : undefined);
        expect(asked).toBe(rows.length <= 20 ? 1 : 2);
      },
    ),
    { numRuns: 200 },
  );
});

test('of a small list nothing is asked; a text nothing is called by means nothing; what cannot be had neither', () => {
  const small = opened(compileForm(lotForm(FIELDS), SEEDBANK_TABLES));
  expect(choiceMeant(small, 'species', null, ' rosa CANINA', 'en')).toEqual({ value: 201 });
  expect(choiceMeant(small, 'species', null, 'Rosa', 'en')).toEqual({ value: undefined });
  expect(() => choiceMeant(small, 'nothing', null, 'Rosa', 'en')).toThrow(RangeError);
  const large = opened();
  const meant = choiceMeant(large, 'species', null, 'Rosa', 'en');
  expect(meant).toMatchObject({ want: { kind: 'page', field: 'species', search: 'Rosa', offset: 0, limit: 20 } });
  if ('want' in meant) large.supply([{ want: meant.want, answer: { kind: 'failed', reason: 'away' } }]);
  expect(choiceMeant(large, 'species', null, 'Rosa', 'en')).toEqual({ value: undefined });
});

test('what is asked beside is what is asked for the others, each once and no more than may be', () => {
  const entry = opened();
  const [field] = PLAN.fields.filter((f) => f.key === 'species');
  const first = choiceMeant(entry, 'species', null, 'a', 'en');
  if (!('want' in first)) throw new Error('nothing is wanted');
  const known = choiceMeant(entry, 'species', null, 'known', 'en');
  if ('want' in known) entry.supply([{ want: known.want, answer: pageOf(SEEDBANK.find((t) => t.key === 'species')!.data, known.want) }]);
  const beside = wantsBeside(entry, field!, first.want, ['b', 'a', ' b', '', 'known', 'c', 'd'], 2);
  expect(beside.map((w) => w.search)).toEqual(['b', 'c']);
  for (const want of beside) expect(choiceMeant(entry, 'species', null, want.search, 'en')).toEqual({ want });
});

test('where each line has a list of its own nothing is asked beside', () => {
  const besideOf = (where: string): number => {
    const lines = { genus: FIELDS.genus, species: { ...FIELDS.species, source: { ...FIELDS.species.source, where } } };
    const plan = compileForm(packingForm({ main: FIELDS.genus }, Object.fromEntries(Object.entries(lines).map(([k, f]) => [k, { ...f, column: null }]))), LARGE_TABLES); // prettier-ignore
    const entry = opened(plan);
    const [line] = entry.lines('packings');
    const field = entry.field('packings.species');
    const meant = choiceMeant(entry, field.key, line!, 'a', 'en');
    return 'want' in meant ? wantsBeside(entry, field, meant.want, ['b'], 9).length : -1;
  };
  expect(besideOf('choice.genus = genus')).toBe(0);
  expect(besideOf('choice.genus = main')).toBe(1);
  expect(besideOf('choice.name <> "x"')).toBe(1);
});
