import { type BackfillOutcome, backfill, fillable } from '../../core/engine/backfill.ts';
import type { DataCache } from '../../core/engine/cache.ts';
import type { WorkCalendar } from '../../core/formula/functions/define.ts';
import type { StoredLine, StoredRecord } from '../../core/engine/context.ts';
import { type Entry, openEntry } from '../../core/engine/entry.ts';
import { wantsNeeded } from '../../core/engine/needed.ts';
import type { Plan } from '../../core/engine/plan.ts';
import { type Want, wantKey } from '../../core/engine/wants.ts';
import { narrowingOf } from '../../core/choices/narrowing.ts';
import { subsetScope } from '../../core/choices/subsets.ts';
import { isDatum } from '../../core/formula/errors.ts';
import { formula } from '../../core/formula/formula.ts';
import { shapesOf } from '../../core/model/tables.ts';
import { YESNO } from '../../core/values/typing.ts';
import { type Account, personsOfAccounts } from '../database/accounts';
import * as store from '../database/backfills';
import { Lookup } from '../database/lookups';
import { originsOf } from '../database/origins';
import { type EntryRow, entryRows, linesOfRows } from '../database/rows';
import { nextNumber } from '../database/series';
import type { Out } from '../work/working';
import { type BackfillView, backfillView } from './backfillView';
import { Refused } from './errors';
import { publishedForm } from './forms';
import { type JobHandle, UNWATCHED } from './jobs';
import { workCalendar } from './settings';
import { NOBODY } from './owners';
import { type RelatedRows, answerWants, batches, outsideEnv, readRelated } from './wants';
import type { Workspace } from './workspace';

/** Records read at once. */
const PAGE = 500;
/** Records whose entries are open at once, so that what they want is asked together. */
const TOGETHER = 100;

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
  return new Preview(ws, plan, asked).run(out, (records) => out.keep(records));
}

type Proposed = Omit<store.BackfillRecord, 'id'>;
/** A record's lines, and the revisions of their rows. */
interface StoredLines {
  readonly lines: Record<string, StoredLine[]>;
  readonly revisions: Map<number, number>;
}
const NO_LINES: StoredLines = { lines: {}, revisions: new Map() };
interface Open {
  readonly row: EntryRow;
  readonly record: StoredRecord;
  readonly lineRevisions: ReadonlyMap<number, number>;
  readonly me: number | null;
  readonly entry: Entry;
  readonly steps: Generator<void, BackfillOutcome>;
  outcome: BackfillOutcome | null;
}

/** The computing of one preview. */
class Preview {
  /** what is known of the data, by person: what somebody entered last is not what somebody else did */
  private readonly caches = new Map<number | null, DataCache>();
  /** numbers this preview has given out, by series */
  private readonly numbers = new Map<string, number>();
  private readonly takesNumbers: boolean;

  constructor(
    private readonly ws: Workspace,
    private readonly plan: Plan,
    private readonly asked: store.BackfillAsked,
  ) {
    this.takesNumbers = asked.fields.some((f) =>
      [...(plan.fields[plan.slots.get(f) ?? -1]?.value?.formula.extras.values() ?? [])].some((e) => e.kind === 'series'),
    );
  }

  private calendar: WorkCalendar | undefined;

  /** Goes through all records; gives how many there were. */
  async run(job: JobHandle, keep: (records: readonly Proposed[]) => Promise<void>): Promise<number> {
    const { ws, plan } = this;
    const persons = await personsOfAccounts(ws.db);
    this.calendar = await workCalendar(ws);
    const total = Math.max(1, await ws.rowCount(plan.form.table));
    let looked = 0;
    for await (const rows of this.pages()) {
      const ids = rows.map((r) => r.row.id);
      const origins = await originsOf(ws.db, plan.form.table, ids);
      const lines = await this.linesOf(ids);
      // whole small tables stay known; what was asked of large ones is not kept for ever
      if (looked % (PAGE * 20) === 0) this.caches.clear();
      const each = this.takesNumbers ? 1 : TOGETHER;
      for (let i = 0; i < rows.length; i += each) {
        const open = rows.slice(i, i + each).map((row): Open => {
          const stored = lines.get(row.row.id) ?? NO_LINES;
          const record = { values: row.row, origins: origins.get(row.row.id) ?? {}, lines: stored.lines };
          // "me" is whoever entered the record, not who runs the backfill
          const me = row.createdBy === null ? null : (persons.get(row.createdBy) ?? null);
          return this.open(row, record, stored.revisions, me);
        });
        await this.settle(open);
        await keep(open.flatMap((o) => proposed(plan, o) ?? []));
        for (const { entry } of open) this.goOn(entry);
        job.at(Math.min(1, (looked + i) / total), `looking at record ${looked + i + 1} of about ${total}`);
      }
      looked += rows.length;
    }
    return looked;
  }

  /** The next record gets the numbers after those this one was given. */
  private goOn(entry: Entry): void {
    for (const [series, number] of entry.seriesTaken) {
      this.numbers.set(series, number + 1);
      for (const cache of this.caches.values())
        cache.supply([{ want: { kind: 'series', series }, answer: { kind: 'number', next: number + 1 } }], () => null);
    }
  }

