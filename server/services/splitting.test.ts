import fc from 'fast-check';
import { beforeEach, expect, test } from 'vitest';
import { type Column } from '../../core/model/tables.ts';
import { columnSchema } from '../../core/model/schemas.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import { changeField } from '../../core/form/edit.ts';
import { createTable, writeSubsets } from '../database/model';
import { allRows, restoreRows } from '../database/rows';
import { type TestWorkspace, bareWorkspace, refusal } from '../testing/workspace';
import { draftOf, draftPlan, createForm, saveDraft } from './forms';
import { publish } from './publishing';
import { undoRepair } from './repairs';
import { splitTable } from './splitting';
import { changeRow, stampOf } from './tables';
import { togetherIn } from './together';

/* Columns that come together, as tables of their own: rows, links, drafts and subsets say the same afterwards, and as before when undone. */

let t: TestWorkspace;
const column = (key: string, type: Column['type'] = 'text', more: object = {}): Column =>
  columnSchema.parse({ key, label: key.replace(/^./, (c) => c.toUpperCase()), type, ...more });
const COLUMNS = [column('number'), column('site'), column('region'), column('country'), column('height', 'number')];
const rowsOf = async (table: string): Promise<Row[]> => allRows(t.ws.db, await t.ws.modelTable(table));
const put = async (rows: readonly Record<string, Datum>[]): Promise<void> =>
  restoreRows(t.ws.db, await t.ws.modelTable('ledger'), rows.map((r, i) => ({ id: i + 1, ...r })), stampOf(t.ws, t.maud)); // prettier-ignore
const LINES = Array.from({ length: 60 }, (_, i) => {
  const s = (i * 7) % 12;
  return { number: `L${i}`, site: `Site ${s}`, region: `Region ${s % 4}`, country: s % 4 < 2 ? 'Here' : 'There', height: s * 1.5 };
});
const ASKED = {
  groups: [
    { by: 'region', columns: ['country'], label: 'Regions' },
    { by: 'site', columns: ['region', 'height'], label: 'Sites' },
  ],
  mayLose: false,
};
/** Every row with what it says, through the links. */
async function said(): Promise<Record<string, Datum>[]> {
  const [sites, regions] = [await rowsOf('sites'), await rowsOf('regions')];
  return (await rowsOf('ledger')).map(({ number, site }) => {
    const at = sites.find((r) => r.id === site);
    const region = regions.find((r) => r.id === at?.region);
    return {
      number: number!,
      site: at?.name ?? null,
      region: region?.name ?? null,
      country: region?.country ?? null,
      height: at?.height ?? null,
    };
  });
}

beforeEach(async () => {
  t = await bareWorkspace();
  await t.ws.db.transaction((db) => createTable(db, { key: 'ledger', label: 'Ledger', shown: 'number', columns: COLUMNS }));
  t.ws.modelChanged();
});

test('what comes together is found, split off by one press, and each row says what it said', async () => {
  await put(LINES);
  const found = await togetherIn(t.ws, 'ledger');
  expect(found).toMatchObject({
    rows: 60,
    older: false,
    chains: [
      [
        { by: 'region', columns: ['country'] },
        { by: 'site', columns: ['region', 'height'] },
      ],
    ],
  });
  const done = await splitTable(t.ws, t.maud, 'ledger', ASKED);
  expect(done).toMatchObject({
    changed: 0,
    forms: [],
    tables: [
      { key: 'regions', label: 'Regions', rows: 4 },
      { key: 'sites', label: 'Sites', rows: 12 },
    ],
  });
  expect(await said()).toEqual(LINES);
  expect((await t.ws.modelTable('ledger')).columns.map((c) => [c.key, c.type, c.target])).toEqual([['number', 'text', null], ['site', 'link', 'sites']]); // prettier-ignore
  expect((await t.ws.modelTable('sites')).columns.map((c) => [c.key, c.target])).toEqual([['name', null], ['region', 'regions'], ['height', null]]); // prettier-ignore
  // nothing is left to be found
  expect((await togetherIn(t.ws, 'ledger')).chains).toEqual([]);

  expect(await undoRepair(t.ws, t.maud, 'ledger', done.repair)).toMatchObject({ left: 0 });
  expect((await t.ws.modelTable('ledger')).columns).toEqual(COLUMNS);
  expect((await rowsOf('ledger')).map(({ id: _, ...r }) => r)).toEqual(LINES);
  expect((await t.ws.modelTables()).map((m) => m.key)).not.toContain('sites');
  expect(await refusal(undoRepair(t.ws, t.maud, 'ledger', done.repair))).toMatchObject({ code: 'undone' });
});

