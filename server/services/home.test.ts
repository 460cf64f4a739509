import { beforeAll, describe, expect, test } from 'vitest';
import { viewSchema } from '../../core/choices/viewSchemas.ts';
import type { Form } from '../../core/form/definition.ts';
import { type Account, accountByEmail } from '../database/accounts';
import { allRows } from '../database/rows';
import { type TestWorkspace, NOW, demoWorkspace, refusal } from '../testing/workspace';
import { saveEntry } from './entries';
import { listRecords } from './views';
import { draftOf, saveDraft } from './forms';
import { homeOf } from './home';
import { publish } from './publishing';
import { changeRights } from './rights';

/* The first screen: what waits for somebody, and what they saved lately; nothing of what they may not see. */

let t: TestWorkspace;
let nell: Account;
beforeAll(async () => {
  t = await demoWorkspace();
  nell = (await accountByEmail(t.ws.db, 'nell@marrowfen.example'))!;
});
async function republish(form: string, to: (form: Form) => Form): Promise<void> {
  const { draft, revision } = await draftOf(t.ws, form);
  await saveDraft(t.ws, t.maud, form, to(draft), revision);
  await publish(t.ws, t.maud, form, null);
}
const atStep = (value: string) => viewSchema.parse({ where: `choice.status = "${value}"` });
const stepsOf = async (account: Account, form = 'lot_intake') => (await homeOf(t.ws, account)).waiting.filter((w) => w.form === form);

describe('what waits', () => {
  test('is counted by step, where somebody may move records on, with the moves that are theirs', async () => {
    const lots = await allRows(t.ws.db, await t.ws.modelTable('lots'));
    const found = await stepsOf(nell);
    expect(found.length).toBeGreaterThan(0);
    for (const w of found) {
      expect(w.records).toBe(lots.filter((l) => l.status === w.step.value).length);
      expect(w.moves.length).toBeGreaterThan(0);
      expect(w.step.ends).toBe(false);
      // and the list of records at the step has as many
      expect((await listRecords(t.ws, nell, 'lot_intake', { search: '', sort: null, descending: false, offset: 0, limit: 5, view: atStep(w.step.value) })).total).toBe(w.records);
    }
    expect([...found].sort((a, b) => (a.since ?? '').localeCompare(b.since ?? ''))).toEqual(found);
  }); // prettier-ignore
  test('a step that nobody of theirs may move on from is not told', async () => {
    const mine = (await stepsOf(nell)).map((w) => w.step.value);
    await republish('lot_intake', (f) => ({ ...f, steps: { ...f.steps!, moves: f.steps!.moves.map((m) => ({ ...m, who: { roles: ['clerk' as const], teams: [] } })) } })); // prettier-ignore
    expect(mine.length).toBeGreaterThan(0);
    expect(await stepsOf(nell)).toEqual([]);
    expect((await stepsOf(t.ida)).length).toBeGreaterThan(0);
  });
  test('nothing is told of a form whose records one may not see or change', async () => {
    expect((await stepsOf(t.ida)).length).toBeGreaterThan(0);
    const [clerks, reviewers] = (['clerk', 'reviewer'] as const).map((role) => ({ roles: [role], teams: [] }));
    const rights = { enter: clerks!, see: clerks!, edit: reviewers!, delete: reviewers!, export: reviewers! };
    await changeRights(t.ws, 'lot_intake', rights);
    expect(await stepsOf(t.ida)).toEqual([]);
    await changeRights(t.ws, 'lot_intake', { ...rights, see: reviewers!, edit: clerks! });
    expect(await stepsOf(t.ida)).toEqual([]);
    await changeRights(t.ws, 'lot_intake', { ...rights, edit: clerks! });
    expect((await stepsOf(t.ida)).length).toBeGreaterThan(0);
  });
  test('nor of a step that is hidden from them; its records are not listed by it', async () => {
    const ask = (account: Account, step: string) => listRecords(t.ws, account, 'lot_intake', { search: '', sort: null, descending: false, offset: 0, limit: 5, view: atStep(step) }); // prettier-ignore
    expect((await ask(t.ida, 'registered')).rows.length).toBeGreaterThan(0);
    expect((await ask(t.ida, 'no such step')).total).toBe(0);
    await republish('lot_intake', (f) => ({
      ...f,
      access: [...f.access, { place: 'status', seen: [{ who: { roles: ['reviewer' as const], teams: [] }, steps: [] }], filled: [] }],
    }));
    expect(await stepsOf(t.ida)).toEqual([]);
    expect(await refusal(ask(t.ida, 'registered'))).toMatchObject({ status: 422 });
  });
});

