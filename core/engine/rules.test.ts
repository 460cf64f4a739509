import { describe, expect, test } from 'vitest';
import { type Form } from '../form/definition.ts';
import { parseForm } from '../form/schemas.ts';
import { duplicateRule, withShared } from '../form/editRules.ts';
import { ruleContent } from '../form/rules.ts';
import { wordsFormula, wordsWith } from '../form/words.ts';
import { LOT_FIELDS, SEEDBANK_TABLES, openSettled, settleAll } from '../testing/seedbank.ts';
import { compileForm } from './compile.ts';
import type { Entry } from './entry.ts';
import { renameField } from './rename.ts';
import type { Edit } from './state.ts';
import { verify } from './verify.ts';
import { why } from './why.ts';

/* States of sections, pages and lines; words by condition; rules. */

const number = (more: object = {}): object => ({ label: 'N', type: 'number', ...more });
const text = (more: object = {}): object => ({ label: 'T', type: 'text', ...more });
interface Parts {
  fields?: Record<string, object>;
  section?: object;
  page?: object;
  lines?: object;
  lineFields?: Record<string, object>;
  form?: object;
}
/** Two sections: what it depends on stands in the first, the rest in the second; lines in the second. */
function formOf({ fields = {}, section = {}, page = {}, lines, lineFields = {}, form = {} }: Parts): Form {
  const all: Record<string, object> = { a: number({ label: 'A' }), b: number({ label: 'B' }), ...fields };
  const others = Object.keys(all).filter((k) => k !== 'a');
  return parseForm({
    key: 'lot', label: 'Lot', table: 'lots', fields: all,
    pages: [
      { id: 'p1', label: 'One', sections: [{ id: 's1', label: 'First', fields: ['a'] }] },
      { id: 'p2', label: 'Two', ...page, sections: [{ id: 's2', label: 'Second', ...section, fields: [...others, ...(lines ? ['packings'] : [])] }] },
    ],
    lines: lines ? { packings: { label: 'Packings', table: 'packings', link: 'lot', order: 'place', fields: lineFields, columns: Object.keys(lineFields), ...lines } } : {},
    ...form,
  }); // prettier-ignore
}
const planOf = (parts: Parts) => compileForm(formOf(parts), SEEDBANK_TABLES);
/** What is wrong with a form, but that its fields are kept nowhere: these are so on purpose. */
const amiss = (parts: Parts) => planOf(parts).problems.filter((p) => p.code !== 'unused');
function play(entry: Entry, ...edits: Edit[]): Entry {
  for (const edit of edits) {
    entry.apply([edit]);
    settleAll(entry);
  }
  return entry;
}
const set = (field: string, value: number | string, line?: number): Edit => ({
  kind: 'set',
  field,
  value,
  ...(line === undefined ? {} : { line }),
});
const clear = (field: string): Edit => ({ kind: 'clear', field });
const open = (parts: Parts, mode: 'new' | 'edit' = 'new'): Entry => openSettled(planOf(parts), { mode });

describe('running text of a section', () => {
  test('is said there with its values, as they change; it is no check, and may be fixed', () => {
    const entry = open({ section: { text: 'Of {a} in all, {b}.' } });
    const said = (e: Entry): string[] => e.plan.own.flatMap((f) => e.checks(f.key)).filter((c) => c.severity === 'note').map((c) => c.message); // prettier-ignore
    play(entry, set('a', 4), set('b', 2));
    expect(said(entry)).toEqual(['Of 4 in all, 2.']);
    play(entry, set('b', 3));
    expect([said(entry), verify(entry)]).toEqual([['Of 4 in all, 3.'], []]);
    expect(said(open({ section: { text: 'Always the same.' } }))).toEqual(['Always the same.']);
    expect(renameField(planOf({ section: { text: '{b}' } }), 'b', 'bb').pages[1]?.sections[0]?.text).toBe('{bb}');
  });
});

