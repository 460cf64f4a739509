import fc from 'fast-check';
import { beforeAll, describe, expect, test } from 'vitest';
import { narrowRows } from '../../core/choices/narrowing.ts';
import { PLAIN_VIEW, type View, viewCondition } from '../../core/choices/views.ts';
import { viewSchema } from '../../core/choices/viewSchemas.ts';
import { isFolded } from '../../core/choices/order.ts';
import { foldText } from '../../core/values/text.ts';
import type { Row } from '../../core/values/types.ts';
import { type Account, accountByEmail } from '../database/accounts';
import { allRows } from '../database/rows';
import { pageStatement } from '../database/viewRows';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { exportCsv } from './exports';
import { draftOf, saveDraft } from './forms';
import { publish } from './publishing';
import { recordsToExport } from './records';
import { renameColumn } from './renaming';
import { type RecordsPage, changeView, daysOf, keepView, listRecords, removeView, valuesNamed, viewsOf } from './views';
import { scopeOf, viewQuery, viewed } from './viewQuery';
import { outsideEnv, readPerson, readRelated } from './wants';
import { planOf } from '../testing/plans';

/* Views: what SQL shows is what the conditions say of each record, whatever is asked; nothing is told of what may not be seen. */

let t: TestWorkspace;
let nell: Account;
let lots: Row[];
beforeAll(async () => {
  t = await demoWorkspace();
  nell = (await accountByEmail(t.ws.db, 'nell@marrowfen.example'))!;
  lots = await allRows(t.ws.db, await t.ws.modelTable('lots'));
});
const view = (part: Partial<View>): View => viewSchema.parse(part);
const ask = (
  who: Account,
  v: View,
  more: Partial<{ search: string; offset: number; limit: number; whole: boolean }> = {},
): Promise<RecordsPage> =>
  listRecords(t.ws, who, 'lot_intake', { view: v, search: '', sort: null, descending: false, offset: 0, limit: 500, whole: true, ...more });

/** conditions of all kinds: on texts, numbers, dates, through links, on the person, and such as SQL cannot ask */
const simple = fc.constantFrom(
  'choice.status = "registered"', 'choice.status IN ("released", "rejected")', 'choice.quantity_g > 20', 'choice.quantity_g BETWEEN 1 AND 50', 'ISBLANK(choice.viability)',
  'choice.species.name = "Quercus robur"', 'choice.site.region.name = "North Marrow"', 'choice.collected_on >= TODAY() - 90', 'choice.collector = me', 'NOT(choice.site.active)',
  'CONTAINSANY(choice.species.name, "a")', 'LEN(choice.code) > 3', 'ROUND(choice.quantity_g, 0) = choice.quantity_g', 'choice.species.genus.family.name <> "Rosaceae"', 'MONTH(choice.collected_on) = 9',
); // prettier-ignore
const condition = fc.letrec<{ c: string }>((tie) => ({
  c: fc.oneof(
    { depthSize: 'small' },
    simple,
    fc.tuple(tie('c'), fc.constantFrom('AND', 'OR'), tie('c')).map(([a, w, b]) => `(${a}) ${w} (${b})`),
    tie('c').map((c) => `NOT(${c})`),
  ),
})).c;
/** The records that meet a condition, asked one by one in memory. */
async function inMemory(where: string, who: Account): Promise<number[]> {
  const v = await viewed(t.ws, who, 'lot_intake');
  const rows = new Map<string, Map<number, Row>>();
  await readRelated(t.ws, new Map([...v.plan.tables.values()].map((x) => [x.key, x])), rows, who);
  await readPerson(t.ws, who.person, rows);
  const env = outsideEnv(t.ws, who, rows);
  const narrowing = viewCondition(where, scopeOf(v));
  if (typeof narrowing === 'string') throw new Error(`${where}: ${narrowing}`);
  return narrowRows(narrowing, lots, new Set(), { ...env, params: narrowing.params.map((p) => p.run(env) as never) }).rows.map((r) => r.id);
}

