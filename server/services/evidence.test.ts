import { beforeAll, describe, expect, test } from 'vitest';
import { proposalKey } from '../../core/evidence/proposal.ts';
import type { Edit } from '../../core/engine/state.ts';
import type { Account } from '../database/accounts';
import { accountByEmail } from '../database/accounts';
import { historyOf } from '../database/history';
import { allRows } from '../database/rows';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { saveEntry } from './entries';
import { type FillsAsked, countFills, fillsUse, keptLately } from './evidence';
import { createForm } from './forms';
import { UNWATCHED } from './jobs';
import { proposalsFor, refuseProposal } from './proposals';
import { changeRecords } from './recordsAtOnce';

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
  expect(mark.records).toBe(told.records);
  for (const f of told.fields) expect(mark.kept[f.field]).toBe(f.counts.kept);
  expect(await keptLately(t.ws, await createForm(t.ws, t.maud, 'Not yet', null))).toEqual({ records: 0, kept: {} });
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
