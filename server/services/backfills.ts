import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { type BackfillOutcome, type Given, backfill, fillable } from '../../core/engine/backfill.ts';
import { type Entry, type StoredLine, type StoredRecord, openEntry } from '../../core/engine/entry.ts';
import type { DataCache } from '../../core/engine/cache.ts';
import { wantsNeeded } from '../../core/engine/needed.ts';
import type { Plan, PlanField } from '../../core/engine/plan.ts';
import { addressOf } from '../../core/engine/state.ts';
import { type Want, wantKey } from '../../core/engine/wants.ts';
import type { Form } from '../../core/form/definition.ts';
import { type Column, shapesOf } from '../../core/model/tables.ts';
import { formula } from '../../core/formula/formula.ts';
import { YESNO } from '../../core/values/typing.ts';
import { isDatum } from '../../core/formula/errors.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import { narrowingOf } from '../../core/choices/narrowing.ts';
import { subsetScope } from '../../core/choices/subsets.ts';
import * as store from '../database/backfills';
import type { Database } from '../database/connection';
import { type HistoryEntry, addHistories } from '../database/history';
import { Lookup } from '../database/lookups';
import { type Origins, originsOf, writeOrigins } from '../database/origins';
import { type EntryRow, type RowStamp, entryRows, linesOfRows, revisionsOf, updateRows } from '../database/rows';
import { nextNumber, takeNumber } from '../database/series';
import { type Account, accountNames, personsOfAccounts } from '../database/accounts';
import { Refused, notFound } from './errors';
import { publishedForm } from './forms';
import { type JobHandle, UNWATCHED } from './jobs';
import { linkedTexts, rowTexts, stampOf } from './tables';
import { type RelatedRows, answerWants, batches, outsideEnv, readRelated } from './wants';
import type { Workspace } from './workspace';

/** Records read at once. */
const PAGE = 500;
/** Records whose entries are open at once, so that what they want is asked together. */
const TOGETHER = 100;
/** Records written in one transaction. */
const BATCH = 200;
/** How long the server works at a stretch before it turns to others, in ms. */
const STRETCH = 8;

export type BackfillView = BackfillOffer['earlier'][number];
export type BackfillOffer = Answer<typeof contract.backfills.offer>;

/** What a form can give to records that exist, and which backfills there have been. */
export async function backfillOffer(ws: Workspace, key: string): Promise<BackfillOffer> {
  const { form, version, plan } = await publishedForm(ws, key);
  const table = await ws.modelTable(form.table);
  const names = await accountNames(ws.db);
  const heads = await store.backfillHeads(ws.db, key);
  return {
    form: form.label,
    version,
    records: await ws.rowCount(form.table),
    subsets: (table.subsets ?? []).map(({ key: k, label }) => ({ key: k, label })),
    earlier: await Promise.all(heads.map((h) => viewOf(ws, h, version, names))),
    fields: fillable(plan).map((f) => ({
      field: f.key,
      label: f.definition.label,
      lines: linesLabel(plan, f.group),
      kind: f.value!.definition.kind,
      formula: f.value!.definition.formula,
    })),
  };
}

async function viewOf(ws: Workspace, head: store.BackfillHead, version: number, names: ReadonlyMap<number, string>): Promise<BackfillView> {
  const { account, ...rest } = head;
  const by = account === null ? 'the demo' : (names.get(account) ?? 'somebody');
  return { ...rest, by, records: await store.backfillCounts(ws.db, head.id), current: head.version === version };
}

