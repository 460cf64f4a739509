import { beforeAll, describe, expect, test } from 'vitest';
import { hasProposal, proposalKey, withProposal } from '../../core/evidence/proposal.ts';
import type { Form } from '../../core/form/definition.ts';
import { changeField } from '../../core/form/edit.ts';
import { rulesSchema } from '../../core/form/ruleSchemas.ts';
import type { Edit } from '../../core/engine/state.ts';
import type { Datum } from '../../core/values/types.ts';
import type { Account } from '../database/accounts';
import { accountByEmail } from '../database/accounts';
import { historyOf } from '../database/history';
import { notedOf } from '../database/origins';
import { allRows } from '../database/rows';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { saveEntry } from './entries';
import { type FillsAsked, countFills, fillsUse, keptLately } from './evidence';
import { createForm, draftOf, saveDraft } from './forms';
import { findImpact } from './impact';
import { publish } from './publishing';
import { UNWATCHED } from './jobs';
import { proposalsFor, refuseProposal } from './proposals';
import { changeRecords } from './recordsAtOnce';
import { addDays } from '../../core/values/dates.ts';

/* What the records of a form say about it: counted over the history that saves really leave. */

let t: TestWorkspace;
let nell: Account;
const ALL = { since: null, version: null, step: null };
beforeAll(async () => {
  t = await demoWorkspace();
  nell = (await accountByEmail(t.ws.db, 'nell@marrowfen.example'))!;
});
const use = async (asked: Partial<FillsAsked> = {}) => fillsUse(t.ws, 'lot_intake', { ...ALL, ...asked });
const fieldOf = async (key: string) => (await use()).fields.find((f) => f.field === key)!;
const rowsOf = async (table: string) => allRows(t.ws.db, await t.ws.modelTable(table));
let saved = 0;
async function enter(more: readonly Edit[]): Promise<number> {
  const [species] = (await rowsOf('species')).filter((s) => s.active === true && s.protected !== true);
  const [site] = (await rowsOf('sites')).filter((s) => s.active === true);
  const given = { species: species!.id, region: site!.region ?? null, site: site!.id, quantity_g: 12.5 };
  const edits = [...Object.entries(given).map(([field, value]): Edit => ({ kind: 'set', field, value })), ...more];
  return (await saveEntry(t.ws, t.ida, 'lot_intake', null, { version: 1, edits, revision: null, request: `evidence ${++saved}` })).id;
}

test('the mark beside a field says how often it was kept lately; of a form that was never published nothing', async () => {
  const [mark, told] = [await keptLately(t.ws, 'lot_intake'), await use()];
  for (const f of told.fields) expect(mark[f.field]).toEqual({ kept: f.counts.kept, of: told.records });
  expect(await keptLately(t.ws, await createForm(t.ws, t.maud, 'Not yet', null))).toEqual({});
});

test('how it was entered is counted once, of fields that choose, and without who entered', async () => {
  const before = (await use()).entered;
  const species = (e: typeof before) => e.lists.find((l) => l.field === 'species') ?? { chosen: 0, nothing: 0 };
  const time = (e: typeof before) => e.times.find((x) => x.version === 1)?.entries ?? 0;
  const [plant] = (await rowsOf('species')).filter((s) => s.active === true && s.protected !== true);
  const [site] = (await rowsOf('sites')).filter((s) => s.active === true);
  const given = { species: plant!.id, region: site!.region ?? null, site: site!.id, quantity_g: 12.5 };
  const edits = Object.entries(given).map(([field, value]): Edit => ({ kind: 'set', field, value }));
  const choices = [
    { field: 'species', offered: 12, at: null, searched: 'Willow' },
    { field: 'species', offered: 12, at: 3, searched: 'Sal' },
    { field: 'quantity_g', offered: 3, at: 0, searched: 'no list' },
    { field: 'nowhere', offered: 3, at: 0, searched: '' },
  ];
  const request = { version: 1, edits, revision: null, request: 'how it was entered', how: { seconds: 31, choices } };
  await saveEntry(t.ws, t.ida, 'lot_intake', null, request);
  // sent again after a lost answer, it is neither saved nor counted twice
  await saveEntry(t.ws, t.ida, 'lot_intake', null, request);
  const after = (await use()).entered;
  expect(time(after)).toBe(time(before) + 1);
  expect(species(after)).toMatchObject({ chosen: species(before).chosen + 1, nothing: species(before).nothing + 1, label: 'Species' });
  expect(after.lists.map((l) => l.field)).not.toContain('quantity_g');
  expect(after.lists.map((l) => l.field)).not.toContain('nowhere');
  expect((await use({ version: 99 })).entered).toEqual({ times: [], lists: [] });
});