describe('states of what a field stands in', () => {
  test('a section and its page hide, require and lock all that stands in them; the field’s own conditions hold beside', () => {
    const parts = {
      section: { shown: 'a > 1', required: 'a > 2', locked: 'a > 3' },
      page: { shown: 'a < 9' },
      fields: { c: number({ shown: 'a <> 5' }) },
    };
    const entry = open(parts);
    const seen = (): string =>
      ['b', 'c'].map((k) => `${entry.isShown(k) ? 's' : '-'}${entry.isRequired(k) ? 'r' : '-'}${entry.isLocked(k) ? 'l' : '-'}`).join(' ');
    expect(amiss(parts)).toEqual([]);
    const at = [1, 2, 3, 4, 5, 9].map((n) => (play(entry, set('a', n)), seen()));
    expect(at).toEqual(['--- ---', 's-- s--', 'sr- sr-', 'srl srl', 'srl --l', '--l --l']);
    expect(play(entry, set('a', 4)).apply([set('b', 1)]).refused[0]?.message).toBe('B is locked.');
    expect(verify(play(entry, set('a', 3))).map((i) => [i.field, i.code])).toEqual([['b', 'required'], ['c', 'required']]); // prettier-ignore
    expect(verify(play(entry, set('a', 9))), 'what is hidden is not required').toEqual([]);
    const states = why(play(entry, set('a', 9)), 'c').states.find((s) => s.kind === 'shown');
    expect(states?.conditions.map((c) => [c.of.kind, c.of.label, c.text, c.met])).toEqual([
      ['page', 'Two', 'a < 9', false], ['section', 'Second', 'a > 1', true], ['field', 'N', 'a <> 5', true],
    ]); // prettier-ignore
  });

  test('whether hiding empties is said by what hides: by the section, else by each field', () => {
    const fields = { c: number({ hiddenValue: 'clear', shown: 'a <> 7' }) };
    for (const [hiddenValue, expected] of [
      ['own', [1, null]],
      ['keep', [1, 2]],
      ['clear', [null, null]],
    ] as const) {
      const entry = play(open({ fields, section: { shown: 'a < 5', hiddenValue } }), set('a', 1), set('b', 1), set('c', 2), set('a', 6));
      expect([entry.value('b'), entry.value('c')], hiddenValue).toEqual(expected);
    }
    const entry = play(open({ fields, section: { shown: 'a < 9', hiddenValue: 'keep' } }), set('a', 1), set('c', 2), set('a', 9));
    expect(entry.value('c'), 'hidden by the section, which keeps').toBe(2);
    expect(play(entry, set('a', 7)).value('c'), 'hidden by itself, which empties, though it was hidden before').toBeNull();
  });

  test('lines: shown, required, locked; hidden they count and are saved, or not', () => {
    const lineFields = { grams: number({ label: 'Grams', column: 'grams' }) };
    const fields = { sum: number({ label: 'Sum', value: { kind: 'calculation', formula: 'SUM(packings.grams)' } }) };
    const lines = { shown: 'a < 5', required: 'a > 1', locked: 'a > 2', hiddenValue: 'clear' };
    const entry = play(open({ lines, lineFields, fields }), set('a', 2));
    expect(verify(entry).map((i) => i.message)).toEqual(['Packings: at least one line is required.']);
    play(entry, set('packings.grams', 4, -1));
    expect([verify(entry), entry.value('sum')]).toEqual([[], 4]);
    play(entry, set('a', 3));
    expect(entry.apply([{ kind: 'addLine', field: 'packings', line: -2 }]).refused[0]?.message).toBe('Packings cannot be changed here.');
    expect(entry.apply([set('packings.grams', 5, -1)]).refused[0]?.message).toBe('Grams is locked.');
    play(entry, set('a', 6));
    expect([entry.linesShown('packings'), entry.linesEmptied('packings'), entry.value('sum'), verify(entry)]).toEqual([false, true, 0, []]);
    play(entry, set('a', 2));
    expect([entry.linesEmptied('packings'), entry.value('sum')], 'nothing was lost').toEqual([false, 4]);
    const kept = play(
      open({ lines: { ...lines, hiddenValue: 'keep' }, lineFields, fields }),
      set('a', 2),
      set('packings.grams', 4, -1),
      set('a', 6),
    );
    expect([kept.linesEmptied('packings'), kept.value('sum')]).toEqual([false, 4]);
    const circle = planOf({ lines: { shown: 'SUM(packings.grams) < 5', hiddenValue: 'clear' }, lineFields });
    expect(circle.problems.map((p) => p.code)).toContain('cycle');
  });

  test('what hides a section from somebody hides its lines from them too', () => {
    const parts = { section: { shown: 'me.name = "Ida"' }, lines: {}, lineFields: { grams: number({ column: 'grams' }) } };
    const plan = planOf(parts);
    expect(plan.fields.filter((f) => f.isPersonal).map((f) => f.key)).toEqual(['b', 'packings.grams']);
    const entry = openSettled(plan, { me: null });
    expect([entry.isWithheld('b'), entry.isWithheld('packings.grams', -1)]).toEqual([true, true]);
  });
});

