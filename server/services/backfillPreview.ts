import { type BackfillOutcome, backfill, fillable } from '../../core/engine/backfill.ts';
import type { Plan } from '../../core/engine/plan.ts';
import type { Account } from '../database/accounts';
import * as store from '../database/backfills';
import type { Out } from '../work/working';
import { type BackfillView, backfillView } from './backfillView';
import { Refused } from './errors';
import { publishedForm } from './forms';
import { rowsOfImpact } from './impactView';
import { type JobHandle, UNWATCHED } from './jobs';
import { ManyEntries, type OpenRecord, PAGE, TOGETHER, readRecords, recordPages, takesNumbers } from './manyEntries';
import type { Workspace } from './workspace';

/**
 * Computes what chosen fields of existing records would get from the newest published version, record by record, and keeps
 * it as a proposal. Nothing of the records is changed. Cancelled or failed, it leaves nothing.
 */
export async function previewBackfill(
  ws: Workspace,
  account: Account,
  key: string,
  asked: store.BackfillAsked,
  job: JobHandle = UNWATCHED,
): Promise<BackfillView> {
  const { form, version, plan } = await publishedForm(ws, key);
  const can = new Set(fillable(plan).map((f) => f.key));
  const cannot = asked.fields.find((f) => !can.has(f));
  if (!asked.fields.length) throw new Refused(422, 'values', 'Choose at least one field to fill.', {});
  if (cannot !== undefined)
    throw new Refused(422, 'values', `“${cannot}” has no default, prefill or calculation in version ${version} of ${form.label}.`, {});
  const head = { form: key, version, asked, at: ws.clock.now(), account: account.id };
  const id = await ws.db.transaction((db) => store.addBackfill(db, head));
  try {
    const looked = await ws.work.run('backfill', { form: key, version, asked }, job, (records) =>
      store.addBackfillRecords(ws.db, id, records),
    );
    await store.setBackfill(ws.db, id, { looked });
    await store.dropProposals(ws.db, key, id);
  } catch (e) {
    await store.dropBackfill(ws.db, id);
    throw e;
  }
  return backfillView(ws, key, id);
}

/** The computing of a preview, where nobody waits for it; hands over what is proposed, and gives how many records it looked at. */
export async function computeBackfill(
  ws: Workspace,
  { form, version, asked }: { form: string; version: number; asked: store.BackfillAsked },
  out: Out<readonly Proposed[]>,
): Promise<number> {
  const { plan } = await publishedForm(ws, form, version);
  const entries = await ManyEntries.of(ws, plan, (entry, record) => backfill(entry, record, asked.fields, asked.over));
  const rows = asked.impact ? await rowsOfImpact(ws, form, asked.impact) : null;
  const total = Math.max(1, rows?.length ?? (await ws.rowCount(plan.form.table)));
  const each = takesNumbers(plan, asked.fields) ? 1 : TOGETHER;
  let looked = 0;
  for await (const page of recordPages(ws, plan.form.table, { subset: asked.subset, rows })) {
    const records = await readRecords(ws, plan, page);
    if (looked % (PAGE * 20) === 0) entries.forget();
    for (let i = 0; i < records.length; i += each) {
      const done = await entries.run(records.slice(i, i + each));
      await out.keep(done.flatMap((o) => proposed(plan, o) ?? []));
      entries.goOn(done);
      out.at(Math.min(1, (looked + i) / total), `looking at record ${looked + i + 1} of about ${total}`);
    }
    looked += page.length;
  }
  return looked;
}

type Proposed = Omit<store.BackfillRecord, 'id'>;

/** What is kept of a record: nothing where nothing would change. */
function proposed(plan: Plan, { row, lineRevisions, entry, outcome }: OpenRecord<BackfillOutcome>): Proposed | null {
  const { given, problems } = outcome as BackfillOutcome;
  const labelled = (field: string): string => entry.field(field).definition.label;
  const base = { row: row.row.id, revision: row.revision, lineRevisions: {}, given: [], series: [], problem: null };
  if (problems.length) return { ...base, state: 'refused', problem: problems.map((p) => `${labelled(p.field)}: ${p.message}`).join(' ') };
  if (!given.length) return null;
  const lines = new Set(given.flatMap((g) => (g.line === null ? [] : [g.line])));
  const revisions = Object.fromEntries([...lines].map((line) => [line, lineRevisions.get(line) ?? 1]));
  return { ...base, state: 'proposed', lineRevisions: revisions, given, series: [...entry.seriesTaken] };
}
