import { affectedFills } from '../../core/engine/affected.ts';
import { toGive } from '../../core/engine/backfill.ts';
import { type Weighed, impactOn, weigh } from '../../core/engine/impact.ts';
import { type Extent, extentsOf } from '../../core/engine/extent.ts';
import type { Plan } from '../../core/engine/plan.ts';
import { Straight } from '../../core/engine/straight.ts';
import type { Form } from '../../core/form/definition.ts';
import { addSeconds } from '../../core/values/dates.ts';
import { type Account, allAccounts } from '../database/accounts';
import * as store from '../database/impacts';
import { writeLater } from '../database/later';
import type { ColumnsRead } from '../database/rows';
import { seenOnlyOneWay } from '../database/seen';
import { Refused } from './errors';
import { publishedForm, publishedOrNull, soundDraft } from './forms';
import { type ImpactView, impactView } from './impactView';
import { type JobHandle, UNWATCHED } from './jobs';
import { ManyEntries, type NumbersGiven, type StraightWay, TOGETHER, readAlike, readRecords, takesNumbers } from './manyEntries';
import { ownedForms, rowsSeen, seesAll } from './owners';
import { Pace, othersFirst } from './pace';
import { MOST_FOUND, type Part, type PartDone, inParts, recordPages, restOf } from './parts';
import type { Workspace } from './workspace';

/*
 * Impact: what a draft does to the records that exist, before it is published. Both versions are run on every record, where nobody waits
 * for it; what they do not agree on is kept, to be counted and looked at.
 */

/** After how many seconds a look that never ended was cut off: by a server that stopped. */
const ABANDONED = 24 * 3600;

/** Finds what the draft of a form would do. Nothing of the records is changed. Cancelled or failed, it leaves nothing. */
export async function findImpact(ws: Workspace, account: Account, key: string, job: JobHandle = UNWATCHED): Promise<ImpactView> {
  const began = Date.now();
  const { revision, plan } = await soundDraft(ws, key);
  const published = await publishedOrNull(ws, key);
  const head = { form: key, version: published?.version ?? null, draftRevision: revision, fields: affectedFills(published?.plan ?? null, plan), at: ws.clock.now(), account: account.id }; // prettier-ignore
  const before = await store.finishedImpacts(ws.db, key);
  const id = await store.addImpact(ws.db, head);
  try {
    const looked = await inParts(
      ws,
      {
        table: plan.form.table,
        which: { subset: null },
        total: Math.max(1, await ws.rowCount(plan.form.table)),
        carry: { now: [], was: [] } as ImpactCarry,
        oneByOne: takesNumbers(plan, head.fields),
        compute: (part, carry, own) =>
          ws.work.run('impact', { form: key, version: head.version, revision, fields: head.fields, part, carry }, own),
        keep: (rows) => writeLater(ws.db, (db) => store.addImpactRows(db, id, rows)),
      },
      job,
    );
    await store.finishImpact(ws.db, id, { looked, milliseconds: Date.now() - began });
  } catch (e) {
    await dropImpact(ws, id);
    throw e;
  }
  // what was found before this was begun is forgotten; what others found meanwhile, and may be looking at, stays, and what they still look for
  const abandoned = await store.abandonedImpacts(ws.db, key, addSeconds(ws.clock.now(), -ABANDONED) ?? '');
  for (const old of [...before, ...abandoned.filter((i) => i !== id)]) await dropImpact(ws, old);
  return impactView(ws, key, id);
}
/** Forgets what was found: nobody finds it from now on, and it goes a little at a time. */
async function dropImpact(ws: Workspace, id: number): Promise<void> {
  await store.hideImpact(ws.db, id);
  while (!(await store.dropSomeOfImpact(ws.db, id))) await othersFirst();
}

