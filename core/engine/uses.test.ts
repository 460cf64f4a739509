import { describe, expect, test } from 'vitest';
import { formulaAt, formulaPlaces, placeKey } from '../form/formulas.ts';
import { readFileSync } from 'node:fs';
import { parseForm } from '../form/schemas.ts';
import { testScope } from '../testing/scope.ts';
import { hoverAt } from '../formula/complete.ts';
import { compileForm } from './compile.ts';
import { SEEDBANK_TABLES, lotForm, lotPlan } from '../testing/seedbank.ts';
import { formulaUses, mapAskedWith } from './uses.ts';

const form = parseForm(JSON.parse(readFileSync(new URL('../../demo/forms/seed_request.json', import.meta.url), 'utf8')));

describe('the formulas of a form', () => {
  test('stand at places that are named apart', () => {
    const places = formulaPlaces(form);
    expect(places.length).toBeGreaterThan(20);
    expect(new Set(places.map(placeKey)).size).toBe(places.length);
    expect(formulaAt(form, 'packets.line_total value')).toBe('packets * price');
    expect(formulaAt(form, 'fee value')).toBe('VALUEMAP(fees, method)');
    expect(formulaAt(form, 'fee where')).toBeNull();
  });
});

describe('what a name is where one points at it', () => {
  const text = 'ROUND(a, 2) + species.genus.family';
  test.each([
    [1, { kind: 'function', text: 'ROUND(number, [digits])', from: 0, to: 5 }],
    [6, { kind: 'name', text: 'a', words: 'a number' }],
    [text.indexOf('species') + 3, { text: 'species', words: 'a row of Species' }],
    [text.indexOf('genus') + 1, { text: 'species.genus', words: 'a row of Genera', from: text.indexOf('genus') }],
    [text.length, { text: 'species.genus.family', words: 'a row of Families' }],
  ])('at %i', (at, found) => expect(hoverAt(text, at, testScope())).toMatchObject(found));
  test.each([
    ['"in a text"', 4],
    ['1 + 2', 1],
    ['nothing.of', 3],
    ['species.nothing', 12],
    ['ROUND', 2],
  ])('nothing in %s', (t, at) => expect(hoverAt(t, at, testScope())).toBeNull());
});

test('formulas with what they use: functions, columns of tables, fields of the form', () => {
  const uses = formulaUses(
    lotPlan({
      species: {
        label: 'Species',
        type: 'link',
        column: 'species',
        source: { kind: 'rows', table: 'species', show: 'name', where: 'choice.active' },
      },
      storage_c: {
        label: 'Storage',
        type: 'number',
        column: 'storage_c',
        value: { kind: 'prefill', formula: 'ROUND(species.storage_c, 0)' },
      },
      double: { label: 'Double', type: 'number', value: { kind: 'calculation', formula: 'storage_c * 2' }, shown: 'NOT ISBLANK(species)' },
    }),
  );
  const of = (path: string, part: string) => uses.find((u) => u.path === path && u.part === part);
  expect(of('species', 'where')).toMatchObject({ text: 'choice.active', names: ['species.active'] });
  expect(of('storage_c', 'value')).toMatchObject({
    label: 'Storage',
    names: ['ROUND', 'species.storage_c', 'lots.species', '@lot_intake/species'],
  });
  expect(of('double', 'value')?.names).toEqual(['lots.storage_c', '@lot_intake/storage_c']);
  expect(of('double', 'shown')?.names).toEqual(['ISBLANK', 'lots.species', '@lot_intake/species']);
  expect(uses).toHaveLength(4);
});

describe('what a value map is asked with', () => {
  const options = [
    { value: 'post', label: 'By post' },
    { value: 'van', label: 'Our van' },
  ];
  const form = lotForm({
    method: { label: 'Method', type: 'choice', source: { kind: 'options', options } },
    word: { label: 'Word', type: 'text' },
    fee: { label: 'Fee', type: 'number', value: { kind: 'calculation', formula: 'IF(ISBLANK(word), 0, VALUEMAP(fees, method))' } },
    other: { label: 'Other', type: 'number', value: { kind: 'calculation', formula: 'VALUEMAP(others, word)' } },
  });
  const maps = {
    fees: { label: 'Fees', lines: [{ keys: ['post'], value: 3 }] },
    others: { label: 'Others', lines: [{ keys: ['a'], value: 3 }] },
  };
  const plan = compileForm({ ...form, maps }, SEEDBANK_TABLES);
  test('the choice whose value is looked up, with all it can be; a text tells nothing', () => {
    expect(mapAskedWith(plan, 'fees')).toEqual([{ label: 'Method', options }]);
    expect(mapAskedWith(plan, 'FEES')).toHaveLength(1);
    expect(mapAskedWith(plan, 'others')).toEqual([]);
  });
});