describe('words', () => {
  test('fixed, with holes, and by formulas; they follow as one types', () => {
    const fields = {
      c: text({ label: 'C', called: 'C of {a}', hint: { formula: 'IF(a > 3, "large", EMPTY())' }, placeholder: 'type here' }),
      d: text({ label: 'D', hint: 'Say "so" {b}' }),
    };
    const entry = open({ fields });
    expect(entry.words('c')).toEqual({ called: 'C of ', hint: null, placeholder: 'type here' });
    play(entry, set('a', 4), set('b', 2));
    expect(entry.words('c')).toEqual({ called: 'C of 4', hint: 'large', placeholder: 'type here' });
    expect([entry.words('d').hint, entry.words('d').called, entry.words('a')]).toEqual([
      'Say "so" 2',
      'D',
      { called: 'A', hint: null, placeholder: null },
    ]);
  });
  test('a text with holes goes to a formula and back; mistakes are problems at their place', () => {
    const words = 'Say "so" {b}';
    expect(wordsWith(words, wordsFormula(words) ?? '')).toBe(words);
    expect([wordsFormula('plain'), wordsFormula({ formula: '1' })]).toEqual([null, '1']);
    const problems = amiss({ fields: { c: text({ hint: 'a {nothing} here', called: { formula: 'a +' } }) } });
    expect(problems.map((p) => p.part).sort()).toEqual(['called', 'hint']);
  });
  test('checks of a field, a section and the form, their messages with values; renamed with what they name', () => {
    const parts: Parts = {
      fields: {
        c: number({
          checks: [
            { when: 'c > a', message: '{c} is more than {a}', severity: 'warning' },
            { when: 'c > 9', message: { formula: '"nine: " & c' } },
          ],
        }),
      },
      section: { checks: [{ when: 'b > a', message: 'B over A', severity: 'error' }] },
      form: { checks: [{ when: 'a > 100', message: 'All too large: {a}', severity: 'error' }] },
    };
    const entry = play(open(parts), set('a', 1), set('c', 10), set('b', 2));
    expect(entry.checks('c').map((c) => [c.message, c.severity])).toEqual([['10 is more than 1', 'warning'], ['nine: 10', 'error']]); // prettier-ignore
    const said = why(entry, 'c').messages;
    expect(said.map((m) => [m.message, m.severity, m.of.kind, m.conditions.map((c) => c.result)])).toEqual([
      ['10 is more than 1', 'warning', 'field', [true]],
      ['nine: 10', 'error', 'field', [true]],
    ]);
    expect(entry.checks('b').map((c) => [c.message, c.at])).toEqual([['B over A', { kind: 'section', id: 's2' }]]);
    expect(verify(entry).map((i) => i.message)).toEqual(['B over A', 'nine: 10']);
    expect(play(entry, set('a', 101)).checks('a').map((c) => [c.message, c.at.kind])).toEqual([['All too large: 101', 'form']]); // prettier-ignore
    const renamed = renameField(planOf(parts), 'a', 'aa');
    expect(renamed.fields.c?.checks[0]).toEqual({ when: 'c > aa', message: '{c} is more than {aa}', severity: 'warning' });
    expect([renamed.checks[0]?.message, renamed.pages[1]?.sections[0]?.checks[0]?.when]).toEqual(['All too large: {aa}', 'b > aa']);
  });
});