test('proposals are found in the records, with those they do not fit; refused ones stay refused', async () => {
  const { proposals, records } = await proposalsFor(t.ws, 'lot_intake');
  expect(records).toBe((await rowsOf('lots')).length);
  const check = proposals.find((p) => p.kind === 'check' && p.field === 'collected_on')!;
  expect(check).toMatchObject({ formula: 'collected_on > quarantine_from', refused: false });
  expect(proposals.map((p) => p.field)).not.toContain('genus');
  for (const p of proposals) expect(p.exceptions.length).toBe(Math.min(30, p.of - p.fits));
  const key = proposalKey(check);
  const isRefused = async () => (await proposalsFor(t.ws, 'lot_intake')).proposals.find((p) => proposalKey(p) === key)!.refused;
  await refuseProposal(t.ws, 'lot_intake', key, true);
  await refuseProposal(t.ws, 'lot_intake', key, true);
  expect(await isRefused()).toBe(true);
  await refuseProposal(t.ws, 'lot_intake', key, false);
  expect(await isRefused()).toBe(false);
  expect(await refusal(refuseProposal(t.ws, 'no_such_form', key, true))).toMatchObject({ status: 404 });
});

describe('how well the fills of a form work', () => {
  test('the counts are those of the history, record by record', async () => {
    const told = await use();
    const lots = await rowsOf('lots');
    const lines = (await Promise.all(lots.map(async (l) => (await historyOf(t.ws.db, 'lots', l.id)).at(-1)!))).filter((l) => l.kind === 'created'); // prettier-ignore
    expect(told.records).toBe(lines.length);
    for (const column of ['storage_c', 'collected_on', 'germination_days', 'family', 'quantity_g']) {
      const field = told.fields.find((f) => f.column.key === column)!;
      const kinds = lines.map((l) => [l.origins[column], l.changes[column]?.[1] ?? null] as const);
      expect(field.counts.kept).toBe(kinds.filter(([k, v]) => v !== null && !['typed', 'chosen', 'emptied', undefined].includes(k)).length);
      expect(field.counts.over + field.counts.hand).toBe(kinds.filter(([k, v]) => v !== null && ['typed', 'chosen'].includes(k!)).length);
      expect(field.spans.reduce((n, s) => n + s.kept, 0)).toBe(field.counts.kept);
    }
    // what the clerks of the demo do out of habit
    const collected = told.fields.find((f) => f.field === 'collected_on')!;
    expect(collected.counts.over).toBeGreaterThan(collected.counts.kept);
    expect(collected.over[0]!.days).toBe(-3);
    expect(told.fields.find((f) => f.field === 'purity')!.unchosen).toEqual(['heads']);
  });
  test('typed over, with what; kept and changed later; emptied', async () => {
    const before = await fieldOf('storage_c');
    await enter([{ kind: 'set', field: 'storage_c', value: 99 }]);
    const id = await enter([]);
    await enter([{ kind: 'clear', field: 'germination_days' }]);
    const after = await fieldOf('storage_c');
    expect(after.counts.over).toBe(before.counts.over + 1);
    expect(after.counts.kept).toBe(before.counts.kept + 2);
    expect(after.over).toContainEqual({ value: 99, days: null, count: 1 });
    expect((await fieldOf('germination_days')).counts.emptied).toBeGreaterThan(0);
    await changeRecords(t.ws, nell, 'lot_intake', { version: 1, records: [{ id, revision: 1 }], field: 'storage_c', value: 3, dry: false });
    expect((await fieldOf('storage_c')).later).toBe(before.later + 1);
  });
  test('where it happens is told by what it is called, also through a link', async () => {
    const [site] = (await rowsOf('sites')).filter((s) => s.active === true).slice(-1);
    for (let i = 0; i < 12; i++)
      await enter([
        { kind: 'set', field: 'region', value: site!.region ?? null },
        { kind: 'set', field: 'site', value: site!.id },
        { kind: 'set', field: 'germination_days', value: 200 },
      ]);
    const told = await use();
    const { where, over } = told.fields.find((f) => f.field === 'germination_days')!;
    expect(over[0]).toMatchObject({ value: 200, count: 12 });
    expect(where!.over).toBe(12);
    expect(where!.label).toMatch(/Site|Region/);
    expect(told.linked[where!.column.target ?? ''] ?? { [String(where!.value)]: 'its own text' }).toHaveProperty(String(where!.value));
  });
  test('of a time, a version, a step; and of a form that was never published it is refused', async () => {
    expect((await use({ since: '2026-03-10' })).records).toBeGreaterThanOrEqual(15);
    expect((await use({ since: '2026-03-11' })).records).toBe(0);
    const released = await use({ step: 'released' });
    expect(released.records).toBe((await rowsOf('lots')).filter((l) => l.status === 'released').length);
    expect((await fillsUse(t.ws, 'lot_intake', { ...ALL, version: 7 })).records).toBe(0);
    expect(await refusal(countFills(t.ws, 'no_such_form', ALL, UNWATCHED))).toMatchObject({ status: 404 });
  });
});

