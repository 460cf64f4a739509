import { openDatabase } from '../../server/database/connection';
import { createTable } from '../../server/database/model';
import { addForm } from '../../server/services/forms';
import { publish } from '../../server/services/publishing';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { previewBackfill } from '../../server/services/backfillPreview';
import { applyBackfill, undoBackfill } from '../../server/services/backfillWrite';
import { threadsOf } from '../../server/testing/threads';
import { SystemClock, Workspace } from '../../server/services/workspace';
import type { Account } from '../../server/database/accounts';
import { goal, othersWait } from './measure.ts';
import { columnSchema } from '../../core/model/schemas.ts';
import { parseForm } from '../../core/form/schemas.ts';
import { compileForm } from '../../core/engine/compile.ts';
import { openEntry } from '../../core/engine/entry.ts';
import { extentOf } from '../../core/engine/extent.ts';
import { Straight } from '../../core/engine/straight.ts';
import { backfill, toGive } from '../../core/engine/backfill.ts';

/* A backfill of 20 calculations over 100,000 records, each of other weights of many digits: preview, apply, undo, and how long others wait meanwhile. */
const RECORDS = Number(process.env.BENCH_RECORDS ?? 100_000);
const FORMULAS = 20;
/** Records that are measured by themselves as well: the code is still being compiled while they go through. */
const FIRST = Math.min(5000, RECORDS);
const ME = { id: 1, email: 'b@marrowfen.example', roles: ['designer'], team: null, person: 1, name: 'B', demo: false } as Account;

export default async function run(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'brisk-acorn-bench-'));
  const file = join(folder, 'brisk.sqlite');
  const ws = new Workspace(await openDatabase(file), new SystemClock(), folder, await threadsOf(file, folder));
  await ws.db('data_people').insert({ id: 1, name: 'B' });
  await ws
    .db('accounts')
    .insert({ id: 1, email: ME.email, password_hash: 'x', role: 'designer', roles: '["designer"]', person_id: 1, demo: false });
  const numbers = ['a', 'b', ...Array.from({ length: FORMULAS }, (_, i) => `f${i}`)];
  const columns = numbers.map((key) => columnSchema.parse({ key, label: key, type: 'number' }));
  await createTable(ws.db, { key: 'weights', label: 'Weights', shown: null, columns });
  ws.modelChanged();
  const field = (key: string, formula: string | null) =>
    [key, { label: key, type: 'number', column: key, value: formula && { kind: 'calculation', formula } }] as const;
  const fields = Object.fromEntries([
    field('a', null),
    field('b', null),
    ...Array.from({ length: FORMULAS }, (_, i) => field(`f${i}`, `ROUND(a * ${(1.17 + i * 0.83).toFixed(2)} + b / 3, 2)`)),
  ]);
  const form = parseForm({
    key: 'weights', label: 'Weights', table: 'weights', fields,
    pages: [{ id: 'p', label: '', sections: [{ id: 's', label: '', fields: Object.keys(fields) }] }],
  }); // prettier-ignore
  await addForm(ws, null, form);
  await publish(ws, null, 'weights', null);
  await ws.db.raw(
    `INSERT INTO data_weights (a, b, _created_by) WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ${RECORDS}) SELECT i * 6180339 % 9970001 / 10000.0, i * 314159 % 89003 / 1000.0, 1 FROM n`,
  );
  ws.rowsChanged('weights');

  const asked = { fields: Array.from({ length: FORMULAS }, (_, i) => `f${i}`), over: 'empty' as const, subset: null };
  // the engine alone, without reading and writing
  const plan = compileForm(form, await ws.tables());
  const give = toGive(plan, asked.fields);
  const context = { mode: 'edit', today: '2026-01-01', now: '2026-01-01T00:00:00', me: 1 } as const;
  const recordOf = (i: number) => ({ values: { a: ((i * 6180339) % 9970001) / 10000, b: ((i * 314159) % 89003) / 1000 }, origins: {} });
  const way = Straight.of(plan, give, extentOf(plan, asked.fields))!;
  const cache = ws.newCache();
  const bare = performance.now();
  let first = 0;
  for (let i = 0; i < RECORDS; i++) {
    if (way.backfill(recordOf(i), context, cache, asked.over)?.given.length !== FORMULAS) throw new Error('it is not told straight');
    if (i + 1 === FIRST) first = (performance.now() - bare) / FIRST;
  }
  const alone = (performance.now() - bare) / RECORDS;
  const entries = performance.now();
  for (let i = 0; i < FIRST; i++) {
    const record = recordOf(i);
    if (!backfill(openEntry(plan, context, ws.newCache(), record), record, give, asked.over).next().done)
      throw new Error('it wants something');
  }
  const opened = (performance.now() - entries) / FIRST;
  goal({
    what: `${FORMULAS} formulas over a record, the engine alone`,
    measured: 1000 / alone,
    unit: 'records/s',
    least: 100_000,
    beside: `each opened as an entry: ${(1000 / opened).toFixed(0)}/s`,
  });
  goal({ what: `the first ${FIRST} of them, from a cold start`, measured: 1000 / first, unit: 'records/s', least: 100_000 });
  console.log(
    `\nThe engine alone: ${(1000 / alone).toFixed(0)} records/s for ${FORMULAS} formulas; the first ${FIRST} ${(1000 / first).toFixed(0)}; each opened as an entry ${(1000 / opened).toFixed(0)}`,
  );

  const timed = async <T>(name: string, work: () => Promise<T>): Promise<T> => {
    const { result, took: ms, longest, beside } = await othersWait(work);
    console.log(
      `  ${name.padEnd(10)} ${(ms / 1000).toFixed(1).padStart(6)} s   ${((RECORDS / ms) * 1000).toFixed(0).padStart(8)} records/s   ${(ms / RECORDS / alone).toFixed(2)} × the engine alone   others waited at most ${longest.toFixed(0)} ms`,
    );
    goal({ what: `backfill of ${FORMULAS} formulas over ${RECORDS.toLocaleString('en')} records: ${name}`, measured: (RECORDS / ms) * 1000, unit: 'records/s', least: 30_000 }); // prettier-ignore
    goal({ what: `others wait while that goes on (${name}), at most`, measured: longest, unit: 'ms', most: 50, beside });
    return result;
  };
  console.log(`\n${RECORDS.toLocaleString('en')} records, database in a file`);
  const view = await timed('preview', () => previewBackfill(ws, ME, 'weights', asked));
  if (view.records.proposed !== RECORDS) throw new Error('not every record is proposed');
  await timed('apply', () => applyBackfill(ws, ME, 'weights', view.id));
  await timed('undo', () => undoBackfill(ws, ME, 'weights', view.id));
  const [left] = (await ws.db('data_weights').whereNotNull('f0').count({ n: '*' })) as { n: number }[];
  if (left?.n !== 0) throw new Error('something was not put back');
  await ws.work.close();
  await ws.db.destroy();
  rmSync(folder, { recursive: true, force: true });
}