const rule = (more: object): object => ({ id: 'r1', ...more });
describe('rules follow their condition: show, hide, require, lock, say', () => {
  test('each does, and its opposite otherwise; why names the rule', () => {
    const rules = [
      rule({ label: 'Large', when: 'a > 3', then: [{ kind: 'show', field: 'b' }, { kind: 'require', field: 'b' }, { kind: 'message', field: 'b', message: 'as {a} is large' }], otherwise: [{ kind: 'lock', field: 'c' }] }),
      { id: 'r2', when: 'a > 8', then: [{ kind: 'hide', field: 'b', hiddenValue: 'clear' }] },
    ]; // prettier-ignore
    const parts = { fields: { c: number({ label: 'C' }) }, form: { rules } };
    expect(amiss(parts)).toEqual([]);
    const entry = open(parts);
    expect([entry.isShown('b'), entry.isLocked('c')], 'nothing typed yet: the condition does not hold').toEqual([false, true]);
    play(entry, set('a', 4), set('b', 7));
    expect([entry.isShown('b'), entry.isRequired('b'), entry.isLocked('c'), entry.checks('b').map((c) => c.message)]).toEqual([
      true,
      true,
      false,
      ['as 4 is large'],
    ]);
    expect(
      why(entry, 'b')
        .states.find((s) => s.kind === 'required')
        ?.conditions.map((c) => [c.of.label, c.text, c.met]),
    ).toEqual([['Large', 'a > 3', true]]);
    play(entry, set('a', 9));
    expect([entry.isShown('b'), entry.value('b')]).toEqual([false, null]);
    expect(why(entry, 'b').states.find((s) => s.kind === 'shown')?.conditions.map((c) => [c.of.label, c.wants, c.met])).toEqual([['Rule 2', false, false], ['Large', true, true]]); // prettier-ignore
  });
  test('of a section, of a column of lines; on new entries only; off', () => {
    const rules = [
      rule({ when: 'a > 3', then: [{ kind: 'hide', section: 's2' }] }),
      {
        id: 'r2',
        when: 'a = 2',
        then: [
          { kind: 'hide', field: 'packings.grams' },
          { kind: 'lock', field: 'packings' },
        ],
      },
      { id: 'r3', mode: 'new', when: null, then: [{ kind: 'lock', field: 'c' }] },
      { id: 'r4', on: false, when: null, then: [{ kind: 'hide', field: 'c' }] },
    ];
    const parts = { fields: { c: number() }, lines: {}, lineFields: { grams: number({ column: 'grams' }) }, form: { rules } };
    const entry = open(parts);
    expect([entry.isLocked('c'), entry.isShown('c'), open(parts, 'edit').isLocked('c')]).toEqual([true, true, false]);
    play(entry, set('a', 2));
    expect([entry.isShown('packings.grams', -1), entry.linesLocked('packings'), entry.linesShown('packings')]).toEqual([false, true, true]);
    play(entry, set('a', 4));
    expect([entry.isShown('b'), entry.linesShown('packings'), entry.isShown('a')]).toEqual([false, false, true]);
  });
});

