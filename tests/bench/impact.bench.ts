import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { openEntry } from '../../core/engine/entry.ts';
import type { Form } from '../../core/form/definition.ts';
import { accountByEmail } from '../../server/database/accounts';
import { originTexts, writeOriginTexts } from '../../server/database/origins';
import { openDatabase } from '../../server/database/connection';
import { SMALL_DEMO } from '../../server/demo/enter';
import { loadDemo } from '../../server/demo/load';
import { draftOf, publishedForm, saveDraft, soundDraft } from '../../server/services/forms';
import { findImpact } from '../../server/services/impact';
import { impactPage, impactView } from '../../server/services/impactView';
import { addRehearsal, rehearsalsOf, runRehearsals } from '../../server/services/rehearsals';
import { entryRows } from '../../server/database/rows';
import { readRecords } from '../../server/services/manyEntries';
import { settleEntry } from '../../server/services/wants';
import { NOBODY } from '../../server/services/owners';
import { SystemClock, Workspace } from '../../server/services/workspace';
import { goal, othersWait } from './measure.ts';
import { threadsOf } from '../../server/testing/threads';

/* What a draft does to 10,000 lots, against opening the same records with both plans and nothing else; and 100 rehearsals of 10 steps. */
const RECORDS = Number(process.env.BENCH_RECORDS ?? 10_000);
const REHEARSALS = 100;

export default async function run(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'brisk-acorn-bench-'));
  const file = join(folder, 'brisk.sqlite');
  const ws = new Workspace(await openDatabase(file), new SystemClock(), folder, await threadsOf(file, folder));
  await loadDemo(ws, 'demo', (password) => Promise.resolve(password), SMALL_DEMO);
  const maud = (await accountByEmail(ws.db, 'maud@marrowfen.example'))!;
  const lots = (await ws.db('data_lots')) as Record<string, unknown>[];
  // each another code and weight, as records are
  for (let made = lots.length; made < RECORDS; ) {
    const batch = Array.from({ length: Math.min(500, RECORDS - made) }, (__, i) => {
      const { id: _, ...lot } = lots[(made + i) % lots.length]!;
      return { ...lot, code: `MF-B-${made + i}`, quantity_g: 3 + ((made + i) % 977) * 0.37 };
    });
    await ws.db.batchInsert('data_lots', batch, 30);
    made += batch.length;
  }
  // filled in by the form, as the ones they were made of
  const of = await originTexts(ws.db, 'lots', lots.map((l) => l.id as number)); // prettier-ignore
  const all = (await ws.db('data_lots').orderBy('id').select('id')) as { id: number }[];
  const noteOf = (i: number): string => of.get(lots[i % lots.length]!.id as number) ?? '{}';
  await writeOriginTexts(ws.db, 'lots', all.map(({ id }, i) => [id, noteOf(i)])); // prettier-ignore
  ws.rowsChanged('lots');
  const { draft, revision } = await draftOf(ws, 'lot_intake');
  const changed = JSON.parse(JSON.stringify(draft)) as Form;
  (changed.fields.storage_c!.value as { formula: string }).formula = 'IF(species.protected, species.storage_c - 2, species.storage_c)';
  (changed.fields.germination_days!.value as { formula: string }).formula = 'species.germination_days + 2';
  changed.fields.quantity_g!.checks.push({ when: 'quantity_g > 300', message: 'More than a box holds: {quantity_g}', severity: 'error' });
  await saveDraft(ws, maud, 'lot_intake', changed, revision);

  const plans = [(await publishedForm(ws, 'lot_intake')).plan, (await soundDraft(ws, 'lot_intake')).plan];
  const ALONE = 1000;
  let alone = 0;
  for (const plan of plans) {
    const rows = await entryRows(ws.db, await ws.modelTable('lots'), { after: 0, limit: ALONE });
    const records = await readRecords(ws, plan, rows);
    const cache = ws.newCache();
    const open = (i: number) =>
      openEntry(plan, { mode: 'edit', today: '2026-03-10', now: '2026-03-10T09:00:00', me: maud.person, isQuiet: true }, cache, records[i]!.record);
    await settleEntry(ws, open(0), { ...NOBODY, person: maud.person });
    const began = performance.now();
    for (let i = 0; i < ALONE; i++) open(i);
    alone += (performance.now() - began) / ALONE;
  }
  const { result: view, took: ms, longest, beside } = await othersWait(() => findImpact(ws, maud, 'lot_intake'));
  console.log(`\nImpact on ${view.looked.toLocaleString('en')} lots, ${Object.keys(changed.fields).length} fields: ${view.counts.map((c) => `${c.field} ${c.kind} ${c.records}`).join(', ')}`);
  console.log(`  both plans, opened alone   ${(1000 / alone).toFixed(0).padStart(6)} records/s`);
  console.log(`  impact                     ${((view.looked / ms) * 1000).toFixed(0).padStart(6)} records/s   ${(ms / view.looked / alone).toFixed(2)} × opening alone   others waited at most ${longest.toFixed(0)} ms`);

  goal({ what: `impact of a draft on ${RECORDS.toLocaleString('en')} lots`, measured: (view.looked / ms) * 1000, unit: 'records/s', least: 30_000, beside: `both plans opened alone: ${(1000 / alone).toFixed(0)}/s` });
  goal({ what: 'others wait while that goes on, at most', measured: longest, unit: 'ms', most: 50, beside });
  // threads that have done so before; and what was found before is forgotten, counted and looked at
  const again = await othersWait(() => findImpact(ws, maud, 'lot_intake'));
  const looked = await othersWait(async () => [await impactView(ws, 'lot_intake', again.result.id), await impactPage(ws, 'lot_intake', again.result.id, { offset: RECORDS / 2, limit: 50 })]);
  console.log(`  asked again                ${((view.looked / again.took) * 1000).toFixed(0).padStart(6)} records/s   others waited at most ${again.longest.toFixed(0)} ms, while it is looked at ${looked.longest.toFixed(0)} ms`);
  goal({ what: 'the same, asked again', measured: (view.looked / again.took) * 1000, unit: 'records/s', least: 30_000 });
  goal({ what: 'others wait while what was found is forgotten, found and looked at', measured: Math.max(again.longest, looked.longest), unit: 'ms', most: 50, beside: again.longest > looked.longest ? again.beside : looked.beside });

  const [first] = await rehearsalsOf(ws, 'lot_intake');
  const steps = [...first!.rehearsal.steps, ...first!.rehearsal.steps].slice(0, 10);
  for (let i = 0; i < REHEARSALS; i++) await addRehearsal(ws, maud, 'lot_intake', { ...first!.rehearsal, label: `Rehearsal ${i}`, steps });
  const ran = await runRehearsals(ws, 'lot_intake', {});
  console.log(`  ${ran.results.length} rehearsals of about 10 steps: ${(ran.milliseconds / 1000).toFixed(1)} s, ${(ran.milliseconds / ran.results.length).toFixed(0)} ms each`);
  await ws.work.close();
  await ws.db.destroy();
  rmSync(folder, { recursive: true, force: true });
} // prettier-ignore