test('of a long table it is counted where nobody waits for it, and comes to the same', async () => {
  const own = await demoWorkspace();
  await republishOwned(own);
  const { id: _, ...lot } = (await own.ws.db('data_lots').first()) as Record<string, unknown>;
  const rows = Array.from({ length: 20_500 }, (__, i) => ({ ...lot, code: `MF-L-${i}` }));
  for (let i = 0; i < rows.length; i += 500) await own.ws.db.batchInsert('data_lots', rows.slice(i, i + 500), 20);
  own.ws.rowsChanged('lots');
  const [asked, run] = [[] as string[], own.ws.work.run.bind(own.ws.work)];
  const noted = (...of: Parameters<typeof run>): ReturnType<typeof run> => {
    asked.push(JSON.stringify(of[1]));
    return run(...of);
  };
  Object.assign(own.ws.work, { run: noted });
  const lots = await allRows(own.ws.db, await own.ws.modelTable('lots'));
  const homes = [await homeOf(own.ws, own.maud), await homeOf(own.ws, own.ida)];
  expect(homes[0]!.counts.lot_intake).toBe(lots.length);
  // whoever sees their own alone: those that they collected
  expect(homes[1]!.counts.lot_intake).toBe(lots.filter((l) => l.collector === own.ida.person).length);
  expect(asked.filter((a) => /count\(\*\)/i.test(a)).length).toBeGreaterThanOrEqual(2);
});
/** Lots are seen by whoever collected them. */
async function republishOwned({ ws, maud }: TestWorkspace): Promise<void> {
  const { draft, revision } = await draftOf(ws, 'lot_intake');
  const owners = { fields: ['collector'], creator: false, also: { roles: [], teams: [] } } as Form['owners'];
  await saveDraft(ws, maud, 'lot_intake', { ...draft, owners }, revision);
  await publish(ws, maud, 'lot_intake', null);
}

describe('what was saved lately', () => {
  const bench = async (account: Account, task: string, id: number | null = null, revision: number | null = null) =>
    saveEntry(t.ws, account, 'bench_task', id, { version: 1, edits: [{ kind: 'set', field: 'task', value: task }], revision, request: `home ${++unique}` }); // prettier-ignore
  let unique = 0;
  test('is one’s own, newest first, each record once, by what it is known by; what is deleted is not told', async () => {
    const mine = async () => (await homeOf(t.ws, t.maud)).recent.filter((r) => r.form === 'bench_task');
    expect(await mine()).toEqual([]);
    const first = await bench(t.maud, 'label the jars');
    await bench(t.maud, 'water the trays');
    await bench(t.ida, 'not hers');
    await bench(t.maud, 'label the lids', first.id, first.revision);
    const [newest, before, ...rest] = await mine();
    expect(newest).toMatchObject({ id: first.id, isNew: true, formLabel: 'Bench task', at: NOW });
    expect(before).toMatchObject({ isNew: true });
    expect(rest).toEqual([]);
    expect((await homeOf(t.ws, nell)).recent.filter((r) => r.form === 'bench_task')).toEqual([]);
    await t.ws.db('data_bench_tasks').where({ id: first.id }).delete();
    expect((await mine()).map((r) => r.id)).toEqual([before!.id]);
  });
});