describe('fields of lines', () => {
  test('are counted over lines: what fills gave, what was put over it, in a record of a step as well', async () => {
    const told = async (asked: Partial<FillsAsked> = {}) => fillsUse(t.ws, 'seed_request', { ...ALL, ...asked });
    const before = await told();
    const lines = await rowsOf('request_lines');
    const grams = (u: typeof before) => u.fields.find((f) => f.field === 'packets.grams')!;
    expect(grams(before)).toMatchObject({
      label: 'Packets › g each',
      fill: 'prefill',
      records: lines.length,
    });
    expect(grams(before).spans.reduce((n, s) => n + s.kept, 0)).toBe(grams(before).counts.kept);
    // once more what was asked for already, with another weight
    const [request] = await rowsOf('requests');
    const line = lines.find((l) => l.request === request!.id)!;
    const set = (field: string, value: Datum | undefined, at?: number): Edit =>
      ({ kind: 'set', field, value: value ?? null, ...(at === undefined ? {} : { line: at }) }) as Edit;
    const edits = [
      ...['partner', 'address', 'detail', 'method'].map((f) => set(f, request![f])),
      ...['species', 'packets'].map((f) => set(`packets.${f}`, line[f], -1)),
      set('packets.grams', 0.78, -1),
    ];
    await saveEntry(t.ws, t.ida, 'seed_request', null, { version: 1, edits, revision: null, request: 'evidence of lines' });
    const after = await told();
    expect(grams(after).records).toBe(lines.length + 1);
    expect(grams(after).counts.over).toBe(grams(before).counts.over + 1);
    expect(grams(after).over).toContainEqual(expect.objectContaining({ value: 0.78, count: 1 }));
    expect((await keptLately(t.ws, 'seed_request'))['packets.grams']!.of).toBe(lines.length + 1);
    // lines of records at a step
    const drafts = new Set((await rowsOf('requests')).filter((r) => r.step === 'draft').map((r) => r.id));
    const now = await rowsOf('request_lines');
    expect(grams(await told({ step: 'draft' })).records).toBe(now.filter((l) => drafts.has(Number(l.request))).length);
  });
});