test('where rows say otherwise nothing is written until that is said; undone, each says its own again', async () => {
  const odd = LINES.map((l, i) => (i === 5 ? { ...l, region: 'Regoin 3' } : i === 8 ? { ...l, site: l.site.toUpperCase() } : l));
  await put(odd);
  const groups = [{ by: 'site', columns: ['region'], label: 'Sites' }];
  expect(await refusal(splitTable(t.ws, t.maud, 'ledger', { groups, mayLose: false }))).toMatchObject({
    status: 409,
    code: 'wouldLose',
    details: { changed: 1 },
  });
  expect((await t.ws.modelTable('ledger')).columns).toEqual(COLUMNS);
  expect((await rowsOf('ledger')).map(({ id: _, ...r }) => r)).toEqual(odd);
  const { changed, repair } = await splitTable(t.ws, t.maud, 'ledger', { groups, mayLose: true });
  expect(changed).toBe(1);
  expect((await rowsOf('sites')).map((r) => r.name)).toHaveLength(12);
  // a row that links elsewhere since says what that one says
  const [first] = await rowsOf('ledger');
  const site = (await rowsOf('sites')).find((r) => r.name === 'Site 5')!;
  await changeRow(t.ws, t.maud, 'ledger', 1, 1, { site: site.id });
  expect(first!.site).not.toBe(site.id);
  expect(await undoRepair(t.ws, t.maud, 'ledger', repair)).toEqual({ restored: 59, left: 1 });
  const back = (await rowsOf('ledger')).map(({ id: _, ...r }) => r);
  expect(back).toEqual(odd.map((l, i) => (i === 0 ? { ...l, site: 'Site 5', region: site.region } : l)));
});

test('a draft over the table says the same afterwards: what was written is chosen, what followed is read', async () => {
  await put(LINES);
  await t.ws.db.transaction((db) =>
    writeSubsets(db, 'ledger', [{ key: 'here', label: 'Here', condition: 'choice.country = "Here" AND choice.site <> "Site 4"' }]),
  );
  t.ws.modelChanged();
  await createForm(t.ws, t.maud, 'Ledger', 'ledger', true);
  const { draft, revision } = await draftOf(t.ws, 'ledger');
  const checks = [{ when: 'region = "Region 1" AND site <> "Site 1"', message: 'Is that so?', severity: 'warning' as const }];
  await saveDraft(t.ws, t.maud, 'ledger', changeField(draft, 'number', { checks }), revision);
  const { forms, repair } = await splitTable(t.ws, t.maud, 'ledger', ASKED);
  expect(forms).toEqual(['Ledger']);
  const plan = await draftPlan(t.ws, 'ledger');
  expect(plan.problems.filter((p) => p.severity === 'error')).toEqual([]);
  const { fields } = plan.form;
  expect(fields.site).toMatchObject({ type: 'link', column: 'site', source: { kind: 'rows', table: 'sites', show: 'name', where: 'choice.region = region' } }); // prettier-ignore
  expect(fields.region).toMatchObject({ type: 'link', column: null, source: { kind: 'rows', table: 'regions' } });
  expect(fields.country).toMatchObject({ type: 'text', column: null, value: { kind: 'calculation', formula: 'region.country' } });
  expect(fields.height).toMatchObject({ type: 'number', column: null, value: { kind: 'calculation', formula: 'site.height' } });
  expect(fields.number!.checks[0]!.when).toBe('region.name = "Region 1" AND site.name <> "Site 1"');
  expect((await t.ws.modelTable('ledger')).subsets![0]!.condition).toBe(
    'choice.site.region.country = "Here" AND choice.site.name <> "Site 4"',
  );
  await undoRepair(t.ws, t.maud, 'ledger', repair);
  expect((await draftOf(t.ws, 'ledger')).draft).toEqual(changeField(draft, 'number', { checks }));
  expect((await t.ws.modelTable('ledger')).subsets![0]!.condition).toBe('choice.country = "Here" AND choice.site <> "Site 4"');
});

