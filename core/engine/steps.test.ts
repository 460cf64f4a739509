import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { type Form } from '../form/definition.ts';
import { parseForm } from '../form/schemas.ts';
import { addMove, addStep, changeMove, changeStep, endSteps, moveStep, removeStep, setAccess, startSteps } from '../form/editSteps.ts';
import { feedSchema } from '../model/schemas.ts';
import { formDifferences } from '../review/differences.ts';
import type { Role } from '../values/roles.ts';
import { SEEDBANK_TABLES, openSettled, settleAll } from '../testing/seedbank.ts';
import { compileForm } from './compile.ts';
import type { Entry } from './entry.ts';
import { renameField } from './rename.ts';
import type { Edit } from './state.ts';
import { verify } from './verify.ts';
import { why } from './why.ts';

/* Steps, the moves between them, and who sees and fills what at which step. */

const LIFE = {
  field: 'status',
  list: [
    { value: 'draft', label: 'Draft' },
    { value: 'checked', label: 'Checked' },
    { value: 'sent', label: 'Sent', ends: true },
  ],
  moves: [
    { id: 'check', label: 'Check', from: ['draft'], to: 'checked', filled: ['grams'], sets: [{ field: 'checked_on', formula: 'TODAY()' }] },
    { id: 'send', label: 'Send', from: ['checked'], to: 'sent', who: { roles: ['reviewer'], teams: ['Lab'] }, when: 'grams > 5' },
    {
      id: 'back',
      label: 'Back to draft',
      from: [],
      to: 'draft',
      who: { roles: ['reviewer'] },
      sets: [{ field: 'checked_on', formula: '' }],
    },
  ],
};
function formOf(more: object = {}): Form {
  return parseForm({
    key: 'lot', label: 'Lot', table: 'lots',
    pages: [
      { id: 'p1', label: 'One', sections: [{ id: 's1', label: 'First', fields: ['status', 'grams'] }, { id: 's2', label: 'Second', fields: ['checked_on', 'note', 'packings'] }] },
    ],
    fields: {
      status: { label: 'Status', type: 'choice', column: 'kind', source: { kind: 'options', options: LIFE.list.map(({ value, label }) => ({ value, label })) }, value: { kind: 'default', formula: '"draft"' } },
      grams: { label: 'Grams', type: 'number' },
      checked_on: { label: 'Checked on', type: 'date' },
      note: { label: 'Note', type: 'text', column: 'note', required: 'TRUE' },
    },
    lines: { packings: { label: 'Packings', table: 'packings', link: 'lot', order: 'place', start: 0, columns: ['grams'], fields: { grams: { label: 'Grams', type: 'number', column: 'grams' } } } },
    steps: LIFE,
    ...more,
  }); // prettier-ignore
}
const planOf = (more: object = {}) => compileForm(formOf(more), SEEDBANK_TABLES);
const open = (more: object = {}, roles: readonly Role[] = ['clerk'], me = 1): Entry => openSettled(planOf(more), { roles, me });
function play(entry: Entry, ...edits: Edit[]): Entry {
  for (const edit of edits) {
    entry.apply([edit]);
    settleAll(entry);
  }
  return entry;
}
const set = (field: string, value: number | string): Edit => ({ kind: 'set', field, value });
const move = (id: string): Edit => ({ kind: 'move', field: 'status', move: id });
const moves = (entry: Entry): [string, string | null][] => entry.movesNow.map((m) => [m.move.id, m.problem]);
const problemsOf = (more: object): string[] =>
  planOf(more).problems.filter((p) => p.steps || p.rule).map((p) => `${p.severity}: ${p.message}`); // prettier-ignore

