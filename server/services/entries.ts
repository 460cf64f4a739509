import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import type { Plan } from '../../core/engine/plan.ts';
import type { Edit } from '../../core/engine/state.ts';
import type { EntryHow } from '../../core/evidence/entryUse.ts';
import type { Form } from '../../core/form/definition.ts';
import { type Followed, followEdits } from '../../core/form/follow.ts';
import { noteText } from '../../core/model/noted.ts';
import { isIsoDateTime } from '../../core/values/dates.ts';
import type { Datum } from '../../core/values/types.ts';
import { addHistory, historyOf } from '../database/history';
import type { ModelTable } from '../database/model';
import { writeOriginTexts } from '../database/origins';
import { insertRow, rowById, updateRow } from '../database/rows';
import { takeNumber } from '../database/series';
import type { Reserved } from './seriesNumbers';
import { type Account, accountNames } from '../database/accounts';
import { noteEntry } from './entryUse';
import { visibleColumns } from './access';
import { type Asker, tableFor } from './owners';
import { maySeeAll } from './rights';
import { Refused, notFound } from './errors';
import { publishedForm, versionOrNull } from './forms';
import { type RequestAsked, fingerprintOf, keepAnswer, savedOnce } from './requests';
import { Pace } from './pace';
import { type OpenedWith, type Played, WITH_NOTHING, judged, replay } from './judging';
import { saveLines } from './lines';
import { workedOut } from './longSaves';
import { asChanges, linkedTexts, stampOf } from './tables';
import { type Stored, checkedParent, storedRecord, withheldIn } from './opening';
import { MOVED, SAVED_OVER, columnValues, less, movesSaid, savedOver } from './workedOut';
import type { Workspace } from './workspace';

export interface SaveRequest {
  readonly version: number;
  readonly edits: readonly Edit[];
  /** for an existing record: the revision the person saw */
  readonly revision: number | null;
  /** the same key is never saved twice */
  readonly request: string;
  readonly opened?: (OpenedWith & { readonly at?: string | undefined }) | undefined;
  /** how it was entered; counted, and no part of what makes the record */
  readonly how?: EntryHow | undefined;
}
export type Saved = Answer<typeof contract.entries.save>;

/**
 * Saves what a person did: opens the same plan on the stored record, applies the edits, answers what it wants, judges
 * the result, and writes row, lines, origins and history in one transaction. 422 with one message a field when it may not
 * be saved, 409 when somebody else saved meanwhile; then nothing is written.
 */
export async function saveEntry(ws: Workspace, account: Account, formKey: string, id: number | null, request: SaveRequest): Promise<Saved> {
  const asked = { key: request.request, account: account.id, form: formKey, body: fingerprintOf(contentOf(id, request)) };
  return savedOnce(ws.db, asked, () => saveUntilTaken(ws, { account, formKey, id, request, asked }));
}

interface Saving {
  readonly account: Account;
  readonly formKey: string;
  /** null for a new record */
  readonly id: number | null;
  readonly request: SaveRequest;
  readonly asked: RequestAsked;
}

/** What of a request makes the record: not when it was opened or on which version, which differ when it is sent again. */
const contentOf = (id: number | null, { edits, revision, opened }: SaveRequest): unknown => [
  id,
  revision,
  edits,
  opened?.parent ?? null,
  opened?.url ?? {},
];

async function saveUntilTaken(ws: Workspace, saving: Saving): Promise<Saved> {
  for (let tries = 0; ; tries++) {
    const reserved: Reserved[] = [];
    try {
      return await saveOnce(ws, saving, { reserved, tries });
    } catch (e) {
      // what was taken is another's by now: the record is worked out again with the number after it
      const taken = e instanceof NumberTaken ? e.series : null;
      for (const one of reserved.reverse()) if (one.series === taken) ws.numbers.mistaken(one); else ws.numbers.release(one); // prettier-ignore
      if (taken === null || tries >= MOST_TRIES) throw e;
    }
  }
}

/** With every save that takes a number another one is done, so that among so many waiting nobody waits for ever. */
const MOST_TRIES = 200;
class NumberTaken extends Error {
  constructor(readonly series: string) {
    super(`the number of ${series} is taken`);
  }
}

/** One try at a save: the numbers it counts on, and how often it was tried before. */
interface Try {
  readonly reserved: Reserved[];
  readonly tries: number;
}