describe('what a proposal claims is what impact finds', () => {
  const change = async (to: (form: Form) => Form): Promise<void> => {
    const { draft, revision } = await draftOf(t.ws, 'lot_intake');
    await saveDraft(t.ws, t.maud, 'lot_intake', to(draft), revision);
  };
  const found = async (field: string, kind: string): Promise<number> =>
    (await findImpact(t.ws, t.maud, 'lot_intake')).counts.find((c) => c.field === field && c.kind === kind)?.records ?? 0;

  test('a check warns of the records that were said to be otherwise, a calculation would change the others', async () => {
    for (const { id, collected_on } of (await t.ws.db('data_lots').whereNull('quarantine_from')) as { id: number; collected_on: string }[])
      await t.ws
        .db('data_lots')
        .where({ id })
        .update({ quarantine_from: addDays(collected_on, 3) });
    await t.ws.db('data_lots').where({ id: 2 }).update({ collected_on: '2030-01-01' });
    const { proposals } = await proposalsFor(t.ws, 'lot_intake');
    const check = proposals.find((p) => p.kind === 'check' && p.field === 'collected_on')!;
    expect(check.exceptions).toEqual([2]);
    await change((form) => withProposal(form, check));
    expect(await found('collected_on', 'warning')).toBe(check.of - check.fits);
    const { published } = await draftOf(t.ws, 'lot_intake');
    // the fill taken out, it is proposed from what it gave; a few say otherwise
    await change(() => changeField(published!, 'storage_c', { value: null }));
    await publish(t.ws, t.maud, 'lot_intake', null);
    await t.ws.db('data_lots').where({ id: 1 }).update({ storage_c: 21 });
    const prefill = (await proposalsFor(t.ws, 'lot_intake')).proposals.find((p) => p.field === 'storage_c' && p.kind === 'prefill')!;
    expect(prefill).toMatchObject({ formula: published!.fields.storage_c!.value!.formula });
    await change((form) => withProposal(form, prefill));
    expect(prefill.exceptions).toHaveLength(prefill.of - prefill.fits);
    // what a person typed stays theirs: the others would change
    const noted = await notedOf(t.ws.db, 'lots', prefill.exceptions);
    const typed = prefill.exceptions.filter((id) => ['typed', 'chosen'].includes(noted.get(id)?.origins.storage_c?.kind ?? ''));
    expect(typed.length).toBeLessThan(prefill.exceptions.length);
    expect(await found('storage_c', 'change')).toBe(prefill.exceptions.length - typed.length);
  });

  test('a rule whose condition holds in none of the records is not used; turned off, it is no news', async () => {
    const rules = [
      { id: 'never', when: 'quantity_g > 1000000', then: [{ kind: 'require', field: 'remark' }] },
      { id: 'always', when: 'quantity_g > 0', then: [{ kind: 'require', field: 'species' }] },
    ];
    await change((form) => ({ ...form, rules: [...form.rules, ...rulesSchema.parse(rules)] }));
    await publish(t.ws, t.maud, 'lot_intake', null);
    const unused = (await proposalsFor(t.ws, 'lot_intake')).proposals.filter((p) => p.kind === 'unused');
    expect(unused.map((p) => p.field)).toContain('@never');
    expect(unused.map((p) => p.field)).not.toContain('@always');
    const never = unused.find((p) => p.field === '@never')!;
    const { draft } = await draftOf(t.ws, 'lot_intake');
    expect(hasProposal(draft, never)).toBe(false);
    const off = withProposal(draft, never);
    expect(off.rules.map((r) => [r.id, r.on])).toContainEqual(['never', false]);
    expect(hasProposal(off, never)).toBe(true);
  });
});
