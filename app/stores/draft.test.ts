import { createPinia, setActivePinia } from 'pinia';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import type { Want } from '../../core/engine/wants.ts';
import { addField, changeField, removeField } from '../../core/form/edit.ts';
import { SEEDBANK, answer, lotForm } from '../../core/testing/seedbank.ts';
import { later, standInServer } from '../testing/server';
import { useDraft } from './draft';
import { useTryout } from './tryout';

const CONTEXT = { today: '2026-03-10', now: '2026-03-10T09:00:00', me: 1 };
const draftAnswer = (revision = 4, form: object = lotForm()) => ({
  body: {
    draft: form,
    revision,
    version: null,
    published: null,
    tables: SEEDBANK,
    lists: [],
    feeds: [],
    context: CONTEXT,
    answered: [],
    accounts: [],
    owned: [],
  },
});
/** The server of a form being built; `put` says what a save comes to. */
function serve(put: () => ReturnType<Parameters<typeof standInServer>[0]> = () => ({ body: { revision: 5 } }), form?: object) {
  let revision = 4;
  return standInServer((sent) => {
    if (sent.path.endsWith('/wants')) return { body: answer((sent.body as { wants: Want[] }).wants) };
    if (sent.method === 'PUT') return put();
    if (sent.path.endsWith('/publish')) return { body: { version: 1 } };
    return draftAnswer(revision++, form);
  });
}
const quiet = (ms = 600): Promise<unknown> => vi.advanceTimersByTimeAsync(ms);
const saves = (server: ReturnType<typeof serve>) => server.sent.filter((s) => s.method === 'PUT');