async function saveOnce(ws: Workspace, saving: Saving, { reserved, tries }: Try): Promise<Saved> {
  const { account, formKey, id, request, asked } = saving;
  // whatever version it was typed on, it is judged by the newest: a check that was added may not be escaped
  const { form, version, plan } = await publishedForm(ws, formKey);
  const table = await ws.modelTable(plan.form.table);
  const stored = id === null ? null : await storedRecord(ws, plan, id, account);
  if (stored && stored.row.revision !== request.revision) {
    throw new Refused(409, 'changedMeanwhile', 'Somebody else saved this record meanwhile.', {
      current: { revision: stored.row.revision, values: await shownTo(ws, account, plan, table, stored) },
    });
  }
  const opened = { url: request.opened?.url ?? {}, parent: await checkedParent(ws, form, request.opened?.parent ?? null, account) };
  const moment = momentOf(ws, request.opened?.at);
  // what the newest version calls otherwise is found, what it has no more is left out and said
  const { edits, lost } = await followed(ws, formKey, request, { form, version });
  const played = { record: stored?.record ?? null, edits, opened, now: moment };
  const number = async (series: string): Promise<number> => {
    const before = reserved.find((r) => r.series === series);
    const one = before ?? (await ws.numbers.reserve(series, tries));
    if (!before) reserved.push(one);
    return one.number;
  };
  const out = await workedOut(ws, account, { form: formKey, plan, version, typedOn: request.version }, { ...played, outside: { number } });
  const pace = new Pace();
  const stamp = stampOf(ws, account, { key: formKey, version });
  const { values, series: taken } = out;
  // what is given back is no longer its own, so that it is not given back again where the save fails
  for (const one of reserved.splice(0)) if (taken.has(one.series)) reserved.push(one); else ws.numbers.release(one); // prettier-ignore
  for (const one of reserved) if (!(await ws.numbers.turn(one))) break;
  const wrong = reserved.find((one) => !ws.numbers.isRight(one));
  if (wrong) throw new NumberTaken(wrong.series);
  const writing = ws.together.write(async (db): Promise<Saved> => {
    for (const [series, number] of taken) if (!(await takeNumber(db, series, number))) throw new NumberTaken(series);
    const rowId = id ?? (await insertRow(db, table, values, stamp));
    if (id !== null && !(await updateRow(db, table, id, request.revision as number, values, stamp))) {
      throw new Refused(409, 'changedMeanwhile', 'Somebody else saved this record meanwhile.', {});
    }
    const { lines, origins, changes } = await saveLines(ws, db, plan, { out, record: rowId, before: stored?.record ?? null, stamp });
    await writeOriginTexts(db, table.key, [[rowId, noteText(out.origins, origins)]]);
    await pace.rest();
    await addHistory(db, {
      table: table.key,
      row: rowId,
      kind: id === null ? 'created' : 'changed',
      stamp,
      changes: { ...asChanges(stored?.row.row ?? {}, values), ...changes },
      origins: out.kinds,
      gave: out.gave,
      reason: out.reason,
    });
    const revision = id === null ? 1 : (request.revision as number) + 1;
    const told = { values: less(values, out.withheld), lines };
    const answer: Saved = { id: rowId, version, revision, ...told, ...(lost.length ? { lost: [...lost] } : {}) };
    await pace.rest();
    await keepAnswer(db, asked, answer, stamp.at);
    await pace.rest();
    return answer;
  });
  for (const one of reserved) ws.numbers.sent(one);
  const saved = await writing;
  await pace.rest();
  if (request.how) noteEntry(ws, formKey, { version, plan }, request.how);
  if (id === null) ws.rowsChanged(table.key, 1);
  for (const { definition } of plan.lines) ws.rowsChanged(definition.table);
  return saved;
}

/** What was typed on a version before, as the newest takes it. */
async function followed(
  ws: Workspace,
  key: string,
  request: SaveRequest,
  now: { readonly form: Form; readonly version: number },
): Promise<Followed> {
  const before = request.version === now.version ? null : await versionOrNull(ws, key, request.version);
  return before ? followEdits(request.edits, before, now.form) : { edits: request.edits, lost: [] };
}

/** What saving would say of a draft that is tried out: what must be corrected, or what would be stored. Nothing is written. */
export type TriedSave = Answer<typeof contract.forms.trySave>;
export async function trySaving(
  ws: Workspace,
  who: Asker,
  plan: Plan,
  tried: Omit<Played, 'record'> & { readonly record: number | null; readonly step: string | null },
): Promise<TriedSave> {
  const stored = tried.record === null ? null : await storedRecord(ws, plan, tried.record, who);
  const column = plan.form.steps && plan.form.fields[plan.form.steps.field]?.column;
  const record =
    stored &&
    (tried.step === null || !column ? stored.record : { ...stored.record, values: { ...stored.record.values, [column]: tried.step } });
  const parent = await checkedParent(ws, plan.form, tried.opened.parent, who);
  const { entry, issues } = await judged(ws, who, plan, { ...tried, opened: { ...tried.opened, parent }, record });
  const changes = asChanges(record?.values ?? {}, columnValues(entry));
  return {
    issues: [...issues].map(([address, message]) => ({ address, message })),
    changes: Object.fromEntries(
      plan.own.flatMap((f) => {
        const change = changes[f.definition.column ?? ''];
        return change ? [[f.key, change] as const] : [];
      }),
    ),
    said: [movesSaid(entry), savedOver(entry)].filter((s) => s !== undefined),
  };
}