describe('rules act on values at their moments', () => {
  test('as the entry opens, when a field changes, before saving; otherwise; once; each at most once a settle', () => {
    const rules = [
      rule({ opens: true, then: [{ kind: 'set', field: 'b', formula: '5' }] }),
      {
        id: 'r2',
        changes: ['a'],
        when: 'a > 3',
        then: [{ kind: 'set', field: 'b', formula: 'a * 2' }],
        otherwise: [{ kind: 'clear', field: 'b' }],
      },
      { id: 'r3', saves: true, then: [{ kind: 'set', field: 'c', formula: 'b + 1', once: true }] },
    ];
    const parts = { fields: { c: number(), d: number({ value: { kind: 'calculation', formula: 'b + 100' } }) }, form: { rules } };
    expect(amiss(parts)).toEqual([]);
    const entry = open(parts);
    expect([entry.value('b'), entry.state('b').origin, entry.value('d')]).toEqual([5, { kind: 'rule', rule: 'r1' }, 105]);
    play(entry, set('a', 4));
    expect([entry.value('b'), entry.value('d')]).toEqual([8, 108]);
    play(entry, set('b', 1));
    expect(entry.state('b').origin.kind, 'typed over: the rule acts again only at its moment').toBe('typed');
    play(entry, set('a', 1));
    expect(entry.value('b')).toBeNull();
    play(entry, set('a', 5));
    entry.beforeSaving();
    expect(entry.value('c')).toBe(11);
    play(entry, set('a', 6));
    entry.beforeSaving();
    expect(entry.value('c'), 'once').toBe(11);
    const told = entry.trace.flatMap((t) => t.changes).filter((c) => c.cell === 'rule').map((c) => [c.field, c.to]); // prettier-ignore
    expect(told).toEqual([['r1', true], ['r2', true], ['r2', false], ['r2', true], ['r3', true], ['r2', true], ['r3', true]]); // prettier-ignore
  });
  test('one sets off the next, through what is computed between them; conditions over lines; lines are added', () => {
    const rules = [
      rule({ changes: ['a'], then: [{ kind: 'set', field: 'b', formula: 'a + 1' }] }),
      { id: 'r2', changes: ['c'], then: [{ kind: 'addLine', lines: 'packings', values: { grams: 'c' } }] },
      { id: 'r3', changes: ['packings.grams'], when: 'SUM(packings.grams) > 10', then: [{ kind: 'set', field: 'e', formula: '"many"' }] },
    ];
    const fields = { c: number({ value: { kind: 'calculation', formula: 'b * 10' } }), e: text() };
    const parts = { fields, lines: { start: 0 }, lineFields: { grams: number({ column: 'grams' }) }, form: { rules } };
    expect(amiss(parts)).toEqual([]);
    const entry = play(open(parts), set('a', 1));
    expect([entry.value('b'), entry.value('c'), entry.lines('packings'), entry.value('packings.grams', -1), entry.value('e')]).toEqual([
      2,
      20,
      [-1],
      20,
      'many',
    ]);
    const server = openSettled(entry.plan);
    for (const e of entry.log) play(server, e);
    expect(server.value('packings.grams', -1)).toBe(20);
  });
  test('not where an entry is only looked at, nor where it is only worked out', () => {
    const plan = planOf({ form: { rules: [rule({ opens: true, then: [{ kind: 'set', field: 'b', formula: '5' }] })] } });
    const values = [{}, { mode: 'view' as const }, { mode: 'edit' as const }, { mode: 'edit' as const, isQuiet: true }];
    expect(values.map((context) => openSettled(plan, context).value('b'))).toEqual([5, null, 5, null]);
  });
  test('what waits for a row acts when it comes', () => {
    const form = {
      rules: [
        rule({
          changes: ['species'],
          when: 'species.storage_c < 0',
          then: [{ kind: 'set', field: 'b', formula: 'species.germination_days' }],
        }),
      ],
    };
    const entry = play(open({ fields: LOT_FIELDS, form }), set('species', 101));
    const state = entry.state('b');
    const fresh = play(open({ fields: LOT_FIELDS, form }), clear('species'), set('species', 101));
    expect(state.value).toBe(fresh.value('b'));
    expect(state.origin.kind === 'rule' || state.value === null).toBe(true);
  });
});