beforeEach(() => {
  setActivePinia(createPinia());
  vi.useFakeTimers();
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe('a form being built', () => {
  test('is compiled with every change, saved once for several, and undone step by step', async () => {
    const server = serve();
    const draft = useDraft();
    await draft.open('lot');
    expect(draft.plan?.fields.map((f) => f.key)).toContain('species');
    const before = draft.form!;
    const { form, key } = addField(before, before.pages[0]!.sections[0]!.id, 'Remark', 'text');
    draft.change(form);
    expect(draft.plan?.slots.has(key)).toBe(true);
    draft.change(changeField(draft.form!, key, { hint: 'Anything else' }));
    expect([draft.saving, draft.canUndo, draft.past.length]).toEqual(['waiting', true, 2]);
    await quiet();
    expect(saves(server)).toHaveLength(1);
    expect(saves(server)[0]?.body).toMatchObject({ revision: 4, draft: { fields: { [key]: { hint: 'Anything else' } } } });
    expect(draft.saving).toBe('saved');
    draft.undo();
    draft.undo();
    expect(draft.form).toBe(before);
    expect(draft.plan?.slots.has(key)).toBe(false);
    draft.redo();
    expect(draft.plan?.slots.has(key)).toBe(true);
    await quiet();
    expect(saves(server).at(-1)?.body).toMatchObject({ revision: 5 });
  });

  test('a change that changes nothing is none', async () => {
    const server = serve();
    const draft = useDraft();
    await draft.open('lot');
    draft.change({ ...draft.form! });
    draft.change(null);
    await quiet();
    expect([draft.canUndo, saves(server)]).toEqual([false, []]);
  });

  test('the field that is selected goes with it when it is removed', async () => {
    serve();
    const draft = useDraft();
    await draft.open('lot');
    draft.selected = 'seeds';
    draft.change(removeField(draft.form!, 'seeds'));
    expect(draft.selected).toBeNull();
  });

  test('somebody else saved first: what stands here stays to be looked at, and theirs is read when asked for', async () => {
    const server = serve(() => ({ status: 409, body: { code: 'changedMeanwhile', message: 'Somebody else saved this form.' } }));
    const draft = useDraft();
    await draft.open('lot');
    const mine = changeField(draft.form!, 'seeds', { hint: 'mine' });
    draft.change(mine);
    await quiet();
    expect([draft.conflict, draft.form?.fields.seeds?.hint]).toEqual([true, 'mine']);
    draft.change(changeField(draft.form!, 'seeds', { hint: 'mine again' }));
    await quiet();
    expect(saves(server)).toHaveLength(1);
    await draft.open('lot');
    expect([draft.conflict, draft.form?.fields.seeds?.hint, draft.canUndo]).toEqual([false, null, false]);
  });

  test('come back to as it was left, it can still be undone', async () => {
    const server = standInServer((sent) => {
      if (sent.path.endsWith('/wants')) return { body: answer((sent.body as { wants: Want[] }).wants) };
      return sent.method === 'PUT' ? { body: { revision: 9 } } : draftAnswer(server.sent.some((s) => s.method === 'PUT') ? 9 : 4);
    });
    const draft = useDraft();
    await draft.open('lot');
    draft.change(changeField(draft.form!, 'seeds', { hint: 'left' }));
    await quiet();
    // another place was visited meanwhile, and nobody saved
    await draft.open('lot');
    expect([draft.form?.fields.seeds?.hint, draft.canUndo]).toEqual(['left', true]);
    draft.undo();
    expect(draft.form?.fields.seeds?.hint).toBeNull();
  });

  test('another screen of the same form, opened right after a change, has that change: it is saved before anything is read', async () => {
    const server = standInServer((sent) => {
      if (sent.path.endsWith('/wants')) return { body: answer((sent.body as { wants: Want[] }).wants) };
      return sent.method === 'PUT' ? { body: { revision: 9 } } : draftAnswer(server.sent.some((s) => s.method === 'PUT') ? 9 : 4);
    });
    const draft = useDraft();
    await draft.open('lot');
    draft.change(changeField(draft.form!, 'seeds', { hint: 'a moment ago' }));
    await draft.open('lot');
    expect([draft.form?.fields.seeds?.hint, draft.canUndo, draft.saving]).toEqual(['a moment ago', true, 'saved']);
    expect(saves(server)).toHaveLength(1);
  });

  test('one that cannot be read says why, and can be tried again', async () => {
    let broken = true;
    standInServer(() => (broken ? { status: 500, body: { code: 'failed', message: 'It could not be read.' } } : draftAnswer()));
    const draft = useDraft();
    await draft.open('lot');
    expect([draft.failed, draft.form]).toEqual(['It could not be read.', null]);
    broken = false;
    await draft.open('lot');
    expect([draft.failed, draft.form?.label]).toEqual(['', 'Lot intake']);
  });

  test('opened one after the other, the answer to the first that comes late is not taken for the second', async () => {
    const first = later<{ body: object }>();
    standInServer((sent) => (sent.path.startsWith('forms/slow/') ? first.answer : sent.path.endsWith('/wants') ? { body: [] } : draftAnswer(1, { ...lotForm(), label: 'Quick' }))); // prettier-ignore
    const draft = useDraft();
    const slow = draft.open('slow');
    await draft.open('quick');
    first.give(draftAnswer(7, { ...lotForm(), label: 'Slow' }));
    await slow;
    expect([draft.formKey, draft.form?.label]).toEqual(['quick', 'Quick']);
  });
});

describe('the form being tried', () => {
  test('what was tried is played again on every change, and what no longer fits is left out', async () => {
    serve();
    const [draft, tryout] = [useDraft(), useTryout()];
    await draft.open('lot');
    await quiet(0);
    tryout.host.set('quantity_g', 12);
    tryout.host.set('tsw_g', 3);
    expect(tryout.host.view('seeds').value).toBe(4000);
    draft.change(changeField(draft.form!, 'seeds', { value: { ...draft.form!.fields.seeds!.value!, formula: 'quantity_g * 2' } }));
    expect(tryout.host.view('seeds').value).toBe(24);
    draft.change(removeField(draft.form!, 'tsw_g'));
    expect(tryout.host.view('quantity_g').value).toBe(12);
    draft.undo();
    expect(tryout.host.view('tsw_g').value).toBe(null);
    tryout.startOver();
    expect(tryout.host.view('quantity_g').value).toBe(null);
  });

  test('as another person: what the form says of me follows', async () => {
    serve();
    const [draft, tryout] = [useDraft(), useTryout()];
    await draft.open('lot');
    await quiet(0);
    expect(tryout.host.view('collector').value).toBe(1);
    tryout.tryAs(2);
    expect(tryout.host.view('collector').value).toBe(2);
  });

  test('what the server narrows is asked for only after the draft is saved', async () => {
    const saved = later<{ body: object }>();
    const server = serve(() => saved.answer);
    const [draft, tryout] = [useDraft(), useTryout()];
    await draft.open('lot');
    await quiet(0);
    const asked = server.sent.length;
    draft.change(changeField(draft.form!, 'seeds', { hint: 'x' }));
    const page = tryout.host.page('species', 'que', 0, 10);
    await quiet(0);
    expect(server.sent.slice(asked).map((s) => s.method)).toEqual(['PUT']);
    saved.give({ body: { revision: 5 } });
    await quiet(0);
    await page;
    expect(server.sent.slice(asked).map((s) => s.path)).toEqual(['forms/lot/draft', 'forms/lot/wants']);
  });

  test('another form is tried from the start', async () => {
    serve();
    const [draft, tryout] = [useDraft(), useTryout()];
    await draft.open('lot');
    await quiet(0);
    tryout.host.set('quantity_g', 12);
    await draft.open('other');
    await quiet(0);
    expect(tryout.host.view('quantity_g').value).toBe(null);
  });
});