  private open(row: EntryRow, record: StoredRecord, lineRevisions: ReadonlyMap<number, number>, me: number | null): Open {
    const now = this.ws.clock.now();
    let cache = this.caches.get(me);
    if (!cache) this.caches.set(me, (cache = this.ws.newCache()));
    const entry = openEntry(
      this.plan,
      { mode: 'edit', today: now.slice(0, 10), now, me, calendar: this.calendar, isQuiet: true },
      cache,
      record,
    );
    const steps = backfill(entry, record, this.asked.fields, this.asked.over);
    return { row, record, lineRevisions, me, entry, steps, outcome: null };
  }

  /** Runs backfills side by side until all are done, answering together what they want. */
  private async settle(open: readonly Open[]): Promise<void> {
    let running = [...open];
    for (let round = 0; running.length; round++) {
      if (round > this.plan.cells.length * 3 + 20) throw new Error('a backfill keeps wanting the same');
      running = running.filter((o) => {
        const step = o.steps.next();
        if (step.done) o.outcome = step.value;
        return !step.done;
      });
      if (running.length) await this.answer(running);
    }
  }

  private async answer(running: readonly Open[]): Promise<void> {
    const { ws, plan } = this;
    // what depends on who asks is asked for each person apart
    const byPerson = new Map<number | null, Map<string, Want>>();
    for (const { entry, me } of running) {
      for (const want of wantsNeeded(entry)) {
        if (want.kind === 'series') {
          const next = this.numbers.get(want.series) ?? (await nextNumber(ws.db, want.series));
          this.numbers.set(want.series, next);
          entry.supply([{ want, answer: { kind: 'number', next } }]);
          continue;
        }
        let wants = byPerson.get(me);
        if (!wants) byPerson.set(me, (wants = new Map()));
        wants.set(wantKey(want), want);
      }
    }
    for (const [me, wants] of byPerson) {
      const answered = (
        await Promise.all(batches([...wants.values()]).map((b) => answerWants(ws, plan, b, { ...NOBODY, person: me })))
      ).flat();
      for (const o of running) {
        if (o.me !== me) continue;
        const own = new Set(o.entry.wants.map(wantKey));
        o.entry.supply(answered.filter((a) => own.has(wantKey(a.want))));
      }
    }
  }

  private async *pages(): AsyncGenerator<readonly EntryRow[]> {
    const { ws, plan, asked } = this;
    const table = await ws.modelTable(plan.form.table);
    if (asked.subset === null) {
      for (let last = 0; ;) {
        const rows = await entryRows(ws.db, table, { after: last, limit: PAGE });
        if (!rows.length) return;
        yield rows;
        last = rows.at(-1)!.row.id;
      }
    }
    const subset = (table.subsets ?? []).find((s) => s.key === asked.subset);
    if (!subset) throw new Refused(422, 'values', `${table.label} has no subset “${asked.subset}”.`, {});
    const tables = await ws.tables();
    const related: RelatedRows = new Map();
    const env = outsideEnv(ws, NOBODY, related);
    const narrowing = narrowingOf(formula(subset.condition, subsetScope({ tables: shapesOf(tables) }, table.key), YESNO));
    const lookup = new Lookup(ws.db, table, { narrowing, sort: [], search: [] }, env);
    const params = narrowing.params.map((p) => {
      const value = p.run(env);
      return isDatum(value) ? value : null;
    });
    if (lookup.asksInMemory({ params, open: [] })) await readRelated(ws, tables, related, NOBODY);
    for (let offset = 0; ; offset += PAGE) {
      const { rows, more } = await lookup.page({ params, open: [] }, '', offset, PAGE);
      if (rows.length) yield await entryRows(ws.db, table, { ids: rows.map((r) => r.id) });
      if (!more) return;
    }
  }

  private async linesOf(ids: readonly number[]): Promise<ReadonlyMap<number, StoredLines>> {
    const found = new Map(ids.map((id): [number, StoredLines] => [id, { lines: {}, revisions: new Map() }]));
    for (const { key, definition } of this.plan.lines) {
      const table = await this.ws.modelTable(definition.table);
      for (const { parent, row, revision } of await linesOfRows(this.ws.db, table, definition.link, ids, definition.order)) {
        const at = found.get(parent) as StoredLines;
        (at.lines[key] ??= []).push({ id: row.id, values: row });
        at.revisions.set(row.id, revision);
      }
    }
    return found;
  }
}

/** What is kept of a record: nothing where nothing would change. */
function proposed(plan: Plan, { row, lineRevisions, entry, outcome }: Open): Proposed | null {
  const { given, problems } = outcome as BackfillOutcome;
  const labelled = (field: string): string => entry.field(field).definition.label;
  const base = { row: row.row.id, revision: row.revision, lineRevisions: {}, given: [], series: [], problem: null };
  if (problems.length) return { ...base, state: 'refused', problem: problems.map((p) => `${labelled(p.field)}: ${p.message}`).join(' ') };
  if (!given.length) return null;
  const lines = new Set(given.flatMap((g) => (g.line === null ? [] : [g.line])));
  const revisions = Object.fromEntries([...lines].map((line) => [line, lineRevisions.get(line) ?? 1]));
  return { ...base, state: 'proposed', lineRevisions: revisions, given, series: [...entry.seriesTaken] };
}