test('refused: what clerks save, what rows are known by, what something else links to by now', async () => {
  await put(LINES);
  const split = (groups: { by: string; columns: string[]; label: string }[]) =>
    splitTable(t.ws, t.maud, 'ledger', { groups, mayLose: true });
  expect(await refusal(split([{ by: 'height', columns: ['site'], label: 'Heights' }]))).toMatchObject({ status: 422 });
  expect(await refusal(split([{ by: 'site', columns: ['number'], label: 'Sites' }]))).toMatchObject({ status: 422 });
  expect(await refusal(split([{ by: 'site', columns: ['nothing'], label: 'Sites' }]))).toMatchObject({ status: 422 });
  expect(await refusal(split([{ by: 'site', columns: ['region'], label: 'Ledger' }]))).toMatchObject({ status: 422 });
  expect(await refusal(splitTable(t.ws, t.maud, 'people', { groups: [{ by: 'name', columns: ['email'], label: 'X' }], mayLose: true }))).toMatchObject({ status: 409 }); // prettier-ignore
  const { repair } = await split(ASKED.groups);
  await t.ws.db.transaction((db) => createTable(db, { key: 'visits', label: 'Visits', shown: null, columns: [column('site', 'link', { target: 'sites' })] })); // prettier-ignore
  t.ws.modelChanged();
  expect(await refusal(undoRepair(t.ws, t.maud, 'ledger', repair))).toMatchObject({
    status: 409,
    message: 'Visits links to Sites by now: Site.',
  });
});

test('a published form that saves into a column keeps it', async () => {
  await put(LINES);
  await createForm(t.ws, t.maud, 'Ledger', 'ledger', true);
  await publish(t.ws, t.maud, 'ledger', null);
  const groups = [{ by: 'site', columns: ['region'], label: 'Sites' }];
  expect(await refusal(splitTable(t.ws, t.maud, 'ledger', { groups, mayLose: true }))).toMatchObject({ status: 409, code: 'inUse' });
});

test('whatever rows say, a split undone leaves each as it was', async () => {
  const cell = (name: string, n: number) => fc.option(fc.integer({ min: 0, max: n }).map((i) => `${name} ${i}`), { nil: null }); // prettier-ignore
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.record({ site: cell('Site', 5), region: cell('R', 2), country: cell('c', 1) }), { minLength: 1, maxLength: 40 }),
      async (lines) => {
        t = await bareWorkspace();
        await t.ws.db.transaction((db) => createTable(db, { key: 'ledger', label: 'Ledger', shown: 'number', columns: COLUMNS }));
        t.ws.modelChanged();
        const rows = lines.map((l, i) => ({ number: `L${i}`, ...l, height: null }));
        await put(rows);
        const groups = [{ by: 'region', columns: ['country'], label: 'Regions' }, { by: 'site', columns: ['region'], label: 'Sites' }]; // prettier-ignore
        const { repair } = await splitTable(t.ws, t.maud, 'ledger', { groups, mayLose: true });
        expect((await said()).map((r) => r.site)).toEqual(rows.map((r) => r.site));
        expect(await undoRepair(t.ws, t.maud, 'ledger', repair)).toEqual({ restored: 2 * rows.length, left: 0 });
        expect((await rowsOf('ledger')).map(({ id: _, ...r }) => r)).toEqual(rows);
        await t.ws.close();
      },
    ),
    { numRuns: 15 },
  );
});

test('more values than one statement takes become a table', async () => {
  const lines = Array.from({ length: 1400 }, (_, i) => ({
    ...LINES[i % 60]!,
    number: `L${i}`,
    site: `Site ${i % 700}`,
    region: `Region ${i % 7}`,
  }));
  await put(lines.map((l) => ({ ...l, country: Number(l.region.slice(7)) < 3 ? 'Here' : 'There', height: Number(l.site.slice(5)) * 1.5 })));
  await splitTable(t.ws, t.maud, 'ledger', ASKED);
  expect(await rowsOf('sites')).toHaveLength(700);
  expect((await said()).map(({ number, site, region }) => ({ number, site, region }))).toEqual(lines.map(({ number, site, region }) => ({ number, site, region }))); // prettier-ignore
});
