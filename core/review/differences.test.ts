import { describe, expect, test } from 'vitest';
import { addField, addSection, changeField, changeSection, nudgeField, removeField } from '../form/edit.ts';
import { type Field, type Form, type Page, type Section } from '../form/definition.ts';
import { fieldSchema, pageSchema, sectionSchema } from '../form/schemas.ts';
import { addRule, changeRule, moveRule, removeRule } from '../form/editRules.ts';
import { lotForm } from '../testing/seedbank.ts';
import { formChanges, formDifferences } from './differences.ts';

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

  test('rules and checks of the form, by their names', () => {
    const { form: one, id } = addRule(form, { label: 'Large', when: 'quantity_g > 5' });
    const { form: two } = addRule(one, { then: [{ kind: 'hide', field: 'seeds', section: null, hiddenValue: 'own' }] });
    expect(formDifferences(form, two)).toEqual(['rule “Large”: added', 'rule “Rule 2”: added']);
    expect(formDifferences(two, changeRule(two, id, { on: false }))).toEqual(['rule “Large”: changed']);
    expect(formDifferences(two, removeRule(two, id))).toEqual(['rule “Large”: removed']);
    expect(formDifferences(two, moveRule(two, id, 1))).toEqual(['rules in another order']);
    expect(formDifferences(form, { ...form, checks: [{ when: 'TRUE', message: 'x', severity: 'error' }] })).toEqual([
      'checks of the whole form',
    ]);
  });

  test('every setting of a field, a section, a page and the form that is changed is seen, or publishing would not take it', () => {
    const other = (now: unknown): unknown => (typeof now === 'boolean' ? !now : Array.isArray(now) ? [...now, { any: 1 }] : { any: now });
    const seen = (draft: Form): boolean => formDifferences(form, draft).length > 0;
    const [page] = form.pages;
    const [section] = page?.sections ?? [];
    if (!page || !section) throw new Error('no section');
    for (const key of Object.keys(fieldSchema.shape) as (keyof Field)[])
      expect(seen(changeField(form, 'genus', { [key]: other(form.fields.genus?.[key]) })), `field ${key}`).toBe(true);
    for (const key of Object.keys(sectionSchema.shape).filter((k) => k !== 'id' && k !== 'fields') as (keyof Section)[])
      expect(seen(changeSection(form, section.id, { [key]: other(section[key]) })), `section ${key}`).toBe(true);
    for (const key of Object.keys(pageSchema.shape).filter((k) => k !== 'id' && k !== 'sections') as (keyof Page)[])
      expect(seen({ ...form, pages: [{ ...page, [key]: other(page[key]) } as Page] }), `page ${key}`).toBe(true);
    for (const key of ['label', 'parent', 'known', 'maps', 'checks', 'owners', 'red'] as const)
      expect(seen({ ...form, [key]: other(form[key]) } as Form), key).toBe(true);
  });

  test('what stood there and what stands there now is told, down to the setting', () => {
    const source = form.fields.genus?.source as Extract<Field['source'], { kind: 'rows' }>;
    const narrowed = changeField(form, 'genus', { source: { ...source, where: 'choice.family = family AND choice.protected' } });
    expect(formChanges(form, narrowed)).toEqual([
      {
        of: 'Genus',
        what: 'choices',
        changes: [{ at: 'offered when', before: source.where, after: 'choice.family = family AND choice.protected' }],
      },
    ]);
    const asked = changeField(form, 'genus', { required: 'quantity_g > 5' });
    expect(formChanges(form, asked)[0]?.changes).toEqual([
      { at: '', before: form.fields.genus?.required ?? null, after: 'quantity_g > 5' },
    ]);
    const { form: one, id } = addRule(form, {
      label: 'Large',
      when: 'quantity_g > 5',
      then: [{ kind: 'set', field: 'seeds', formula: '1', once: false }],
    });
    const other = changeRule(one, id, { when: 'quantity_g > 6', then: [{ kind: 'set', field: 'seeds', formula: '2', once: false }] });
    expect(formChanges(one, other)).toEqual([
      {
        of: 'rule “Large”',
        what: 'changed',
        changes: [
          { at: 'when', before: 'quantity_g > 5', after: 'quantity_g > 6' },
          { at: 'then 1 formula', before: '1', after: '2' },
        ],
      },
    ]);
  });

  test('of very many changes of one thing some are told, and how many more there are', () => {
    const lines = (value: number) => Array.from({ length: 40 }, (_, i) => ({ keys: [`k${i}`], value }));
    const map = (value: number): Form => ({ ...form, maps: { fees: { label: 'Fees', lines: lines(value) } } });
    const [difference] = formChanges(map(1), map(2));
    expect(difference?.changes).toHaveLength(13);
    expect(difference?.changes.at(-1)?.at).toBe('and 28 more');
  });

  test('undoing a change leaves no difference', () => {
    const there = nudgeField(form, 'family', 1);
    expect(formDifferences(form, nudgeField(there, 'family', -1))).toEqual([]);
  });
});