describe('moves', () => {
  test('lead on from where the record stands, say what is missing, set what they set, and can be taken back', () => {
    const entry = open();
    expect(entry.step?.value).toBe('draft');
    expect(moves(entry)).toEqual([['check', 'First fill Grams.']]);
    expect(entry.apply([move('check')]).refused[0]?.message).toBe('Check is not possible yet. First fill Grams.');
    play(entry, set('grams', 3), move('check'));
    expect(entry.value('status')).toBe('checked');
    expect(entry.value('checked_on')).toBe('2026-03-10');
    expect(entry.state('checked_on').origin).toEqual({ kind: 'move', move: 'check' });
    expect(entry.movesMade.map((m) => [m.move.id, m.from.value, m.to.value])).toEqual([['check', 'draft', 'checked']]);
    play(entry, { kind: 'unmove', field: 'status' });
    expect([entry.value('status'), entry.value('checked_on'), entry.movesMade.length]).toEqual(['draft', null, 0]);
    expect(entry.state('status').origin.kind).toBe('default');
  });
  test('what was typed after a move stays when it is taken back', () => {
    const entry = play(open(), set('grams', 3), move('check'), set('checked_on', '2026-01-01'), { kind: 'unmove', field: 'status' });
    expect([entry.value('status'), entry.value('checked_on')]).toEqual(['draft', '2026-01-01']);
  });
  test('are not offered to whom they do not belong, by role or by team, and refused from them', () => {
    const clerk = play(open(), set('grams', 9), move('check'));
    expect(moves(clerk)).toEqual([]);
    expect(clerk.apply([move('send')]).refused[0]?.message).toBe('Send is not yours to make.');
    const lab = play(open({}, ['clerk'], 2), set('grams', 9), move('check'));
    expect(moves(lab)).toEqual([['send', null]]);
    const reviewer = play(open({}, ['reviewer']), set('grams', 2), move('check'));
    expect(moves(reviewer)).toEqual([['send', 'Its condition does not hold.'], ['back', null]]); // prettier-ignore
    expect(reviewer.apply([move('send')]).refused[0]?.message).toContain('Its condition does not hold.');
    play(reviewer, set('grams', 6), move('send'));
    expect(reviewer.step?.label).toBe('Sent');
  });
  test('the step is moved, never typed; a move of another form, or of nowhere, is refused', () => {
    const entry = open();
    for (const edit of [set('status', 'sent'), { kind: 'clear', field: 'status' }, { kind: 'takeSuggestion', field: 'status' }] as Edit[])
      expect(entry.apply([edit]).refused[0]?.message).toBe('Status holds the step: it is moved, not typed.');
    expect(entry.apply([move('none')]).refused[0]?.message).toBe('There is no such move.');
    expect(entry.apply([move('send')]).refused[0]?.message).toBe('Send is not possible at the step Draft.');
    expect(entry.apply([{ ...move('check'), field: 'grams' }]).refused).toHaveLength(1);
    expect(entry.apply([{ kind: 'unmove', field: 'status' }]).refused).toHaveLength(1);
    expect(entry.isLocked('status')).toBe(true);
    expect(verify(play(entry, set('note', 'x')))).toEqual([]);
  });
  test('what a move asked for must still be filled when the record is saved', () => {
    const entry = play(open(), set('note', 'x'), set('grams', 9), move('check'), { kind: 'clear', field: 'grams' });
    expect(verify(entry).map((i) => [i.field, i.message])).toEqual([['grams', 'Grams must be filled: Check.']]);
  });
  test('a record without a step stands at the first', () => {
    const plan = planOf();
    const entry = openSettled(plan, { mode: 'edit', roles: ['clerk'] }, { values: { kind: null }, origins: {} });
    expect(entry.step?.value).toBe('draft');
    entry.beforeSaving();
    expect(entry.value('status')).toBe('draft');
    play(entry, set('grams', 4), move('check'));
    expect(entry.value('status')).toBe('checked');
  });
  test('what is filled at the first step is filled in a record without a step', () => {
    const plan = planOf({
      access: [
        { place: 'note', filled: [{ steps: ['draft'] }] },
        { place: 'grams', filled: [{ steps: ['sent'] }] },
      ],
    });
    const entry = openSettled(plan, { mode: 'edit', roles: ['clerk'] }, { values: { kind: null }, origins: {} });
    expect([entry.isLocked('note'), entry.isLocked('grams')]).toEqual([false, true]);
  });
  test('lines can be asked for, and a step that is reached is a moment of rules; a rule moves too, whoever is signed in', () => {
    const life = { ...LIFE, moves: [{ ...LIFE.moves[0], filled: ['packings'] }, ...LIFE.moves.slice(1)] };
    const rules = [
      { id: 'r1', reaches: ['checked'], then: [{ kind: 'set', field: 'note', formula: '"seen"' }] },
      { id: 'r2', changes: ['grams'], when: 'grams > 100', then: [{ kind: 'step', to: 'sent' }] },
    ];
    const entry = open({ steps: life, rules });
    expect(moves(entry)).toEqual([['check', 'First fill Packings.']]);
    play(entry, { kind: 'addLine', field: 'packings', line: -1 }, { kind: 'set', field: 'packings.grams', line: -1, value: 2 });
    play(entry, move('check'));
    expect(entry.value('note')).toBe('seen');
    play(entry, set('grams', 101));
    expect([entry.step?.value, entry.state('status').origin.kind]).toEqual(['sent', 'rule']);
    expect(entry.plan.problems.filter((p) => p.severity === 'error')).toEqual([]);
  });
});

