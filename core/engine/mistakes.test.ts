import { describe, expect, test } from 'vitest';
import { type Form } from '../form/definition.ts';
import { parseForm } from '../form/schemas.ts';
import { mended } from '../form/mended.ts';
import { LARGE_TABLES, LOT_FIELDS, SEEDBANK_TABLES, lotForm } from '../testing/seedbank.ts';
import { compileDraft } from './mistakes.ts';

/* Every kind of mistake: a form that has it, and the nearest form that does not. */
type Fields = Record<string, object>;
const text = (more: object = {}): object => ({ label: 'Text', type: 'text', column: 'code', ...more });
const number = (more: object = {}): object => ({ label: 'Number', type: 'number', column: 'quantity_g', ...more });
const options = (...values: string[]): object => ({ kind: 'options', options: values.map((value) => ({ value, label: value })) });
const choice = (more: object = {}): object => ({ label: 'Kind', type: 'choice', column: 'status', source: options('dry', 'wet'), ...more });
const link = (key: string, more: object = {}): object => {
  const base = LOT_FIELDS[key] as { source: object };
  return { ...base, source: { ...base.source, fillUp: false, ...more } };
};
const formOf = (fields: Fields, more: object = {}): Form => parseForm({ ...lotForm(fields, Object.keys(fields)), ...more });
const found = (form: Form): string[] => compileDraft(form, SEEDBANK_TABLES).problems.map((p) => `${p.code} ${p.field ?? p.rule ?? ''}`);

interface Case {
  readonly is: readonly [Fields, object?];
  readonly near: readonly [Fields, object?];
  readonly at: string;
}
const CASES: Record<string, Case> = {
  'a list that waits for a field further down': {
    is: [{ species: link('species', { where: 'choice.genus = genus', waiting: 'none' }), genus: link('genus', { where: null }) }],
    near: [{ genus: link('genus', { where: null }), species: link('species', { where: 'choice.genus = genus', waiting: 'none' }) }],
    at: 'driverBelow species',
  },
  'one that offers all while it waits may stand above': {
    is: [{ species: link('species', { where: 'choice.genus = genus', waiting: 'hide' }), genus: link('genus', { where: null }) }],
    near: [{ species: link('species', { where: 'choice.genus = genus', waiting: 'all' }), genus: link('genus', { where: null }) }],
    at: 'driverBelow species',
  },
  'a list that waits for a field nobody sees': {
    is: [
      {
        genus: { ...link('genus', { where: null }), shown: 'FALSE' },
        species: link('species', { where: 'choice.genus = genus', waiting: 'none' }),
      },
    ],
    near: [
      {
        genus: { ...link('genus', { where: null }), shown: 'FALSE', value: { kind: 'default', formula: 'LAST(species).species.genus' } },
        species: link('species', { where: 'choice.genus = genus', waiting: 'none' }),
      },
    ],
    at: 'driverHidden species',
  },
  'required, never shown': {
    is: [{ a: text({ required: 'TRUE', shown: 'FALSE' }) }],
    near: [{ a: text({ required: 'FALSE', shown: 'FALSE' }) }],
    at: 'neverFilled a',
  },
  'required and read-only, without a value': {
    is: [{ a: text({ required: 'TRUE', locked: 'TRUE' }) }],
    near: [{ a: text({ required: 'TRUE', locked: 'TRUE', value: { kind: 'default', formula: '"x"' } }) }],
    at: 'neverFilled a',
  },
  'a check that refuses always': {
    is: [{ a: text({ checks: [{ when: 'TRUE', message: 'No.', severity: 'error' }] }) }],
    near: [{ a: text({ checks: [{ when: 'TRUE', message: 'Mind.', severity: 'warning' }] }) }],
    at: 'alwaysTrue a',
  },
  'a check without a condition': {
    is: [{ a: text({ checks: [{ when: ' ', message: 'No.' }] }) }],
    near: [{ a: text({ checks: [{ when: 'ISBLANK(a)', message: 'No.' }] }) }],
    at: 'emptyFormula a',
  },
  'a default that its list does not offer': {
    is: [{ a: choice({ value: { kind: 'default', formula: 'IF(ISBLANK(b), "damp", "wet")' } }), b: number() }],
    near: [{ a: choice({ value: { kind: 'default', formula: 'IF(ISBLANK(b), "Dry", "wet")' } }), b: number() }],
    at: 'notOffered a',
  },
  'a default that is nearly one with quotation marks in it': {
    is: [{ a: choice({ source: options('"wet"', 'dry'), value: { kind: 'default', formula: '"wet"' } }) }],
    near: [{ a: choice({ source: options('"wet"', 'dry'), value: { kind: 'default', formula: '"""wet"""' } }) }],
    at: 'notOffered a',
  },
  'a choice set to what it does not offer, by another': {
    is: [{ a: choice(), b: number({ spreads: [{ field: 'a', formula: '"wett"', when: null }] }) }],
    near: [{ a: choice(), b: number({ spreads: [{ field: 'a', formula: '"wet"', when: null }] }) }],
    at: 'notOffered b',
  },
  'two that set one value': {
    is: [
      {
        a: text({ spreads: [{ field: 'c', formula: '1', when: null }] }),
        b: number({ spreads: [{ field: 'c', formula: '2', when: null }] }),
        c: number({ column: 'tsw_g' }),
      },
    ],
    near: [
      {
        a: text({ spreads: [{ field: 'c', formula: '1', when: null }] }),
        b: number({ spreads: [{ field: 'c', formula: null, when: null }] }),
        c: number({ column: 'tsw_g' }),
      },
    ],
    at: 'setTwice c',
  },
  'a change and a rule that set one value': {
    is: [
      { a: text({ spreads: [{ field: 'c', formula: '1', when: null }] }), c: number() },
      { rules: [{ id: 'r', label: 'R', opens: true, then: [{ kind: 'set', field: 'c', formula: '2' }] }] },
    ],
    near: [
      { a: text({ spreads: [{ field: 'c', formula: '1', when: null }] }), c: number() },
      { rules: [{ id: 'r', label: 'R', opens: true, then: [{ kind: 'clear', field: 'c' }] }] },
    ],
    at: 'setTwice c',
  },
  'a narrowing that no option meets': {
    is: [{ a: choice({ source: { ...options('dry', 'wet'), where: 'choice.value = "damp"' } }) }],
    near: [{ a: choice({ source: { ...options('dry', 'wet'), where: 'choice.value = "wet"' } }) }],
    at: 'neverTrue a',
  },
  'kept nowhere, and read by nothing': {
    is: [{ a: text({ column: null }), b: number() }],
    near: [{ a: text({ column: null }), b: number({ shown: 'ISBLANK(a)' }) }],
    at: 'unused a',
  },
  'true whatever is beside it': {
    is: [{ a: text(), b: number({ shown: 'TRUE OR ISBLANK(a)' }) }],
    near: [{ a: text(), b: number({ shown: 'ISBLANK(a)' }) }],
    at: 'alwaysTrue b',
  },
  'false whatever is beside it': {
    is: [{ a: text(), b: number({ shown: 'ISBLANK(a) AND FALSE' }) }],
    near: [{ a: text(), b: number({ shown: 'ISBLANK(a) AND ISBLANK(b)' }) }],
    at: 'neverTrue b',
  },
};

