import { beforeAll, expect, test } from 'vitest';
import type { Row } from '../../core/values/types.ts';
import { allRows } from '../database/rows';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { cascadeLevelRows, cascadeWhole, coverageOf } from './coverage';
import { mergeRows, respellValues, undoRepair } from './repairs';
import { lookAt } from './look';
import { addRow } from './tables';

let t: TestWorkspace;
beforeAll(async () => {
  t = await demoWorkspace();
});
const rowsOf = async (key: string): Promise<Row[]> => allRows(t.ws.db, await t.ws.modelTable(key));

test('the counts of a cascade are those one gets by counting', async () => {
  const { cascades } = await coverageOf(t.ws, 'lot_intake');
  expect(cascades.map((c) => c.levels.map((l) => l.field))).toEqual([
    ['family', 'genus', 'species'],
    ['region', 'site', 'plot'],
    ['store', 'shelf', 'box'],
  ]);
  const [genera, species] = [await rowsOf('genera'), await rowsOf('species')];
  const offered = species.filter((s) => s.active === true);
  const below = (id: number): number => offered.filter((s) => s.genus === id).length;
  expect(cascades[0]?.levels[2]?.summary).toEqual({
    rows: species.length,
    offered: offered.length,
    orphans: 0,
    gaps: genera.filter((g) => below(g.id) === 0).length,
    singles: genera.filter((g) => below(g.id) === 1).length,
    parents: genera.length,
  });
  const plots = await rowsOf('plots');
  expect(cascades[1]?.levels[2]?.summary.orphans).toBe(plots.filter((p) => p.site === null).length);
  expect(cascades[1]?.levels[1]?.summary.gaps).toBe(1);
});

test('walking: rows under a row, with their children; and only the gaps, the singles, the orphans', async () => {
  const genera = await rowsOf('genera');
  const families = await rowsOf('families');
  const fagaceae = families.find((f) => f.name === 'Fagaceae')?.id ?? 0;
  const query = { cascade: 0, level: 1, parent: fagaceae, only: 'all', offset: 0, limit: 50 } as const;
  const walked = await cascadeLevelRows(t.ws, 'lot_intake', query);
  expect(walked.rows.map((r) => r.text)).toEqual(['Castanea', 'Fagus', 'Quercus']);
  expect(walked.rows[2]).toMatchObject({ children: 5, offered: true });
  const singles = await cascadeLevelRows(t.ws, 'lot_intake', { ...query, parent: null, only: 'singles' });
  expect(singles.total).toBeGreaterThan(5);
  expect(singles.rows.every((r) => r.childrenOffered === 1)).toBe(true);
  const page = await cascadeLevelRows(t.ws, 'lot_intake', { ...query, parent: null, limit: 10, offset: 10 });
  expect(page.total).toBe(genera.length);
  expect(page.rows).toHaveLength(10);
  const orphans = await cascadeLevelRows(t.ws, 'lot_intake', { cascade: 1, level: 2, parent: null, only: 'orphans', offset: 0, limit: 50 });
  expect(orphans.rows.map((r) => r.text)).toEqual(['Old Decoy 1', 'Old Decoy 2']);
  expect(await refusal(cascadeLevelRows(t.ws, 'lot_intake', { ...query, cascade: 9 }))).toMatchObject({ status: 404 });
});

test('a whole cascade has every row once, below the row it hangs on', async () => {
  const { levels } = await cascadeWhole(t.ws, 'lot_intake', 0);
  const [families = [], genera = [], species = []] = levels;
  expect(levels).toHaveLength(3);
  expect(genera).toHaveLength((await rowsOf('genera')).length);
  expect(species).toHaveLength((await rowsOf('species')).length);
  const ids = new Set(families.map((f) => f.id));
  expect(families.every((f) => f.parent === null)).toBe(true);
  expect(genera.every((g) => g.parent !== null && ids.has(g.parent))).toBe(true);
  for (const f of families) expect(genera.filter((g) => g.parent === f.id)).toHaveLength(f.children ?? -1);
  expect(await refusal(cascadeWhole(t.ws, 'lot_intake', 9))).toMatchObject({ status: 404 });
});

