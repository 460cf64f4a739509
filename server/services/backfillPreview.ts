import { type BackfillOutcome, backfill, fillable, toGive } from '../../core/engine/backfill.ts';
import type { Account } from '../database/accounts';
import { extentOf } from '../../core/engine/extent.ts';
import type { Plan } from '../../core/engine/plan.ts';
import { Straight } from '../../core/engine/straight.ts';
import * as store from '../database/backfills';
import type { ColumnsRead } from '../database/rows';
import { writeLater } from '../database/later';
import { type BackfillView, backfillView, dropBackfill } from './backfillView';
import { Refused } from './errors';
import { publishedForm } from './forms';
import { rowsOfImpact } from './impactView';
import { type JobHandle, UNWATCHED } from './jobs';
import { type DoneRecord, ManyEntries, type NumbersGiven, TOGETHER, readRecords, takesNumbers } from './manyEntries';
import { MOST_FOUND, type Part, type PartDone, inParts, recordPages, restOf } from './parts';
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
    const rows = asked.impact ? await rowsOfImpact(ws, key, asked.impact) : null;
    const looked = await inParts(
      ws,
      {
        table: form.table,
        which: { subset: asked.subset, rows },
        total: Math.max(1, rows?.length ?? (await ws.rowCount(form.table))),
        carry: [] as NumbersGiven,
        oneByOne: takesNumbers(plan, asked.fields),
        compute: (part, numbers, own) => ws.work.run('backfill', { form: key, version, asked, part, numbers }, own),
        keep: (records) => writeLater(ws.db, (db) => store.addBackfillRecords(db, id, records)),
      },
      job,
    );
    await store.setBackfill(ws.db, id, { looked });
  } catch (e) {
    await dropBackfill(ws, id);
    throw e;
  }
  for (const old of await store.otherProposals(ws.db, key, id)) await dropBackfill(ws, old);
  return backfillView(ws, key, id);
}

export interface BackfillPart {
  readonly form: string;
  readonly version: number;
  readonly asked: store.BackfillAsked;
  readonly part: Part;
  readonly numbers: NumbersGiven;
}
/** The computing of a preview for some of the records, where nobody waits for it. */
export async function computeBackfill(
  ws: Workspace,
  { form, version, asked, part, numbers }: BackfillPart,
  job: JobHandle,
): Promise<PartDone<store.PackedRecord, NumbersGiven>> {
  const { plan } = await publishedForm(ws, form, version);
  const fields = toGive(plan, asked.fields);
  const extent = extentOf(plan, asked.fields);
  const way = Straight.of(plan, fields, extent);
  const entries = await ManyEntries.of(ws, plan, (entry, record) => backfill(entry, record, fields, asked.over), {
    extent,
    straight: way && { columns: way.columns, tell: (record, context, cache) => way.backfill(record, context, cache, asked.over) },
    numbers,
  });
  const each = takesNumbers(plan, asked.fields) ? 1 : TOGETHER;
  const found: store.PackedRecord[] = [];
  let [looked, length] = [0, 0];
  let read: ColumnsRead;
  for await (const page of recordPages(ws, plan.form.table, part, () => (read = entries.columns))) {
    const records = await readRecords(ws, plan, page, read === undefined);
    for (let i = 0; i < records.length; i += each) {
      const some = records.slice(i, i + each);
      const done = await entries.run(some);
      for (const one of done.flatMap((o) => (o ? proposed(plan, o) : []))) {
        found.push(one);
        length += one[GIVEN].length;
      }
      entries.goOn(done);
      job.at((looked += some.length));
      if (length > MOST_FOUND) return { looked, found, carry: entries.given, rest: restOf(part, looked, some.at(-1)!.row.row.id) };
    }
  }
  return { looked, found, carry: entries.given };
}

/** Where in a record as it is kept its values stand. */
const GIVEN = 4;
/** What is kept of a record: nothing where nothing would change. */
function proposed(plan: Plan, { row, lineRevisions, outcome, series }: DoneRecord<BackfillOutcome>): store.PackedRecord[] {
  const { given, problems } = outcome;
  const labelled = (field: string): string => plan.fields[plan.slots.get(field) ?? -1]?.definition.label ?? field;
  const base = { row: row.row.id, revision: row.revision, lineRevisions: {}, given: [], series: [], problem: null };
  const kept = (more: Pick<store.BackfillRecord, 'state'> & Partial<store.BackfillRecord>) => [store.packedRecord({ ...base, ...more })];
  if (problems.length) return kept({ state: 'refused', problem: problems.map((p) => `${labelled(p.field)}: ${p.message}`).join(' ') });
  if (!given.length) return [];
  const lines = new Set(given.flatMap((g) => (g.line === null ? [] : [g.line])));
  const revisions = Object.fromEntries([...lines].map((line) => [line, lineRevisions.get(line) ?? 1]));
  return kept({ state: 'proposed', lineRevisions: revisions, given, series: [...series] });
}
