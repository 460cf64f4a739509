import { describe, expect, test } from 'vitest';
import { SEEDBANK, lotPlan, openSettled } from '../testing/seedbank.ts';
import type { PlanChoices } from '../engine/plan.ts';
import { Waiting } from '../formula/errors.ts';
import { linksShown, shownTextOf } from './shownText.ts';

const species = (shownAs: string | null) =>
  lotPlan({
    species: { label: 'Species', type: 'link', column: 'species', source: { kind: 'rows', table: 'species', show: 'name', shownAs } },
  });
const choicesOf = (shownAs: string | null): PlanChoices => species(shownAs).fields[0]!.choices as PlanChoices;
const rowsOf = (table: string) => SEEDBANK.find((t) => t.key === table)!.data;
const read = (table: string, id: number) => rowsOf(table).find((r) => r.id === id) ?? null;
const robur = rowsOf('species')[0]!;

describe('a row shown by a text of its own', () => {
  test('of its columns, and of rows it links to', () => {
    const choices = choicesOf('TEMPLATE("{choice.name} ({choice.genus.family.name}, {choice.germination_days, number} days)")');
    expect(shownTextOf(choices, robur, read)).toBe('Quercus robur (Fagaceae, 28 days)');
  });
  test('is its column where there is no text, the text is empty, or what it takes is not here', () => {
    expect(shownTextOf(choicesOf(null), robur, read)).toBeNull();
    expect(shownTextOf(choicesOf('choice.name & choice.germination_days'), { ...robur, name: null }, read)).toBeNull();
    expect(shownTextOf(choicesOf('choice.genus.name'), robur, () => Waiting.value)).toBeNull();
  });
  test('may name nothing but the row, and must be a text', () => {
    const said = (shownAs: string): unknown[] => species(shownAs).problems.map((p) => [p.part, p.severity, p.message]);
    expect(said('choice.name')).toEqual([]);
    expect(said('me.name')).toEqual([['shownAs', 'error', 'What a row is shown as may only name the row itself: choice and its columns.']]);
    expect(said('choice.storage_c')).toEqual([['shownAs', 'error', expect.stringContaining('a text is needed here')]]);
    expect(said('species.name')).toEqual([['shownAs', 'error', expect.stringContaining('no field or name “species”')]]);
  });
  test('the tables it leads to are asked for with the list', () => {
    const entry = openSettled(species('choice.genus.name'));
    expect(entry.cache.table('genera')).not.toBeNull();
    expect(openSettled(species(null)).cache.table('genera')).toBeNull();
  });
});

describe('a shown column that is a link', () => {
  test('leads to rows that are asked for with the list', () => {
    const source = { kind: 'rows', table: 'species', show: 'name', beside: ['genus', 'storage_c'] };
    const plan = lotPlan({ species: { label: 'Species', type: 'link', column: 'species', source } });
    expect(linksShown(plan.fields[0]!.choices as PlanChoices, plan.tables)).toEqual([{ column: 'genus', target: 'genera' }]);
    expect(openSettled(plan).cache.table('genera')).not.toBeNull();
  });
});
