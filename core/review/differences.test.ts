import { describe, expect, test } from 'vitest';
import { addField, addSection, changeField, changeSection, nudgeField, removeField } from '../form/edit.ts';
import { lotForm } from '../testing/seedbank.ts';
import { formDifferences } from './differences.ts';

const form = lotForm();

describe('what a draft changed', () => {
  test('nothing, when nothing did', () => {
    expect(formDifferences(form, form)).toEqual([]);
    expect(formDifferences(form, JSON.parse(JSON.stringify(form)))).toEqual([]);
  });

  test.each([
    ['a field added', addField(form, 's1', 'Germinated', 'number').form, ['Germinated: added']],
    ['a field removed', removeField(form, 'seeds'), ['Seeds, estimated: removed']],
    ['settings, by their words', changeField(form, 'genus', { required: 'TRUE', hint: 'x' }), ['Genus: when it is required, hint']],
    ['choices', changeField(form, 'collector', { source: null }), ['Collector: choices']],
    ['the order', nudgeField(form, 'family', 1), ['fields in another order']],
    ['a heading', changeSection(form, 's1', { label: 'Plant' }), ['pages or sections']],
    ['a section', addSection(form, 's1', 'More').form, ['pages or sections']],
    ['the name', { ...form, label: 'Intake' }, ['renamed to “Intake”']],
  ])('%s', (_, draft, expected) => {
    expect(formDifferences(form, draft)).toEqual(expected);
  });

  test('undoing a change leaves no difference', () => {
    const there = nudgeField(form, 'family', 1);
    expect(formDifferences(form, nudgeField(there, 'family', -1))).toEqual([]);
  });
});