describe('what a view shows', () => {
  test('its records are those that meet its condition, in SQL as in memory', async () => {
    expect(lots.length).toBeGreaterThan(20);
    await fc.assert(
      fc.asyncProperty(condition, async (where) => {
        const shown = await ask(nell, view({ where }));
        expect(shown.rows.map((r) => r.row.id).sort((a, b) => a - b)).toEqual(await inMemory(where, nell));
        expect(shown.total).toBe(shown.rows.length);
      }),
      { numRuns: 120 },
    );
  });
  test('a record has the first colour that holds; they are counted', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(condition, { minLength: 1, maxLength: 4 }), async (all) => {
        const colours = all.map((where, i) => ({ where, colour: 'moss' as const, sign: '●' as const, word: `w${i}` }));
        const shown = await ask(nell, view({ colours }));
        const holds = await Promise.all(all.map((where) => inMemory(where, nell)));
        for (const { row, colour } of shown.rows) {
          const first = holds.findIndex((ids) => ids.includes(row.id));
          expect(colour).toBe(first < 0 ? null : first);
        }
        expect(shown.whole?.byColour).toEqual(colours.map((_, i) => shown.rows.filter((r) => r.colour === i).length));
      }),
      { numRuns: 40 },
    );
  });
  test('groups have their records together, with counts and sums; a page is a part of the whole', async () => {
    const columns = (await viewed(t.ws, nell, 'lot_intake')).table.columns;
    for (const [column, by] of [['status', 'value'], ['species', 'value'], ['collected_on', 'month'], ['collected_on', 'year'], ['site', 'value']] as const) {
      const v = view({ group: { column, by }, sort: [{ column: 'quantity_g', descending: true }], sums: [{ column: 'quantity_g', of: 'sum' }, { column: 'collected_on', of: 'most' }] });
      const all = await ask(nell, v);
      const { groups } = all.whole!;
      expect(groups!.reduce((n, g) => n + g.count, 0)).toBe(all.total);
      const folded = isFolded(columns.find((c) => c.key === column)!.type);
      const keyOf = (row: Row): unknown => {
        const value = row[column] ?? null;
        return by === 'value' ? (folded && typeof value === 'string' ? foldText(value) : value) : (value as string | null)?.slice(0, by === 'month' ? 7 : 4) ?? null;
      };
      let at = 0;
      for (const g of groups!) {
        const own = all.rows.slice(at, (at += g.count)).map((r) => r.row);
        const value = by === 'value' && folded && typeof g.value === 'string' ? foldText(g.value) : g.value;
        expect(own.every((r) => keyOf(r) === value)).toBe(true);
        const numbers = own.flatMap((r) => (typeof r.quantity_g === 'number' ? [r.quantity_g] : []));
        expect(numbers).toEqual([...numbers].sort((a, b) => b - a));
        if (numbers.length) expect(g.sums[0]).toBeCloseTo(numbers.reduce((a, b) => a + b, 0), 8);
        expect(g.sums[1]).toBe(own.map((r) => r.collected_on as string | null).reduce((a, b) => ((b ?? '') > (a ?? '') ? b : a), null));
      }
      const page = await ask(nell, v, { offset: 7, limit: 5, whole: false });
      expect(page.rows).toEqual(all.rows.slice(7, 12));
      expect(page.whole).toBeNull();
    }
  }); // prettier-ignore
  test('a search finds texts, what linked rows are called, and numbers of records; what is sorted by a link is in the order of its texts', async () => {
    const found = await ask(nell, view({ sort: [{ column: 'species', descending: false }] }), { search: 'quercus' });
    expect(found.total).toBeGreaterThan(0);
    const texts = found.rows.map((r) => found.linked.species?.[r.row.species as number] ?? '');
    expect(texts.every((x) => /quercus/i.test(x))).toBe(true);
    const all = await ask(nell, view({ sort: [{ column: 'species', descending: false }] }));
    const names = all.rows.map((r) => foldText(all.linked.species?.[r.row.species as number] ?? ''));
    expect(names).toEqual([...names].sort((a, b) => (a < b ? -1 : a > b ? 1 : 0)));
    expect((await ask(nell, PLAIN_VIEW, { search: String(lots[3]!.id) })).rows.map((r) => r.row.id)).toContain(lots[3]!.id);
  });
  test('the file is what the screen shows: records, order, columns, colours in words', async () => {
    const v = view({
      where: 'choice.quantity_g > 5', columns: ['species', 'quantity_g'], sort: [{ column: 'quantity_g', descending: true }],
      colours: [{ where: 'choice.quantity_g > 50', colour: 'brick', sign: '▲', word: 'a lot' }],
    }); // prettier-ignore
    const shown = await ask(nell, v);
    const pieces: string[] = [];
    for await (const piece of exportCsv(t.ws, await recordsToExport(t.ws, nell, 'lot_intake', v, ''))) pieces.push(piece);
    const lines = pieces.join('').trim().split('\n');
    expect(lines[0]).toBe('Colour,Species,"Quantity, g"');
    expect(lines.slice(1)).toEqual(
      shown.rows.map((r) => `${r.colour === 0 ? 'a lot' : ''},${shown.linked.species?.[r.row.species as number]},${r.row.quantity_g}`),
    );
  });
  test('a calendar has the records of its days, and counts them', async () => {
    const v = view({ calendar: { from: 'collected_on', until: null } });
    const [from, before] = ['2025-09-01', '2025-11-01'];
    const days = await daysOf(t.ws, nell, 'lot_intake', { view: v, search: '', from, before });
    const expected = lots.filter((l) => (l.collected_on as string) >= from && (l.collected_on as string) < before);
    expect(expected.length).toBeGreaterThan(0);
    expect(days.rows.map((r) => r.row.id).sort((a, b) => a - b)).toEqual(expected.map((l) => l.id));
    expect(days.days.reduce((n, d) => n + d.count, 0)).toBe(expected.length);
    expect((await refusal(daysOf(t.ws, nell, 'lot_intake', { view: PLAIN_VIEW, search: '', from, before }))).status).toBe(422);
  });
  test('a view that is kept is read by an index', async () => {
    await keepView(t.ws, nell, 'lot_intake', { label: 'By day', view: view({ sort: [{ column: 'collected_on', descending: false }] }), shared: false, usual: false }); // prettier-ignore
    const { query } = await viewQuery(t.ws, nell, await viewed(t.ws, nell, 'lot_intake'), view({ sort: [{ column: 'collected_on', descending: false }] }), ''); // prettier-ignore
    const { sql, bindings } = pageStatement(query, 0, 100);
    const plan = await planOf(t.ws.db, sql, bindings);
    expect(plan).toMatch(/using (index )?nx_lots_collected_on/i);
    expect(plan).not.toMatch(/TEMP B-TREE|Sort/);
  });
});