/** The numbers that the draft, and the version before, have given out so far. */
interface ImpactCarry {
  readonly now: NumbersGiven;
  readonly was: NumbersGiven;
}
export interface ImpactInput {
  readonly form: string;
  readonly version: number | null;
  readonly revision: number;
  readonly fields: readonly string[];
  readonly part: Part;
  readonly carry: ImpactCarry;
}
/** The computing of an impact on some of the records. */
export async function computeImpact(
  ws: Workspace,
  { form, version, revision, fields, part, carry }: ImpactInput,
  job: JobHandle,
): Promise<PartDone<store.PackedImpact, ImpactCarry>> {
  const draft = await soundDraft(ws, form);
  if (draft.revision !== revision) throw new Refused(409, 'changedMeanwhile', 'The draft was changed meanwhile. Look again.', {});
  const published = version === null ? null : await publishedForm(ws, form, version);
  const table = draft.form.table;
  // what both come to alike is not worked out
  const extents = published && extentsOf(published.plan, draft.plan, fields);
  const now = await weighing(ws, draft.plan, fields, { extent: extents?.now, numbers: carry.now });
  const inBoth = fields.filter((f) => published?.plan.slots.has(f));
  const was = published && (await weighing(ws, published.plan, inBoth, { extent: extents?.before, numbers: carry.was }));
  const areAlike = published !== null && readAlike(published.plan, draft.plan);
  const each = takesNumbers(draft.plan, fields) ? 1 : TOGETHER;
  const seen = await seenByOthers(ws, published?.form ?? null, draft.form);
  const found: store.PackedImpact[] = [];
  let [looked, length] = [0, 0];
  const given = (): ImpactCarry => ({ now: now.given, was: was?.given ?? [] });
  let read: ColumnsRead;
  for await (const page of recordPages(ws, table, part, () => (read = areAlike || !published ? enoughForBoth(now, was) : undefined))) {
    const records = await readRecords(ws, draft.plan, page, read === undefined);
    const before = published && (areAlike ? records : await readRecords(ws, published.plan, page));
    for (let i = 0; i < records.length; i += each) {
      const some = records.slice(i, i + each);
      const done = await now.run(some);
      // one that the draft needed the rest of is looked at as it was then
      const earlier = was && before && (await was.run(areAlike ? some.map((r, n) => done[n] ?? r) : before.slice(i, i + each)));
      for (let n = 0; n < some.length; n++) {
        let o = done[n];
        const e = earlier && earlier[n];
        // so is, by the draft, one that somebody changed before the version before needed the rest of it
        if (o && e && e.row.revision !== o.row.revision) [o] = await now.run([e]);
        if (!o || (earlier && !e)) continue;
        const row = o.row.row.id;
        const of: store.FoundInRow[] = impactOn(e?.outcome ?? null, o.outcome);
        const bySight = seen.get(row);
        for (const f of bySight ? [...of, ...bySight] : of) {
          const packed = store.packedImpact(row, f);
          found.push(packed);
          length += packed[3].length;
        }
      }
      now.goOn(done);
      if (was && earlier) was.goOn(earlier);
      job.at((looked += some.length));
      if (length > MOST_FOUND) return { looked, found, carry: given(), rest: restOf(part, looked, some.at(-1)!.row.row.id) };
    }
  }
  return { looked, found, carry: given() };
}
/** The columns that are enough for both. */
function enoughForBoth(now: ManyEntries<Weighed>, was: ManyEntries<Weighed> | null): ColumnsRead {
  const [one, other] = [now.columns, was === null ? new Set<string>() : was.columns];
  return one && other && new Set([...one, ...other]);
}
function weighing(ws: Workspace, plan: Plan, paths: readonly string[], more: { extent: Extent | undefined; numbers: NumbersGiven }): Promise<ManyEntries<Weighed>> {
  const fields = toGive(plan, paths);
  const way = more.extent ? Straight.of(plan, fields, more.extent) : null;
  const straight: StraightWay<Weighed> | null = way && { columns: way.columns, tell: (record, context, cache) => way.weigh(record, context, cache) };
  return ManyEntries.of(ws, plan, (entry, record) => weigh(entry, record, fields), { ...more, straight });
} // prettier-ignore

/** Records that somebody would see by the draft and does not see now, or the other way round, with the names of those. */
async function seenByOthers(ws: Workspace, published: Form | null, draft: Form): Promise<ReadonlyMap<number, readonly store.ImpactRow[]>> {
  const found = new Map<number, store.ImpactRow[]>();
  if (JSON.stringify(published?.owners ?? null) === JSON.stringify(draft.owners)) return found;
  const others = (await ownedForms(ws)).filter((f) => f.key !== draft.key);
  const forms = (form: Form | null): readonly Form[] => (form?.owners ? [...others, form] : others);
  const names = new Map<string, Map<number, string[]>>([['seen', new Map()], ['unseen', new Map()]]); // prettier-ignore
  const pace = new Pace();
  for (const who of await allAccounts(ws.db)) {
    await pace.rest();
    if (!who.active || seesAll(who)) continue;
    const [before, after] = [await rowsSeen(ws, who, draft.table, forms(published)), await rowsSeen(ws, who, draft.table, forms(draft))];
    for (const [kind, sees, not] of [
      ['seen', after, before],
      ['unseen', before, after],
    ] as const) {
      const of = names.get(kind)!;
      for (const id of not ? await seenOnlyOneWay(ws.db, draft.table, sees, not) : []) of.set(id, [...(of.get(id) ?? []), who.name]);
    }
  }
  for (const [kind, of] of names)
    for (const [row, people] of of) {
      const message = people.length > 8 ? `${people.slice(0, 8).join(', ')} and ${people.length - 8} more` : people.join(', ');
      const one = {
        row,
        kind: kind as 'seen' | 'unseen',
        field: '',
        line: null,
        place: null,
        from: null,
        published: null,
        to: null,
        origin: null,
        message,
      };
      found.set(row, [...(found.get(row) ?? []), one]);
    }
  return found;
}
