import { PLAIN_VIEW } from '../../core/choices/views.ts';
import { viewSchema } from '../../core/choices/viewSchemas.ts';
import { pageStatement, viewGroups, viewPage, viewTotals } from '../../server/database/viewRows.ts';
import { ensureIndex } from '../../server/database/model.ts';
import { analyse } from '../../server/database/generate.ts';
import { foldText } from '../../core/values/text.ts';
import { tryRows } from '../../server/services/manyRows.ts';
import { viewQuery, viewed } from '../../server/services/viewQuery.ts';
import { openDatabase } from '../../server/database/connection';
import { accountByEmail } from '../../server/database/accounts';
import { SMALL_DEMO } from '../../server/demo/enter';
import { loadDemo } from '../../server/demo/load';
import { SystemClock, Workspace } from '../../server/services/workspace';
import { measure, report } from './measure.ts';

/* Records as a list of a hundred thousand: each question beside the bare statement for the same rows. Rows of a sheet through the form. */

const ROWS = 100_000;
const SPECIES = 260;

export default async function run(): Promise<void> {
  const ws = new Workspace(await openDatabase(':memory:'), new SystemClock());
  await loadDemo(ws, 'demo', (password) => Promise.resolve(password), SMALL_DEMO);
  const account = (await accountByEmail(ws.db, 'nell@marrowfen.example'))!;
  const before = ((await ws.db('data_lots').count({ n: '*' })) as { n: number }[])[0]!.n;
  // figures as they occur: many digits, dates over ten years, all steps and species
  const steps = ['registered', 'in quarantine', 'released', 'rejected'];
  await ws.db.transaction(async (tx) => {
    const made = Array.from({ length: ROWS - before }, (_, i) => {
      const code = `MF-${2016 + (i % 10)}-${String(i).padStart(6, '0')}`;
      const status = steps[i % 4]!;
      return {
        code, code__fold: foldText(code), status, status__fold: foldText(status), species: (i * 7) % SPECIES + 1, site: (i * 13) % 70 + 1,
        quantity_g: Math.round((i * 7919.137) % 1_000_000) / 1000, collected_on: `${2016 + (i % 10)}-${String((i % 12) + 1).padStart(2, '0')}-${String((i % 28) + 1).padStart(2, '0')}`,
      }; // prettier-ignore
    });
    await tx.batchInsert('data_lots', made, 200);
  });
  ws.rowsChanged('lots');
  const v = await viewed(ws, account, 'lot_intake');
  const columnOf = (key: string) => v.table.columns.find((c) => c.key === key)!;
  for (const key of ['collected_on', 'status', 'quantity_g']) await ensureIndex(ws.db, 'lots', [columnOf(key)]);
  await analyse(ws.db);
  const asked = {
    plain: PLAIN_VIEW,
    sorted: viewSchema.parse({ sort: [{ column: 'collected_on', descending: false }] }),
    narrowed: viewSchema.parse({ where: 'choice.status = "released" AND choice.quantity_g > 500', sort: [{ column: 'collected_on', descending: false }] }),
    grouped: viewSchema.parse({ group: { column: 'status', by: 'value' }, sums: [{ column: 'quantity_g', of: 'sum' }] }),
    coloured: viewSchema.parse({ colours: [{ where: 'choice.quantity_g > 900', colour: 'brick', sign: '▲', word: 'a lot' }, { where: 'choice.collected_on < TODAY() - 900', colour: 'ochre', sign: '◆', word: 'old' }] }),
  }; // prettier-ignore
  const queries = Object.fromEntries(
    await Promise.all(Object.entries(asked).map(async ([name, view]) => [name, (await viewQuery(ws, account, v, view, '', !view.sort.length)).query] as const)), // prettier-ignore
  );
  const { sql, bindings } = pageStatement(queries.sorted!, 0, 100);
  const plan = ((await ws.db.raw(`EXPLAIN QUERY PLAN ${sql}`, [...bindings])) as { detail: string }[]).map((p) => p.detail).join('; ');
  console.log(`\nquery plan, sorted: ${plan}`);
  if (!plan.includes('USING INDEX') || plan.includes('TEMP B-TREE')) throw new Error('the sorted page does not use its index');
  let i = 0;
  const offset = (): number => (i = (i + 4999) % (ROWS - 200));
  report(
    `A page of 100 of ${ROWS.toLocaleString('en')} records`,
    await measure(
      {
        'bare statement, by number': () => ws.db('data_lots').orderBy('id', 'desc').limit(100),
        'first page': () => viewPage(ws.db, queries.plain!, 0, 100),
        'first page, sorted by a date': () => viewPage(ws.db, queries.sorted!, 0, 100),
        'first page, narrowed and sorted': () => viewPage(ws.db, queries.narrowed!, 0, 100),
        'first page, coloured': () => viewPage(ws.db, queries.coloured!, 0, 100),
        'any page, sorted by a date': () => viewPage(ws.db, queries.sorted!, offset(), 100),
        'bare statement, any page': () => ws.db('data_lots').orderBy(['collected_on', 'id']).limit(100).offset(offset()),
      },
      3,
      9,
    ),
    'bare statement, by number',
  );
  report(
    'What is told of all of them',
    await measure(
      {
        'bare count': () => ws.db('data_lots').count({ n: '*' }),
        'how many': () => viewTotals(ws.db, queries.plain!, []),
        'how many are narrowed to': () => viewTotals(ws.db, queries.narrowed!, []),
        'groups with a sum': () => viewGroups(ws.db, queries.grouped!, [{ column: columnOf('quantity_g'), of: 'sum' }], 500),
        'bare groups with a sum': () => ws.db('data_lots').select('status__fold').sum('quantity_g').groupBy('status__fold'),
        'counts by colour': () => viewTotals(ws.db, queries.coloured!, []),
      },
      1,
      7,
    ),
    'bare count',
  );
  const species = ['Quercus robur', 'Betula pubescens', 'Rosa canina'];
  const rows = Array.from({ length: 1000 }, (_, n) => [species[n % 3]!, 'North Marrow', 'Bittern Reach', `2025-10-0${(n % 9) + 1}`, String(1 + (n * 7.137) % 400)]);
  const columns = ['species', 'region', 'site', 'collected_on', 'quantity_g'];
  const started = performance.now();
  await tryRows(ws, account, 'lot_intake', { columns, rows });
  const took = performance.now() - started;
  console.log(`\n1,000 rows of a sheet through the form: ${(took / 1000).toFixed(1)} s, ${(took / rows.length).toFixed(1)} ms a row`);
  await ws.close();
} // prettier-ignore