test('spellings are found and mended; only what means the same is written over', async () => {
  const before = (await coverageOf(t.ws, 'lot_intake')).spellings;
  const habitat = before.find((g) => g.column === 'habitat');
  expect(new Set(habitat?.spelled.map((s) => s.text))).toEqual(new Set(['Wet heath', 'wet heath ', 'Wet-heath']));
  const wrong = (await rowsOf('plots')).filter((p) => p.habitat === 'wet heath ' || p.habitat === 'Wet-heath').length;
  const asked = { column: 'habitat', from: ['wet heath ', 'Wet-heath', 'Dry heath'], to: 'Wet heath', preview: false };
  const stood = (await rowsOf('plots')).map((p) => p.habitat);
  const look = await respellValues(t.ws, t.maud, 'plots', { ...asked, preview: true });
  expect([look.changed, look.rows.length, look.repair]).toEqual([wrong, wrong, null]);
  expect(
    (await rowsOf('plots')).map((p) => p.habitat),
    'a look changes nothing',
  ).toEqual(stood);
  const first = await respellValues(t.ws, t.maud, 'plots', asked);
  expect(first.changed).toBe(wrong);
  expect(await undoRepair(t.ws, t.maud, 'plots', first.repair!)).toEqual({ restored: wrong, left: 0 });
  expect((await rowsOf('plots')).map((p) => p.habitat)).toEqual(stood);
  expect(await refusal(undoRepair(t.ws, t.maud, 'plots', first.repair!))).toMatchObject({ status: 409 });
  expect(await refusal(undoRepair(t.ws, t.maud, 'sites', first.repair!))).toMatchObject({ status: 404 });
  await respellValues(t.ws, t.maud, 'plots', asked);
  expect((await rowsOf('plots')).some((p) => p.habitat === 'Dry heath')).toBe(true);
  expect((await coverageOf(t.ws, 'lot_intake')).spellings).toEqual([]);
  expect(await refusal(respellValues(t.ws, t.maud, 'plots', { ...asked, column: 'site' }))).toMatchObject({ status: 422 });
});

test('two rows of one name become one, with everything that linked to either', async () => {
  const twin = await addRow(t.ws, t.maud, 'families', { name: 'fagaceae ' });
  await addRow(t.ws, t.maud, 'genera', { name: 'Lithocarpus', family: twin.row.id });
  expect((await coverageOf(t.ws, 'lot_intake')).spellings.map((g) => g.spelled.map((s) => s.text))).toEqual([['Fagaceae', 'fagaceae ']]);
  const keep = (await rowsOf('families')).find((f) => f.name === 'Fagaceae')?.id ?? 0;
  const asked = { keep, drop: [twin.row.id], preview: false };
  const links = [{ table: 'genera', label: 'Genera', columnLabel: 'Family', count: 1 }];
  expect(await mergeRows(t.ws, t.maud, 'families', { ...asked, preview: true })).toEqual({ moved: 1, links, repair: null });
  const first = await mergeRows(t.ws, t.maud, 'families', asked);
  expect(first).toMatchObject({ moved: 1, links });
  const lithocarpus = async () => (await rowsOf('genera')).find((g) => g.name === 'Lithocarpus');
  expect(await undoRepair(t.ws, t.maud, 'families', first.repair!)).toEqual({ restored: 2, left: 0 });
  expect([(await lithocarpus())?.family, (await rowsOf('families')).find((f) => f.id === twin.row.id)?.name]).toEqual([twin.row.id, 'fagaceae ']); // prettier-ignore
  await mergeRows(t.ws, t.maud, 'families', asked);
  expect((await rowsOf('genera')).find((g) => g.name === 'Lithocarpus')?.family).toBe(keep);
  expect((await rowsOf('families')).some((f) => f.id === twin.row.id)).toBe(false);
  expect(await refusal(mergeRows(t.ws, t.maud, 'families', { keep, drop: [keep], preview: false }))).toMatchObject({ status: 404 });
});

test('a row is looked at with what it links to and what links to it', async () => {
  const quercus = (await rowsOf('genera')).find((g) => g.name === 'Quercus')?.id ?? 0;
  const seen = await lookAt(t.ws, t.maud, 'genera', quercus);
  expect(seen.text).toBe('Quercus');
  expect(Object.values(seen.linked.families ?? {})).toEqual(['Fagaceae']);
  expect(seen.children.find((c) => c.table === 'species')).toMatchObject({ count: 5, columnLabel: 'Genus' });
  expect(await refusal(lookAt(t.ws, t.maud, 'genera', 0))).toMatchObject({ status: 404 });
});
