import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { openEntry } from '../../core/engine/entry.ts';
import type { Edit } from '../../core/engine/state.ts';
import { accountByEmail } from '../../server/database/accounts';
import { openDatabase } from '../../server/database/connection';
import { SMALL_DEMO } from '../../server/demo/enter';
import { loadDemo } from '../../server/demo/load';
import { publishedForm } from '../../server/services/forms';
import { settleEntry } from '../../server/services/wants';
import { SystemClock, Workspace } from '../../server/services/workspace';
import { goal } from './measure.ts';

/* What an edit of the demo's forms allocates, and what a chain of 500 does: memory taken from one collection of garbage to the next. */
const EDITS = 300;

/** Collects garbage; only here, where what is allocated is counted. */
function collector(): () => void {
  setFlagsFromString('--expose-gc');
  return runInNewContext('gc') as () => void;
}

export default async function run(): Promise<void> {
  const collect = collector();
  // files of the demo are written where they are taken away again
  const folder = mkdtempSync(join(tmpdir(), 'brisk-acorn-bench-'));
  const ws = new Workspace(await openDatabase(':memory:'), new SystemClock(), folder);
  await loadDemo(ws, 'demo', (password) => Promise.resolve(password), SMALL_DEMO);
  const ida = (await accountByEmail(ws.db, 'ida@marrowfen.example'))!;
  console.log('\nAllocated by an edit (median of rounds, the collector asked in between)');
  const cases: readonly (readonly [form: string, edit: (value: number) => Edit])[] = [
    ['lot_intake', (value) => ({ kind: 'set', field: 'quantity_g', value })],
    ['seed_request', (value) => ({ kind: 'set', field: 'packets.price', line: -1, value })],
    ['bench_task', (value) => ({ kind: 'set', field: 'task', value: `Turn the trays ${value}` })],
  ];
  for (const [form, edit] of cases) {
    const { plan } = await publishedForm(ws, form);
    const now = ws.clock.now();
    const entry = openEntry(plan, { mode: 'new', today: now.slice(0, 10), now, me: ida.person, roles: ida.roles }, ws.newCache());
    await settleEntry(ws, entry, ida);
    let n = 0;
    const next = (): number => Number((((n = (n + 1) % 99_991) * 7919) % 99_991) / 100 + 0.01).valueOf();
    for (let i = 0; i < 3000; i++) entry.apply([edit(next())]);
    const taken: number[] = [];
    for (let round = 0; round < 15; round++) {
      // read as they come from a screen: a text that is put together here is copied once more when it is first read, which is no part of an edit
      const edits = JSON.parse(JSON.stringify(Array.from({ length: EDITS }, () => [edit(next())]))) as Edit[][];
      collect();
      const before = process.memoryUsage().heapUsed;
      for (const one of edits) entry.apply(one);
      taken.push((process.memoryUsage().heapUsed - before) / EDITS);
    }
    const median = taken.sort((a, b) => a - b)[7] ?? NaN;
    console.log(`  ${form.padEnd(20)} ${(median / 1000).toFixed(2).padStart(7)} kB`);
    goal({ what: `allocated by an edit of ${form}`, measured: median / 1000, unit: 'kB', most: 1 });
  }
  await ws.db.destroy();
  rmSync(folder, { recursive: true, force: true });
}