describe('who sees and fills what, at which step', () => {
  const lab = { roles: [], teams: ['Lab'] };
  const access = [
    { place: '@s2', seen: [{ who: lab }, { who: { roles: ['reviewer'] }, steps: ['checked', 'sent'] }] },
    { place: 'grams', filled: [{ steps: ['draft'] }] },
  ];
  test('a section is hidden from others, with its lines and its required fields; the why names whose doing it is', () => {
    const clerk = open({ access });
    expect([clerk.isShown('note'), clerk.isWithheld('note'), clerk.linesShown('packings')]).toEqual([false, true, false]);
    expect(verify(clerk)).toEqual([]);
    expect(clerk.apply([set('note', 'x')]).refused[0]?.message).toContain('not shown to you');
    expect(why(clerk, 'note').states[0]?.conditions.map((c) => c.of.kind)).toContain('access');
    const ofLab = open({ access }, ['clerk'], 2);
    expect([ofLab.isShown('note'), ofLab.isRequired('note')]).toEqual([true, true]);
  });
  test('at a step that is not theirs it is hidden from reviewers, and shown at theirs', () => {
    const entry = open({ access }, ['reviewer']);
    expect(entry.isWithheld('note')).toBe(true);
    play(entry, set('grams', 1), move('check'));
    expect([entry.isShown('note'), entry.isWithheld('note')]).toEqual([true, false]);
  });
  test('a field is filled at its step alone; elsewhere it is locked, refused, and not required', () => {
    const entry = play(open({ access }, ['clerk'], 2), set('grams', 2), move('check'));
    expect(entry.isLocked('grams')).toBe(true);
    expect(entry.apply([set('grams', 3)]).refused[0]?.message).toBe('Grams is locked.');
    const required = { fields: { ...formOf().fields, note: { label: 'Note', type: 'text', required: 'TRUE' } } };
    const others = open({ ...required, access: [{ place: 'note', filled: [{ who: lab }] }] });
    expect([others.isLocked('note'), others.isRequired('note'), verify(others).length]).toEqual([true, false, 0]);
    expect(verify(open({ ...required, access: [{ place: 'note', filled: [{ who: lab }] }] }, ['clerk'], 2)).map((i) => i.field)).toEqual(['note']); // prettier-ignore
  });
  test('every role at every step: what is filled is what the grants say, whatever they are', () => {
    const roles = ['clerk', 'reviewer', 'designer'] as const;
    const grant = fc.record({ who: fc.record({ roles: fc.subarray([...roles]), teams: fc.subarray(['Lab', 'Field']) }), steps: fc.subarray(['draft', 'checked', 'sent']) }); // prettier-ignore
    fc.assert(
      fc.property(fc.array(grant, { maxLength: 3 }), fc.array(grant, { maxLength: 3 }), (seen, filled) => {
        const plan = planOf({ access: [{ place: 'note', seen, filled }] });
        for (const role of roles)
          for (const [me, team] of [
            [1, 'Field'],
            [2, 'Lab'],
          ] as const)
            // prettier-ignore
            for (const { value: status } of LIFE.list) {
              const entry = openSettled(plan, { mode: 'edit', roles: [role], me }, { values: { kind: status, note: null }, origins: {} });
              const holds = (grants: typeof seen): boolean =>
                !grants.length ||
                grants.some(
                  (g) =>
                    ((!g.who.roles.length && !g.who.teams.length) || g.who.roles.includes(role) || g.who.teams.includes(team)) &&
                    (!g.steps.length || g.steps.includes(status)),
                );
              expect(entry.isShown('note')).toBe(holds(seen));
              expect(entry.isLocked('note')).toBe(!holds(filled));
            }
      }),
      { numRuns: 150 },
    );
  });
});