describe('mistakes found without running', () => {
  test.each(Object.entries(CASES))('%s', (_, { is, near, at }) => {
    const [has, hasNot] = [formOf(...is), formOf(...near)];
    expect(found(has)).toContain(at);
    expect(found(hasNot)).not.toContain(at);
    const problem = compileDraft(has, SEEDBANK_TABLES).problems.find((p) => `${p.code} ${p.field ?? ''}` === at);
    expect(problem?.severity).toBe('warning');
    // what can be mended by a press is gone once it is pressed, and brings no other
    if (!problem?.mend) return;
    const after = mended(has, problem.mend);
    expect(found(after)).not.toContain(at);
    expect(found(after).length).toBeLessThan(found(has).length);
  });

  test('each says what it is, by the labels of the fields', () => {
    const said = (name: string): string[] => compileDraft(formOf(...CASES[name]!.is), SEEDBANK_TABLES).problems.map((p) => p.message);
    expect(said('a list that waits for a field further down')).toEqual([
      'It offers nothing until Genus is filled, which stands below it: who enters from the top finds an empty list.',
    ]);
    expect(said('required and read-only, without a value')).toEqual([
      'It is required and read-only, and nothing fills it: no new record can be saved.',
    ]);
    expect(said('a default that its list does not offer')).toEqual(['It starts with “damp”, which its list does not offer.']);
    expect(said('a change and a rule that set one value')).toEqual([
      'It is set by a change of Text and by the rule “R”: whichever comes last wins.',
    ]);
  });

  test('what is kept nowhere is not offered a column that another field has', () => {
    const problems = compileDraft(formOf({ a: text({ column: null }), b: text({ column: 'a' }) }), SEEDBANK_TABLES).problems;
    expect(problems.find((p) => p.code === 'unused')).toMatchObject({ field: 'a', mend: null });
  });

  test('a section that is never shown hides what is required in it', () => {
    const form = formOf({ a: text({ required: 'TRUE' }) });
    const hidden = { ...form, pages: form.pages.map((p) => ({ ...p, sections: p.sections.map((s) => ({ ...s, shown: 'FALSE' })) })) };
    expect(compileDraft(hidden, SEEDBANK_TABLES).problems.map((p) => p.message)).toEqual([
      expect.stringMatching(/^It is required, but is never shown, because its section .*nobody can fill it/),
    ]);
  });

  test('a large table that nothing can be looked up by; a small one is in order', () => {
    const form = (where: string) => formOf({ genus: link('genus', { where: null }), species: link('species', { where }) });
    const codes = (where: string, tables = LARGE_TABLES) => compileDraft(form(where), tables).problems.map((p) => p.code);
    expect(codes('choice.storage_c < 0')).toContain('looksThrough');
    expect(codes('choice.storage_c < 0', SEEDBANK_TABLES)).not.toContain('looksThrough');
    expect(codes('choice.genus = genus AND choice.storage_c < 0')).not.toContain('looksThrough');
    // yes and no tell too little apart
    expect(codes('choice.active = TRUE')).toContain('looksThrough');
    expect(codes('choice.name = "Rosa canina"')).not.toContain('looksThrough');
  });
});