/**
 * What some edits of a record would change if they were saved, by field: with what follows from them. Throws Refused with what keeps
 * them from being saved. Nothing is written.
 */
export async function triedChange(
  ws: Workspace,
  account: Account,
  formKey: string,
  seen: { readonly id: number; readonly revision: number },
  edits: readonly Edit[],
): Promise<Record<string, [Datum, Datum]>> {
  const { version, plan } = await publishedForm(ws, formKey);
  const stored = await storedRecord(ws, plan, seen.id, account);
  if (stored.row.revision !== seen.revision) throw new Refused(409, 'changedMeanwhile', 'Somebody else saved this record meanwhile.', {});
  const played = { record: stored.record, edits, opened: WITH_NOTHING, now: ws.clock.now() };
  const entry = await replay(ws, account, { plan, version, typedOn: version }, played);
  const withheld = new Set(withheldIn(entry).map((w) => w.field.key));
  const changes = asChanges(stored.row.row, columnValues(entry));
  return Object.fromEntries(
    plan.own.flatMap((f) => {
      const change = changes[f.definition.column ?? ''];
      return change && !withheld.has(f.key) ? [[f.key, [change[0], change[1]] as [Datum, Datum]] as const] : [];
    }),
  );
}

/** A stored record's values as this person may be told them. */
async function shownTo(ws: Workspace, account: Account, plan: Plan, table: ModelTable, stored: Stored): Promise<Record<string, Datum>> {
  const columns = await visibleColumns(ws, plan, account, table.columns);
  return Object.fromEntries(columns.map((c) => [c.key, stored.row.row[c.key] ?? null]));
}

/** How long ago an entry may have been opened, and how far a clock may be ahead, in milliseconds. */
const OPEN_FOR = 72 * 3_600_000;
const AHEAD = 2 * 60_000;

/**
 * The moment an entry was opened: what the screen has shown as now and today is what is stored. One that cannot be is not
 * taken; then it is the moment of saving.
 */
function momentOf(ws: Workspace, at: string | undefined): string {
  const now = ws.clock.now();
  if (at === undefined || !isIsoDateTime(at)) return now;
  const age = Date.parse(`${now}Z`) - Date.parse(`${at}Z`);
  return age >= -AHEAD && age <= OPEN_FOR ? at : now;
}

/** What happened to a record once, with the names of who did it and of the rows that values stand for. */
export type ShownHistory = Answer<typeof contract.entries.history>[number];
const without = (reason: string | null, begins: string): string | null =>
  reason
    ?.split('\n')
    .filter((line) => !line.startsWith(begins))
    .join('\n') || null;

/** A record's history with names. */
export async function recordHistory(ws: Workspace, account: Account, formKey: string, id: number): Promise<ShownHistory[]> {
  const { form, plan } = await publishedForm(ws, formKey);
  const table = await tableFor(ws, account, form.table);
  // what was deleted has its history still; of others’ records nothing is told
  if (table.seen && !(await rowById(ws.db, table, id))) throw notFound('This record');
  const seen = new Set([...(await visibleColumns(ws, plan, account, table.columns)).map((c) => c.key), ...plan.lines.map((l) => l.key)]);
  const shown = <V>(all: Readonly<Record<string, V>>): Record<string, V> =>
    Object.fromEntries(Object.entries(all).filter(([key]) => seen.has(key)));
  const step = form.steps && form.fields[form.steps.field]?.column;
  const seesStep = !step || seen.has(step);
  const seesWarnings = maySeeAll(account) || !plan.fields.some((f) => f.isPersonal);
  const told = (reason: string | null): string | null => {
    const moves = seesStep ? reason : without(reason, MOVED);
    return seesWarnings ? moves : without(moves, SAVED_OVER);
  };
  const lines = (await historyOf(ws.db, table.key, id)).map((l) => ({
    ...l,
    changes: shown(l.changes),
    origins: shown(l.origins),
    // a warning may hold values that are not shown to everybody
    reason: told(l.reason),
  }));
  const names = await accountNames(ws.db);
  const rows = lines.flatMap((l) =>
    [0, 1].map((side) => ({ id: 0, ...Object.fromEntries(Object.entries(l.changes).map(([k, v]) => [k, v[side] ?? null])) })),
  );
  const linked = await linkedTexts(ws, table.columns, rows, account);
  return lines.map((l) => ({ ...l, by: l.account === null ? 'the demo' : (names.get(l.account) ?? 'somebody'), linked }));
}
