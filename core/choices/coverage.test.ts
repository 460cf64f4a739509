import { expect, test } from 'vitest';
import { LOT_FIELDS, SEEDBANK_TABLES, lotForm, lotPlan } from '../testing/seedbank.ts';
import { compileForm } from '../engine/compile.ts';
import { cascadesOf, nearDuplicates, standingParts } from './coverage.ts';

test('a cascade is the chain of lists, with the link each hangs on', () => {
  const plan = lotPlan();
  expect(cascadesOf(plan).map((c) => c.map((l) => [l.field, l.table, l.link]))).toEqual([
    [
      ['family', 'families', null],
      ['genus', 'genera', 'family'],
      ['species', 'species', 'genus'],
    ],
  ]);
  const species = plan.fields.find((f) => f.key === 'species')!;
  expect(standingParts(plan, species.slot)).toEqual([1]);
});

test('a list narrowed by something else than a link starts no chain; a circle has none', () => {
  const rows = (table: string, where: string | null): object => ({ kind: 'rows', table, show: 'name', where });
  const fields = {
    family: { label: 'F', type: 'link', source: rows('families', 'choice.id = genus.family.id') },
    genus: { label: 'G', type: 'link', source: rows('genera', 'choice.family = family') },
  };
  expect(cascadesOf(compileForm(lotForm(fields), SEEDBANK_TABLES)).flat().length).toBeLessThanOrEqual(2);
  expect(cascadesOf(lotPlan({ family: LOT_FIELDS.family! }))).toEqual([]);
});

test('near duplicates: case, accents, hyphens, spaces; and rows of one name', () => {
  const t = (text: string, count: number, ids: number[] = [1]) => ({ text, count, ids });
  expect(
    nearDuplicates([t('Wet heath', 9), t('wet heath ', 2), t('Wet-heath', 3), t('Dry heath', 1), t('Étang', 1), t('Etang', 1)]).map((g) =>
      g.map((x) => x.text),
    ),
  ).toEqual([
    ['Wet heath', 'Wet-heath', 'wet heath '],
    ['Étang', 'Etang'],
  ]);
  expect(nearDuplicates([t('Twin', 2, [4, 5])])).toHaveLength(1);
});