async function headOf(ws: Workspace, form: string, id: number): Promise<store.BackfillHead> {
  const head = await store.backfillHead(ws.db, form, id);
  if (!head) throw notFound('This backfill');
  return head;
}
export async function backfillView(ws: Workspace, form: string, id: number): Promise<BackfillView> {
  const { version } = await publishedForm(ws, form);
  return viewOf(ws, await headOf(ws, form, id), version, await accountNames(ws.db));
}

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
    const looked = await new Preview(ws, plan, asked).run(job, (records) => store.addBackfillRecords(ws.db, id, records));
    await store.setBackfill(ws.db, id, { looked });
    await store.dropProposals(ws.db, key, id);
  } catch (e) {
    await store.dropBackfill(ws.db, id);
    throw e;
  }
  return backfillView(ws, key, id);
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
  private breath = performance.now();
  /** numbers this preview has given out, by series */
  private readonly numbers = new Map<string, number>();
  private readonly takesNumbers: boolean;

  constructor(
    private readonly ws: Workspace,
    private readonly plan: Plan,
    private readonly asked: store.BackfillAsked,
  ) {
    const text = asked.fields.map((f) => plan.fields[plan.slots.get(f) ?? -1]?.value?.definition.formula ?? '').join(' ');
    this.takesNumbers = /\bNEXTNUMBER\b/i.test(text);
  }

  /** Goes through all records; gives how many there were. */
  async run(job: JobHandle, keep: (records: readonly Proposed[]) => Promise<void>): Promise<number> {
    const { ws, plan } = this;
    const persons = await personsOfAccounts(ws.db);
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
        await this.breathe();
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
    const entry = openEntry(this.plan, { mode: 'edit', today: now.slice(0, 10), now, me }, cache, record);
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
      await this.breathe();
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
      const answered = (await Promise.all(batches([...wants.values()]).map((b) => answerWants(ws, plan, b, me)))).flat();
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
    const env = outsideEnv(ws, null, related);
    const narrowing = narrowingOf(formula(subset.condition, subsetScope({ tables: shapesOf(tables) }, table.key), YESNO));
    const lookup = new Lookup(ws.db, table, { narrowing, sort: [], search: [] }, env);
    const params = narrowing.params.map((p) => {
      const value = p.run(env);
      return isDatum(value) ? value : null;
    });
    if (lookup.asksInMemory({ params, open: [] })) await readRelated(ws, tables, related);
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

  /** Lets the server turn to whoever else is waiting. */
  private async breathe(): Promise<void> {
    if (performance.now() - this.breath < STRETCH) return;
    await new Promise((resolve) => setImmediate(resolve));
    this.breath = performance.now();
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

// ---- doing it, and undoing it ----

/** In words, for the history of every record. */
function reasonOf(form: Form, head: store.BackfillHead, undone: boolean): string {
  const label = (path: string): string => {
    const [first, second] = path.split('.') as [string, string | undefined];
    return second === undefined
      ? (form.fields[first]?.label ?? first)
      : `${form.lines[first]?.label ?? first}: ${form.lines[first]?.fields[second]?.label ?? second}`;
  };
  const fields = head.asked.fields.map(label).join(', ');
  return undone
    ? `Backfill ${head.id} of ${fields} undone.`
    : `Backfill ${head.id}: ${fields} as version ${head.version} of the form gives it.`;
}

/**
 * Writes what a preview proposed, in batches, each a transaction. A record that somebody changed since the preview is left
 * alone. Cancelled, what was written stays, and can be undone or gone on with. 409 when the form was published meanwhile.
 */
export async function applyBackfill(
  ws: Workspace,
  account: Account,
  key: string,
  id: number,
  job: JobHandle = UNWATCHED,
): Promise<BackfillView> {
  const head = await headOf(ws, key, id);
  const { form, version, plan } = await publishedForm(ws, key);
  if (head.state === 'undone') throw new Refused(409, 'undone', 'This backfill was undone. Make a new preview.', {});
  if (head.version !== version)
    throw new Refused(409, 'changedMeanwhile', `The form was published as version ${version} since this preview. Make a new one.`, {});
  const stamp = stampOf(ws, account, { key, version });
  const reason = reasonOf(form, head, false);
  await store.setBackfill(ws.db, id, { state: 'applied', applied_at: stamp.at });
  const side: Side = { to: 'written', value: (g) => g.to, was: (g) => g.from, origin: (g) => g.origin };
  await eachBatch(ws, head, 'proposed', job, 'writing', (db, records) => writeBatch(ws, db, plan, records, side, stamp, reason));
  return backfillView(ws, key, id);
}
const CHANGED_SINCE = 'Somebody changed this record since; it was left as it is.';

/** Puts back what an applied backfill wrote, in batches; records that somebody changed since stay as they are. */
export async function undoBackfill(
  ws: Workspace,
  account: Account,
  key: string,
  id: number,
  job: JobHandle = UNWATCHED,
): Promise<BackfillView> {
  const head = await headOf(ws, key, id);
  const { form, plan } = await publishedForm(ws, key, head.version);
  if (head.state !== 'applied') throw new Refused(409, 'notApplied', 'This backfill has nothing to undo.', {});
  const stamp = stampOf(ws, account);
  const reason = reasonOf(form, head, true);
  const side: Side = { to: 'putBack', value: (g) => g.from, was: (g) => g.to, origin: (g) => g.was };
  await eachBatch(ws, head, 'written', job, 'putting back', (db, records) => writeBatch(ws, db, plan, records, side, stamp, reason));
  await store.setBackfill(ws.db, id, { state: 'undone', undone_at: ws.clock.now() });
  return backfillView(ws, key, id);
}

/** Which side of a change is written: what is given, or what was there before. */
interface Side {
  readonly to: 'written' | 'putBack';
  readonly value: (given: Given) => Datum;
  readonly was: (given: Given) => Datum;
  readonly origin: (given: Given) => Given['was'];
}

/** Goes through the records of a backfill that stand so, in batches, each one transaction. 409 while somebody else does. */
async function eachBatch(
  ws: Workspace,
  head: store.BackfillHead,
  state: store.RecordState,
  job: JobHandle,
  doing: string,
  write: (db: Database, records: readonly store.BackfillRecord[]) => Promise<void>,
): Promise<void> {
  // two who write the same would take each other for somebody who changed the records
  if (working.has(head.id)) throw new Refused(409, 'underWay', 'This backfill is being worked on already. Wait until that is done.', {});
  working.add(head.id);
  try {
    const total = Math.max(1, (await store.backfillCounts(ws.db, head.id))[state]);
    for (let after = 0, done = 0; ;) {
      job.at(done / total, `${doing} ${done} of ${total} records`);
      const records = await store.backfillRecords(ws.db, head.id, { states: [state], after, limit: BATCH });
      if (!records.length) return;
      await ws.db.transaction((db) => write(db, records));
      after = records.at(-1)!.id;
      done += records.length;
      await new Promise((resolve) => setImmediate(resolve));
    }
  } finally {
    working.delete(head.id);
  }
}
const working = new Set<number>();

/** A row to be written: a record's own, or that of one of its lines. */
interface RowWrite {
  readonly row: number;
  readonly revision: number;
  readonly given: Given[];
}

/** Writes one side of a batch of records. A record of which any row has another revision by now is left as it is. */
async function writeBatch(
  ws: Workspace,
  db: Database,
  plan: Plan,
  records: readonly store.BackfillRecord[],
  side: Side,
  stamp: RowStamp,
  reason: string,
): Promise<void> {
  const now = new Map<string, Map<number, number>>();
  const byRecord = records.map((record) => ({ record, writes: writesOf(plan, record) }));
  const tables = new Set(byRecord.flatMap(({ writes }) => [...writes.keys()]));
  for (const table of tables)
    now.set(table, await revisionsOf(db, table, byRecord.flatMap(({ writes }) => (writes.get(table) ?? []).map((w) => w.row)))); // prettier-ignore
  const good: typeof byRecord = [];
  for (const one of byRecord) {
    const stale = [...one.writes].some(([table, rows]) => rows.some((w) => now.get(table)?.get(w.row) !== w.revision));
    const taken = stale || side.to === 'putBack' ? null : await takeNumbers(db, one.record);
    if (stale || taken) await store.setRecordSkipped(db, one.record.id, taken ?? CHANGED_SINCE);
    else good.push(one);
  }
  const column = (g: Given): string => plan.fields[plan.slots.get(g.field) as number]!.definition.column as string;
  for (const key of tables) {
    const table = await ws.modelTable(key, db);
    const rows = good.flatMap(({ writes }) => writes.get(key) ?? []);
    const changes = rows.map((w) => ({ id: w.row, values: Object.fromEntries(w.given.map((g) => [column(g), side.value(g)])) }));
    await updateRows(db, table, changes, stamp);
    const said = rows.map((w): HistoryEntry => {
      const of = Object.fromEntries(w.given.map((g) => [column(g), [side.was(g), side.value(g)] as const]));
      const origins = Object.fromEntries(w.given.flatMap((g) => (side.to === 'written' ? [[column(g), g.origin.kind]] : [])));
      return { table: key, row: w.row, kind: 'changed', stamp, changes: of, reason, origins };
    });
    await addHistories(db, said);
  }
  await noteOrigins(db, plan.form.table, good.map((g) => g.record), side); // prettier-ignore
  await store.setRecordStates(db, good.map((g) => g.record), side.to); // prettier-ignore
}

/** The rows a record's values stand in, by table. Its own is always one, so that its revision says that it changed. */
function writesOf(plan: Plan, record: store.BackfillRecord): ReadonlyMap<string, readonly RowWrite[]> {
  const own: RowWrite = { row: record.row, revision: record.revision, given: [] };
  const lines = new Map<string, RowWrite>();
  const byTable = new Map<string, RowWrite[]>([[plan.form.table, [own]]]);
  for (const g of record.given) {
    const group = plan.fields[plan.slots.get(g.field) as number]!.group;
    if (g.line === null || group === null) {
      own.given.push(g);
      continue;
    }
    const { table } = plan.lines[group]!.definition;
    let write = lines.get(`${table} ${g.line}`);
    if (!write) {
      lines.set(`${table} ${g.line}`, (write = { row: g.line, revision: record.lineRevisions[g.line] ?? 1, given: [] }));
      byTable.set(table, [...(byTable.get(table) ?? []), write]);
    }
    write.given.push(g);
  }
  return byTable;
}

/** Takes the numbers of series that a record was proposed; a sentence when one is taken already. */
async function takeNumbers(db: Database, record: store.BackfillRecord): Promise<string | null> {
  for (const [series, number] of record.series)
    if (!(await takeNumber(db, series, number))) return `Number ${number} of ${series} was taken meanwhile.`;
  return null;
}

async function noteOrigins(db: Database, table: string, records: readonly store.BackfillRecord[], side: Side): Promise<void> {
  const before = await originsOf(db, table, records.map((r) => r.row)); // prettier-ignore
  const after = new Map<number, Origins>();
  for (const record of records) {
    const origins = new Map(Object.entries(before.get(record.row) ?? {}));
    for (const g of record.given) {
      const one = side.origin(g);
      if (one) origins.set(addressOf(g.field, g.line), one.kind === 'stored' ? one.was : one);
      else origins.delete(addressOf(g.field, g.line));
    }
    after.set(record.row, Object.fromEntries(origins));
  }
  await writeOrigins(db, table, after);
}

// ---- looking at it ----

export type ShownPage = Answer<typeof contract.backfills.page>;
type ShownField = ShownPage['fields'][string];
export type Showing = 'changes' | 'refused' | 'skipped';
const STATES_SHOWN: Record<Showing, readonly store.RecordState[]> = {
  changes: ['proposed', 'written', 'putBack'],
  refused: ['refused'],
  skipped: ['skipped'],
};

/** A page of what a backfill proposes or did, with the texts of the rows that values stand for. */
export async function backfillPage(
  ws: Workspace,
  key: string,
  id: number,
  query: { readonly show: Showing; readonly offset: number; readonly limit: number },
): Promise<ShownPage> {
  const head = await headOf(ws, key, id);
  const { plan } = await publishedForm(ws, key, head.version);
  const states = STATES_SHOWN[query.show];
  const counts = await store.backfillCounts(ws.db, id);
  const records = await store.backfillRecords(ws.db, id, { states, offset: query.offset, limit: query.limit });
  const table = await ws.modelTable(plan.form.table);
  const rows = await entryRows(ws.db, table, { ids: records.map((r) => r.row) });
  const texts = await rowTexts(
    ws,
    table,
    rows.map((r) => r.row),
  );
  const held = new Map<Column, Row[]>();
  for (const g of records.flatMap((r) => r.given)) {
    const { column } = plan.fields[plan.slots.get(g.field) as number]!;
    if (column) held.set(column, [...(held.get(column) ?? []), ...[g.from, g.to].map((value) => ({ id: 0, [column.key]: value }))]);
  }
  const linked: Record<string, Record<number, string>> = {};
  for (const [column, values] of held)
    for (const [target, found] of Object.entries(await linkedTexts(ws, [column], values))) Object.assign((linked[target] ??= {}), found);
  const fields = Object.fromEntries(
    [...new Set(records.flatMap((r) => r.given.map((g) => g.field)))].map((path) => [path, shownField(plan, path)]),
  );
  return {
    fields,
    rows: records.map(({ row, state, given, problem }) => ({ row, state, given, problem, text: texts.get(row) ?? `row ${row}` })),
    total: states.reduce((n, s) => n + counts[s], 0),
    linked,
  };
}

function shownField(plan: Plan, path: string): ShownField {
  const { definition, column, group, choices } = plan.fields[plan.slots.get(path) as number] as PlanField;
  const options = [...(choices?.options ?? []), ...(choices?.retired ?? [])].map((o) => [String(o.value), String(o.label ?? o.value)]);
  return {
    label: definition.label,
    lines: linesLabel(plan, group),
    column,
    options: Object.fromEntries(options) as Record<string, string>,
  };
}
const linesLabel = (plan: Plan, group: number | null): string | null =>
  group === null ? null : (plan.lines[group]?.definition.label ?? null);

/** Forgets a preview that was not applied. */
export async function forgetBackfill(ws: Workspace, key: string, id: number): Promise<void> {
  const head = await headOf(ws, key, id);
  if (head.state === 'applied') throw new Refused(409, 'applied', 'This backfill was applied. Undo it first.', {});
  await store.dropBackfill(ws.db, id);
}