test('a rule that is used in several forms takes the place of the one of its mark, or is added', () => {
  const form = formOf({ form: { rules: [rule({ shared: 'x', on: false })] } });
  const other = { ...formOf({ form: { rules: [{ id: 'r1' }, { id: 'r2' }] } }) };
  const [shared] = withShared(form, { ...form.rules[0]!, when: 'a > 1' }).rules;
  expect([shared?.id, shared?.on, shared?.when], 'whether it is on is each form’s own').toEqual(['r1', false, 'a > 1']);
  const added = withShared(other, form.rules[0]!).rules;
  expect(added.map((r) => [r.id, r.shared])).toEqual([['r1', null], ['r2', null], ['r3', 'x']]); // prettier-ignore
  expect(ruleContent(added[2]!)).toBe(ruleContent(form.rules[0]!));
  expect(duplicateRule(form, 'r1').form.rules.map((r) => r.shared)).toEqual(['x', null]);
});
test('a rule that is off, or whose condition has a mistake, is renamed with the rest', () => {
  const then = [
    { kind: 'set', field: 'b', formula: 'a + 1' },
    { kind: 'message', message: '{a}' },
    { kind: 'addLine', lines: 'packings', values: { grams: 'a' } },
  ];
  const rules = [rule({ on: false, when: 'a > 1', then }), { id: 'r2', when: 'zz > a', then }];
  const form = renameField(planOf({ lines: {}, lineFields: { grams: number() }, form: { rules } }), 'a', 'aa');
  for (const r of form.rules)
    expect(
      r.then.map((e) => (e.kind === 'set' ? e.formula : e.kind === 'message' ? e.message : e.kind === 'addLine' ? e.values.grams : '')),
    ).toEqual(['aa + 1', '{aa}', 'aa']);
  expect(form.rules.map((r) => r.when)).toEqual(['aa > 1', 'zz > aa']);
});
test('a field, a line field and lines are renamed in rules too: conditions, moments, places, values, messages', () => {
  const rules = [
    rule({ changes: ['b', 'packings.grams'], when: 'b > 1', then: [
      { kind: 'hide', field: 'b' }, { kind: 'set', field: 'b', formula: 'a' }, { kind: 'lock', field: 'packings' }, { kind: 'hide', field: 'packings.grams' },
      { kind: 'message', message: '{b} and {a}' }, { kind: 'addLine', lines: 'packings', values: { grams: 'b' } },
    ] }),
  ]; // prettier-ignore
  const parts = { lines: {}, lineFields: { grams: number({ column: 'grams' }) }, form: { rules } };
  const of = (form: Form): unknown => {
    const [r] = form.rules;
    return [
      r?.changes,
      r?.when,
      r?.then.map((e) =>
        e.kind === 'addLine' ? [e.lines, e.values] : e.kind === 'message' ? e.message : e.kind === 'step' ? e.to : e.field,
      ),
    ];
  };
  const plan = planOf(parts);
  expect(of(renameField(plan, 'b', 'bb'))).toEqual([['bb', 'packings.grams'], 'bb > 1', ['bb', 'bb', 'packings', 'packings.grams', '{bb} and {a}', ['packings', { grams: 'bb' }]]]); // prettier-ignore
  expect(of(renameField(plan, 'packings', 'packs'))).toEqual([['b', 'packs.grams'], 'b > 1', ['b', 'b', 'packs', 'packs.grams', '{b} and {a}', ['packs', { grams: 'b' }]]]); // prettier-ignore
  expect(of(renameField(plan, 'packings.grams', 'weight'))).toEqual([['b', 'packings.weight'], 'b > 1', ['b', 'b', 'packings', 'packings.weight', '{b} and {a}', ['packings', { weight: 'b' }]]]); // prettier-ignore
});