describe('what cannot work is found before running', () => {
  test.each<[string, object, string]>([
    ['a field that is not there', { steps: { ...LIFE, field: 'gone' } }, 'error: The step is kept in “gone”'],
    ['a number that holds it', { steps: { ...LIFE, field: 'grams' } }, 'error: The step is kept in Grams, which must be a choice'],
    ['nobody can leave a step', { steps: { ...LIFE, list: LIFE.list.map((s) => ({ ...s, ends: false })), moves: LIFE.moves.slice(0, 2) } }, 'error: Nobody can leave the step Sent'],
    ['no record comes to a step', { steps: { ...LIFE, moves: [LIFE.moves[0], LIFE.moves[2]] } }, 'warning: No moves lead from Draft to the step Sent'],
    ['a step that is none of the choices', { steps: { ...LIFE, list: [...LIFE.list, { value: 'x', label: 'X', ends: true }] } }, 'error: The step X is none of the choices of Status'],
    ['a move to nowhere', { steps: { ...LIFE, moves: [...LIFE.moves, { id: 'x', label: 'Go', to: 'nowhere' }] } }, 'error: Go speaks of the step “nowhere”'],
    ['a field asked for that is not there', { steps: { ...LIFE, moves: [{ ...LIFE.moves[0], filled: ['gone'] }, ...LIFE.moves.slice(1)] } }, 'error: Check asks that “gone” is filled'],
    ['a condition with a mistake', { steps: { ...LIFE, moves: [{ ...LIFE.moves[0], when: 'gone > 1' }, ...LIFE.moves.slice(1)] } }, 'error: Check: There is no field or name “gone” here.'],
    ['a rule that moves to nowhere', { rules: [{ id: 'r', changes: ['grams'], then: [{ kind: 'step', to: 'x' }] }] }, 'error: Rule 1 moves to the step “x”'],
    ['a rule that moves and acts on it', { rules: [{ id: 'r', reaches: ['sent'], then: [{ kind: 'step', to: 'sent' }] }] }, 'error: Rule 1 would set itself off again'],
    ['rules that move in a circle', { rules: [{ id: 'r', reaches: ['sent'], then: [{ kind: 'step', to: 'draft' }] }, { id: 'q', reaches: ['draft'], then: [{ kind: 'step', to: 'sent' }] }] }, 'error: These rules set each other off in a circle'],
    ['a place that is not there', { access: [{ place: '@gone', seen: [{ steps: ['draft'] }] }] }, 'error: Who sees and fills “gone” is said, but this form has no such section.'],
    ['a step of access that is not there', { access: [{ place: 'note', seen: [{ steps: ['gone'] }] }] }, 'error: Who sees and fills note speaks of the step “gone”'],
  ])('%s', (_, more, expected) => {
    expect(problemsOf(more).join('\n')).toContain(expected);
  }); // prettier-ignore
  test('a move that asks a feed: no save waits for that', () => {
    const feed = feedSchema.parse({ key: 'weather', label: 'Weather', url: 'https://example.org/', params: [], attributes: [{ key: 'rain', label: 'Rain', type: 'number', path: 'rain' }] }); // prettier-ignore
    const steps = { ...LIFE, moves: [{ ...LIFE.moves[0], when: 'FEED(weather).rain > 1' }, ...LIFE.moves.slice(1)] };
    const { problems } = compileForm(formOf({ steps }), SEEDBANK_TABLES, new Map(), new Map([['weather', feed]]));
    expect(problems.filter((p) => p.severity === 'error').map((p) => p.message)).toEqual([
      'Check asks a feed. Let a field ask it, and let the move ask the field.',
    ]);
  });
  test('a life that works has no problem', () => expect(problemsOf({})).toEqual([]));
});

