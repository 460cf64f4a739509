import { describe, expect, test } from 'vitest';
import { compileForm } from '../engine/compile.ts';
import { formula } from '../formula/formula.ts';
import { LOT_FIELDS, SEEDBANK_TABLES, lotForm, packingForm } from '../testing/seedbank.ts';
import { YESNO } from '../values/typing.ts';
import { asChoice, entryScope, fromChoice } from './entrySentence.ts';
import { narrowingText, sentencesOf } from './sentence.ts';

const scope = entryScope(compileForm(lotForm(), SEEDBANK_TABLES).scope);
const lines = { grams: { label: 'Grams', type: 'number', column: 'grams' } };
const photos = { label: 'Photos', type: 'files' };
const withLines = entryScope(
  compileForm(packingForm({ genus: { ...LOT_FIELDS.genus, source: null }, photos }, lines), SEEDBANK_TABLES).scope,
);

describe('conditions over an entry as sentences', () => {
  test.each([
    ['species.active', 'choice.species.active'],
    ['species.storage_c > 5 AND NOT(ISBLANK(genus))', 'choice.species.storage_c > 5 AND NOT(ISBLANK(choice.genus))'],
    ['5 < species.storage_c', '5 < choice.species.storage_c'],
    ['genus = species.genus', 'choice.genus = species.genus'],
    ['(species.name = "a" OR me.team = "Lab") AND species.name IN ("x", "y")', '(choice.species.name = "a" OR choice.me.team = "Lab") AND choice.species.name IN ("x", "y")'],
    ['CONTAINSANY(species.name, "choice.") AND species.storage_c BETWEEN 1 AND 3', 'CONTAINSANY(choice.species.name, "choice.") AND choice.species.storage_c BETWEEN 1 AND 3'],
    ['PICK(species, choice.genus = genus).active', 'PICK(species, choice.genus = genus).active'],
    ['entry.mode = "new"', 'entry.mode = "new"'],
    ['broken (', 'broken ('],
  ])('%s', (text, expected) => {
    const made = asChoice(text, scope);
    expect(made).toBe(expected);
    expect(fromChoice(made), 'and back').toBe(text);
    const compiled = formula(made, scope, YESNO);
    if (!compiled.syntax) return;
    expect(compiled.problems.filter((p) => p.severity === 'error')).toEqual([]);
    // through the sentences it means the same
    const again = fromChoice(narrowingText(sentencesOf(compiled)) ?? '');
    expect(asChoice(again, scope).replace(/[()]/g, '')).toBe((narrowingText(sentencesOf(formula(expected, scope, YESNO))) ?? '').replace(/[()]/g, ''));
  }); // prettier-ignore

  test.each([
    ['ANYOF(packings, each.grams > 5)', 'ANYOF(choice.packings, each.grams > 5)'],
    ['NONEOF(photos, each.kind = "pdf") AND COUNTA(photos) > 1', 'NONEOF(choice.photos, each.kind = "pdf") AND COUNTA(choice.photos) > 1'],
    ['2 <= COUNTA(packings) OR NOT(ALLOF(packings, each.grams = genus.family.id))', '2 <= COUNTA(choice.packings) OR NOT(ALLOF(choice.packings, each.grams = genus.family.id))'],
  ])('of lines and files: %s', (text, expected) => {
    const made = asChoice(text, withLines);
    expect(made).toBe(expected);
    expect(fromChoice(made)).toBe(text);
    expect(formula(made, withLines, YESNO).problems).toEqual([]);
  }); // prettier-ignore
});