describe('what cannot work is found before it runs', () => {
  const problemsOf = (rules: object[], fields: Record<string, object> = {}): string[] =>
    amiss({ fields: { c: number({ label: 'C', value: { kind: 'calculation', formula: 'b + 1' } }), d: number({ label: 'D' }), ...fields }, form: { rules } }).map((p) => `${p.rule ?? p.field ?? ''} ${p.severity}: ${p.message}`); // prettier-ignore
  test.each([
    ['a field that is not there', [rule({ changes: ['zz'], then: [{ kind: 'hide', field: 'yy' }] })], [/acts when “zz” changes/, /speaks of “yy”/]],
    ['a calculation', [rule({ opens: true, then: [{ kind: 'set', field: 'c', formula: '1' }] })], [/C, which is calculated/]],
    ['itself', [rule({ changes: ['b'], then: [{ kind: 'set', field: 'b', formula: 'b + 1' }] })], [/would set itself off again/]],
    ['itself through a calculation', [rule({ changes: ['c'], then: [{ kind: 'set', field: 'b', formula: '1' }] })], [/would set itself off again/]],
    ['two in a circle', [rule({ label: 'X', changes: ['a'], then: [{ kind: 'set', field: 'b', formula: '1' }] }), { id: 'r2', label: 'Y', changes: ['b'], then: [{ kind: 'set', field: 'a', formula: '2' }] }], [/in a circle: .*X|Y/, /in a circle/]],
    ['no moment', [rule({ then: [{ kind: 'set', field: 'b', formula: '1' }] })], [/never acts/]],
    ['two setters', [rule({ opens: true, then: [{ kind: 'set', field: 'b', formula: '1' }] }), { id: 'r2', opens: true, then: [{ kind: 'clear', field: 'b' }] }], [/B is also set by Rule 1/]],
    ['a formula that cannot be read', [rule({ when: 'a >', opens: true, then: [{ kind: 'set', field: 'b', formula: 'zz' }] })], [/r1 error/]],
    ['lines that are not there', [rule({ opens: true, then: [{ kind: 'addLine', lines: 'zz' }] })], [/no such lines/]],
    ['a condition that never holds', [rule({ when: 'a > 3 AND a < 2', then: [{ kind: 'hide', field: 'b' }] })], [/Never true/]],
    ['a state that reads what it hides', [rule({ when: 'b > 3', then: [{ kind: 'hide', field: 'b', hiddenValue: 'clear' }] })], [/wait for each other/]],
  ] as [string, object[], RegExp[]][])('%s', (_, rules, expected) => {
    const found = problemsOf(rules);
    for (const e of expected) expect(found.join('\n')).toMatch(e);
  }); // prettier-ignore
  test('a rule in a circle, or with a mistake, does nothing; one that is off says nothing', () => {
    const circle = [rule({ changes: ['b'], then: [{ kind: 'set', field: 'b', formula: 'b + 1' }] })];
    expect(play(open({ form: { rules: circle } }), set('b', 1)).value('b')).toBe(1);
    const broken = rule({
      when: 'a >',
      opens: true,
      then: [
        { kind: 'set', field: 'b', formula: '1' },
        { kind: 'hide', field: 'b' },
      ],
    });
    const entry = open({ form: { rules: [broken] } });
    expect([entry.value('b'), entry.isShown('b')]).toEqual([null, true]);
    expect(problemsOf([{ ...broken, on: false }])).toEqual([]);
  });
  test('two rules of one name are no form', () => {
    expect(() => formOf({ form: { rules: [rule({}), rule({})] } })).toThrow(/Two rules are named/);
  });
});