describe('who sees what', () => {
  test('a column that a form hides from somebody cannot be asked for, sorted, summed or searched by them', async () => {
    const { draft, revision } = await draftOf(t.ws, 'lot_intake');
    const hidden = { place: 'viability', seen: [{ who: { roles: ['reviewer' as const], teams: [] }, steps: [] }], filled: [] };
    await saveDraft(t.ws, t.maud, 'lot_intake', { ...draft, access: [...draft.access, hidden] }, revision);
    await publish(t.ws, t.maud, 'lot_intake', null);
    const asked: View[] = [
      view({ where: 'choice.viability > 50' }),
      view({ sort: [{ column: 'viability', descending: false }] }),
      view({ sums: [{ column: 'viability', of: 'mean' }] }),
      view({ group: { column: 'viability', by: 'value' } }),
      view({ colours: [{ where: 'choice.viability > 50', colour: 'moss', sign: '●', word: 'good' }] }),
    ];
    for (const v of asked) {
      expect((await refusal(ask(t.ida, v))).status).toBe(422);
      expect((await ask(nell, v)).total).toBeGreaterThan(0);
    }
    expect((await refusal(valuesNamed(t.ws, t.ida, 'lot_intake', { table: 'lots', column: 'viability', search: '', limit: 5 }))).status).toBe(404); // prettier-ignore
    expect((await refusal(ask(t.ida, view({ where: 'ISBLANK(choice.collector.manager)' })))).status).toBe(422);
    // what is shared and names it is not told to them
    await keepView(t.ws, nell, 'lot_intake', { label: 'Viable', view: asked[0]!, shared: true, usual: false });
    await keepView(t.ws, nell, 'lot_intake', {
      label: 'Heavy',
      view: view({ where: 'choice.quantity_g > 20' }),
      shared: true,
      usual: false,
    });
    await keepView(t.ws, nell, 'lot_intake', { label: 'Mine', view: PLAIN_VIEW, shared: false, usual: true });
    const labels = async (who: Account) => (await viewsOf(t.ws, who, 'lot_intake')).views.map((v) => v.label);
    expect(await labels(t.ida)).toEqual(['Heavy']);
    expect(await labels(nell)).toEqual(['By day', 'Heavy', 'Mine', 'Viable']);
    expect((await viewsOf(t.ws, t.ida, 'lot_intake')).tables.find((x) => x.key === 'lots')!.columns.map((c) => c.key)).not.toContain('viability'); // prettier-ignore
  });
  test('a view is changed by whoever made it; a shared one also by those who build; what everybody sees first only by these', async () => {
    const { views } = await viewsOf(t.ws, nell, 'lot_intake');
    const heavy = views.find((v) => v.label === 'Heavy')!;
    const to = { label: 'Heavier', view: view({ where: 'choice.quantity_g > 30' }), shared: true, usual: false };
    expect((await refusal(changeView(t.ws, t.ida, 'lot_intake', heavy.id, to))).status).toBe(403);
    expect((await refusal(removeView(t.ws, t.ida, 'lot_intake', views.find((v) => v.label === 'Mine')!.id))).status).toBe(404);
    await changeView(t.ws, t.maud, 'lot_intake', heavy.id, { ...to, usual: true });
    expect((await refusal(changeView(t.ws, nell, 'lot_intake', heavy.id, { ...to, usual: true }))).status).toBe(403);
    // one’s own usual one stays so beside it
    expect((await viewsOf(t.ws, nell, 'lot_intake')).views.filter((v) => v.usual).map((v) => v.label)).toEqual(['Heavier', 'Mine']);
    await removeView(t.ws, nell, 'lot_intake', views.find((v) => v.label === 'Mine')!.id);
    expect((await viewsOf(t.ws, nell, 'lot_intake')).views.map((v) => v.label)).toEqual(['By day', 'Heavier', 'Viable']);
  });
  test('a column is renamed: views follow', async () => {
    await renameColumn(t.ws, t.maud, 'lots', 'quantity_g', 'grams');
    const heavier = (await viewsOf(t.ws, nell, 'lot_intake')).views.find((v) => v.label === 'Heavier')!;
    expect(heavier.view.where).toBe('choice.grams > 30');
    expect((await ask(nell, heavier.view)).total).toBe(lots.filter((l) => Number(l.quantity_g) > 30).length);
  });
  test('what is no view, or cannot be asked, is refused with a sentence', async () => {
    for (const v of [
      view({ where: 'choice.nothing = 1' }),
      view({ where: '1 +' }),
      view({ sort: [{ column: 'nothing', descending: true }] }),
    ]) {
      const { status, message } = await refusal(ask(nell, v));
      expect([status, message.length > 10]).toEqual([422, true]);
    }
  });
});