describe('steps while a form is built', () => {
  const bare = parseForm({ ...formOf(), steps: null });
  test('the choices of the field that holds them follow, and so does its default', () => {
    const begun = startSteps(bare, 'status');
    expect(begun.steps?.list.map((s) => s.label)).toEqual(['Draft', 'Checked', 'Sent']);
    const more = addStep(begun, 'Thrown away');
    const options = (f: Form) => (f.fields.status?.source?.kind === 'options' ? f.fields.status.source.options.map((o) => o.label) : []);
    expect(options(more)).toEqual(['Draft', 'Checked', 'Sent', 'Thrown away']);
    expect(options(changeStep(more, 'sent', { label: 'Posted' }))).toEqual(['Draft', 'Checked', 'Posted', 'Thrown away']);
    expect(moveStep(more, 'checked', 0).fields.status?.value?.formula).toBe('"checked"');
    const fewer = removeStep(more, 'checked');
    expect(fewer.steps?.moves.map((m) => [m.from, m.to])).toEqual([]);
    expect(endSteps(more).steps).toBeNull();
  });
  test('a new field holds them where none is named; a grant for a step that is removed is a problem, and nobody sees more', () => {
    const begun = startSteps(bare, null);
    expect([begun.steps?.field, begun.fields.step?.type, begun.fields.step?.value?.formula]).toEqual(['step', 'choice', '"draft"']);
    expect(compileForm(begun, SEEDBANK_TABLES).problems.filter((p) => p.severity === 'error')).toEqual([]);
    const { form, id } = addMove(begun, 'done', 'draft', 'Reopen');
    expect(changeMove(form, id, { label: 'Again' }).steps?.moves.map((m) => m.label)).toEqual(['Done', 'Again']);
    const asked = setAccess(form, 'note', { seen: [{ who: { roles: ['reviewer'], teams: [] }, steps: ['done'] }] });
    const gone = compileForm(removeStep(asked, 'done'), SEEDBANK_TABLES).problems.filter(
      (p) => p.severity === 'error' && p.message.includes('sees'),
    );
    expect(gone.map((p) => p.message)).toEqual(['Who sees and fills note speaks of the step “done”, which this form does not have.']);
    expect(setAccess(asked, 'note', { seen: [] }).access).toEqual([]);
  });
  test('a field that is renamed is renamed in steps, moves and access; publishing sees every change', () => {
    const form = formOf({
      access: [
        { place: 'grams', filled: [{ steps: ['draft'] }] },
        { place: 'packings.grams', seen: [{ steps: ['draft'] }] },
      ],
    });
    const renamed = renameField(compileForm(form, SEEDBANK_TABLES), 'grams', 'weight');
    expect(renamed.steps?.moves[0]?.filled).toEqual(['weight']);
    expect(renamed.steps?.moves[1]?.when).toBe('weight > 5');
    expect(renamed.access.map((a) => a.place)).toEqual(['weight', 'packings.grams']);
    const other = renameField(compileForm(form, SEEDBANK_TABLES), 'status', 'step');
    expect([other.steps?.field, compileForm(other, SEEDBANK_TABLES).problems.filter((p) => p.severity === 'error')]).toEqual(['step', []]);
    expect(formDifferences(form, changeStep(form, 'sent', { label: 'Posted' }))).toContain('step “Posted”: changed');
    expect(formDifferences(form, changeMove(form, 'send', { when: null }))).toEqual(['move “Send”: changed']);
    expect(formDifferences(form, setAccess(form, '@s2', { seen: [{ who: { roles: [], teams: ['Lab'] }, steps: [] }] }))).toEqual(['who sees and fills Second: added']); // prettier-ignore
    expect(formDifferences(form, { ...form, steps: null })).toContain('steps: removed');
  });
});
