import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { LOT_FIELDS, lotForm } from '../testing/seedbank.ts';
import { type Form, fieldOrder } from './definition.ts';
import { formSchema, newForm, parseForm } from './schemas.ts';
import {
  addField,
  addPage,
  addSection,
  moveToPage,
  nudgePage,
  removePage,
  changeField,
  changeSection,
  changeType,
  moveField,
  nudgeField,
  nudgeSection,
  placeOf,
  removeField,
  removeSection,
} from './edit.ts';
import { keyFromLabel, keyProblem } from '../model/tables.ts';

const valid = (form: Form): Form => {
  expect(formSchema.safeParse(form).error?.issues ?? []).toEqual([]);
  return form;
};
const twoSections = (): Form => {
  const { form, id } = addSection(lotForm(), 's1', 'More');
  return valid(moveField(form, 'collector', id, 0));
};

describe('changing a form', () => {
  test('a field is added with a key of its own and a column of the same name', () => {
    const first = addField(newForm('f', 'F', 'lots'), 's1', 'Weight of 1000 seeds, g', 'number');
    const second = addField(first.form, 's1', 'Weight of 1000 seeds, g', 'number');
    expect([first.key, second.key]).toEqual(['weight_of_1000_seeds_g', 'weight_of_1000_seeds_g_2']);
    expect(valid(second.form).fields[second.key]).toMatchObject({ column: second.key, type: 'number', source: null });
    expect(() => addField(first.form, 'nosuch', 'x', 'text')).toThrow(RangeError);
  });

  test('removing takes it out of fields and section and shares the rest', () => {
    const before = lotForm();
    const after = valid(removeField(before, 'seeds'));
    expect(fieldOrder(after)).not.toContain('seeds');
    expect(after.fields.genus).toBe(before.fields.genus);
    expect(before.fields.seeds).toBeDefined();
  });

  test('another type drops what it cannot keep', () => {
    const form = lotForm();
    expect(changeType(form, 'genus', 'text', false).fields.genus).toMatchObject({ type: 'text', source: null, column: null });
    expect(changeType(form, 'quantity_g', 'choice', false).fields.quantity_g?.source).toMatchObject({ kind: 'options', options: [] });
    expect(changeType(form, 'quantity_g', 'person', true).fields.quantity_g?.source).toMatchObject({ table: 'people' });
    expect(changeType(form, 'genus', 'link', true)).toBe(form);
  });

  test('moving by place and by step, across sections', () => {
    const form = twoSections();
    expect(placeOf(form, 'collector')?.section.label).toBe('More');
    const up = valid(nudgeField(form, 'collector', -1));
    expect(placeOf(up, 'collector')).toMatchObject({ section: { id: 's1' }, index: fieldOrder(up).length - 1 });
    expect(placeOf(nudgeField(up, 'collector', 1), 'collector')?.section.label).toBe('More');
    expect(nudgeField(form, 'family', -1)).toBe(form);
    expect(fieldOrder(nudgeField(form, 'family', 1)).slice(0, 2)).toEqual(['genus', 'family']);
  });

  test('sections are added, renamed, moved and removed; their fields stay', () => {
    const form = twoSections();
    const [first, second] = form.pages[0]!.sections;
    expect(valid(nudgeSection(form, second!.id, -1)).pages[0]!.sections[0]!.id).toBe(second!.id);
    expect(changeSection(form, first!.id, { label: 'Plant' }).pages[0]!.sections[0]!.label).toBe('Plant');
    const merged = valid(removeSection(form, second!.id));
    expect(merged.pages[0]!.sections).toHaveLength(1);
    expect(fieldOrder(merged).at(-1)).toBe('collector');
    expect(removeSection(merged, 's1')).toBe(merged);
  });

  test('any sequence of changes leaves a valid form with every field placed once', () => {
    const keys = Object.keys(LOT_FIELDS);
    const step = fc.oneof(
      fc.tuple(fc.constantFrom(...keys), fc.nat(12), fc.boolean()).map(
        ([k, i, far]) =>
          (f: Form) =>
            moveField(f, k, f.pages[0]!.sections[far ? f.pages[0]!.sections.length - 1 : 0]!.id, i),
      ),
      fc.tuple(fc.constantFrom(...keys), fc.constantFrom<-1 | 1>(-1, 1)).map(
        ([k, by]) =>
          (f: Form) =>
            nudgeField(f, k, by),
      ),
      fc.constantFrom(...keys).map((k) => (f: Form) => (f.fields[k] ? changeField(f, k, { hint: 'x' }) : f)),
      fc.constant((f: Form) => addSection(f, f.pages[0]!.sections[0]!.id, 'More').form),
      fc.constant((f: Form) => addPage(f, f.pages[0]!.id, 'Further').form),
      fc.constant((f: Form) => removePage(f, f.pages.at(-1)!.id)),
      fc.constant((f: Form) => nudgePage(f, f.pages[0]!.id, 1)),
      fc.constant((f: Form) => moveToPage(f, f.pages[0]!.sections[0]!.id, f.pages.at(-1)!.id)),
      fc.constant((f: Form) => removeSection(f, f.pages[0]!.sections.at(-1)!.id)),
      fc.constantFrom('seeds', 'tsw_g').map((k) => (f: Form) => removeField(f, k)),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 15 }), (steps) => {
        const form = steps.reduce((f, change) => change(f), lotForm());
        valid(form);
        expect(new Set(fieldOrder(form))).toEqual(new Set(Object.keys(form.fields)));
      }),
    );
  });
});

describe('names and definitions', () => {
  test('keys from labels in any script can be written in formulas', () => {
    expect(keyFromLabel('Größe (mm)')).toBe('grosse_mm');
    expect(keyFromLabel('1000 seeds')).toBe('f_1000_seeds');
    expect(keyFromLabel('Me')).toBe('me_1');
    expect(keyFromLabel('重さ')).toBe('f');
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), fc.array(fc.string()), (label, taken) => {
        const key = keyFromLabel(label, taken);
        expect(keyProblem(key)).toBe(null);
        expect(taken).not.toContain(key);
      }),
    );
  });

  test('a definition says what is wrong with it', () => {
    const messages = (input: unknown): string[] => formSchema.safeParse(input).error?.issues.map((i) => i.message) ?? [];
    const base = JSON.parse(JSON.stringify(lotForm())) as Form;
    expect(messages({ ...base, pages: [{ id: 'p', label: '', sections: [] }] })[0]).toMatch(/is in no section/);
    expect(messages({ ...base, fields: {} })[0]).toMatch(/names a field “family” that the form does not have/);
    const twice = JSON.parse(JSON.stringify(base)) as Form;
    twice.pages[0]!.sections[0]!.fields.push('genus');
    expect(messages(twice)).toContain('The field “genus” is placed twice.');
    expect(parseForm(base)).toEqual(base);
  });
});
