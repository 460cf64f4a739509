import { narrowingOf } from '../../core/choices/narrowing.ts';
import { shapesOf } from '../../core/model/tables.ts';
import { columnSchema } from '../../core/model/schemas.ts';
import type { Env } from '../../core/formula/env.ts';
import { formula } from '../../core/formula/formula.ts';
import * as T from '../../core/values/typing.ts';
import { openDatabase } from '../../server/database/connection';
import { Lookup } from '../../server/database/lookups';
import { type ModelTable, createTable, ensureIndex } from '../../server/database/model';
import { foldText } from '../../core/values/text.ts';
import { measure, report } from './measure.ts';

const ROWS = 100_000;
const PARENTS = 500;

export default async function run(): Promise<void> {
  const db = await openDatabase(':memory:');
  const column = (key: string, type: string, target: string | null = null) => columnSchema.parse({ key, label: key, type, target });
  const parents: ModelTable = { key: 'parents', label: 'Parents', shown: 'name', columns: [column('name', 'text')] };
  const sheets: ModelTable = {
    key: 'sheets',
    label: 'Sheets',
    shown: 'name',
    columns: [column('name', 'text'), column('owner', 'link', 'parents'), column('active', 'yesno')],
  };
  await createTable(db, parents);
  await createTable(db, sheets);
  await ensureIndex(db, 'sheets', [sheets.columns[1]!, sheets.columns[0]!]);
  await db.transaction(async (tx) => {
    await tx.batchInsert('data_parents', Array.from({ length: PARENTS }, (_, i) => ({ name: `P${i}`, name__fold: `P${i}` })), 200); // prettier-ignore
    await tx.batchInsert('data_sheets', Array.from({ length: ROWS }, (_, i) => ({ name: `Sheet ${i}`, name__fold: foldText(`Sheet ${i}`), owner: (i % PARENTS) + 1, active: i % 7 ? 1 : 0 })), 200); // prettier-ignore
  });
  const tables = shapesOf(new Map([parents, sheets].map((t) => [t.key, { ...t, rows: ROWS, large: true }])));
  const bindings = new Map([
    ['parent_field', { name: 'parent_field', label: 'Parent', type: T.rowOf('parents'), source: { kind: 'slot', slot: 0 } as const }],
    ['choice', { name: 'choice', label: 'choice', type: T.rowOf('sheets'), source: { kind: 'candidate' } as const }],
  ]);
  const narrowing = narrowingOf(formula('choice.owner = parent_field', { bindings, tables }, T.YESNO));
  const env = {
    values: [],
    candidate: null,
    params: [],
    today: '',
    now: '',
    me: null,
    mode: 'new',
    url: {},
    row: () => null,
  } as unknown as Env;
  const lookup = new Lookup(db, sheets, { narrowing, sort: [sheets.columns[0]!], search: ['name'] }, env);
  const { sql, bindings: bound } = lookup.explain({ params: [7], open: [] }, '');
  const plan = (await db.raw(`EXPLAIN QUERY PLAN ${sql}`, bound)) as { detail: string }[];
  console.log(`\nquery plan: ${plan.map((p) => p.detail).join('; ')}`);
  if (!plan.some((p) => p.detail.includes('USING INDEX'))) throw new Error('the lookup does not use an index');
  const connection = (await db.client.acquireConnection()) as { prepare(sql: string): { all(...args: unknown[]): unknown[] } };
  const prepared = connection.prepare(sql);
  await db.client.releaseConnection(connection);
  let at = 0;
  const parent = (): number => (at = (at + 1) % PARENTS) + 1;
  report(
    `First 50 of a narrowed, sorted lookup over ${ROWS.toLocaleString('en')} rows (goal: within 1.3 × of bare Knex)`,
    await measure(
      {
        'bare prepared statement': () => prepared.all(parent(), 50, 0),
        'the same statement through Knex': () => db.raw(sql, [parent(), 50, 0]),
        'the look-up (core’s narrowing, rows of the model)': () => lookup.page({ params: [parent()], open: [] }, '', 0, 50),
        'the look-up with the count of what is offered': async () => {
          const asked = { params: [parent()], open: [] };
          await lookup.count(asked);
          await lookup.page(asked, '', 0, 50);
        },
      },
      60,
    ),
    'the same statement through Knex',
  );
  await db.destroy();
}
