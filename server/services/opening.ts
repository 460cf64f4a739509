import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import type { StoredLine, StoredRecord } from '../../core/engine/context.ts';
import { type Entry, openEntryInSteps } from '../../core/engine/entry.ts';
import type { Plan, PlanField } from '../../core/engine/plan.ts';
import { answersReached, feedsReached, listsReached, tablesReached } from '../../core/engine/reach.ts';
import { type Answered, wantKey } from '../../core/engine/wants.ts';
import { toldRecord } from '../../core/engine/told.ts';
import type { Form } from '../../core/form/definition.ts';
import { withNames } from '../../core/form/follow.ts';
import { NOTHING_NOTED } from '../../core/model/noted.ts';
import type { Account } from '../database/accounts';
import { notedOf } from '../database/origins';
import { type RecordRow, childRows, rowById } from '../database/rows';
import { notFound } from './errors';
import { publishedForm } from './forms';
import { type OpenedWith, WITH_NOTHING } from './judging';
import { renamedNames } from './linkNames';
import { type Asker, tableFor } from './owners';
import { Pace } from './pace';
import { rightsOf } from './rights';
import { workCalendar } from './settings';
import { settleEntry } from './wants';
import { less } from './workedOut';
import type { Workspace } from './workspace';

/** Everything a screen needs to open an entry and settle it without asking again. */
export type OpenedEntry = Answer<typeof contract.entries.open>;

export interface Stored {
  readonly row: RecordRow;
  readonly record: StoredRecord;
}

/** A record as an entry opens it: its values, its lines, where they came from. */
export async function storedRecord(ws: Workspace, plan: Plan, id: number, who: Asker): Promise<Stored> {
  const table = await tableFor(ws, who, plan.form.table);
  const row = await rowById(ws.db, table, id);
  if (!row) throw notFound('This record');
  const { origins, lines: came } = (await notedOf(ws.db, table.key, [id])).get(id) ?? NOTHING_NOTED;
  const lines: Record<string, StoredLine[]> = {};
  for (const { key, definition } of plan.lines) {
    const children = await childRows(ws.db, await ws.modelTable(definition.table), definition.link, id, definition.order);
    lines[key] = children.map((c) => ({ id: c.row.id, values: c.row, origins: came.get(c.row.id) }));
  }
  return { row, record: { values: row.row, origins, lines } };
}

/** The record an entry is to be opened under, if the form has such and it is there. */
export async function checkedParent(ws: Workspace, form: Form, parent: number | null, who: Asker): Promise<number | null> {
  if (parent === null || form.parent === null) return null;
  if (!(await rowById(ws.db, await tableFor(ws, who, form.parent), parent))) throw notFound('The record to open the entry under');
  return parent;
}

/** Opens an entry on the newest version: a new one, or an existing record. */
export async function openForEntry(
  ws: Workspace,
  account: Account,
  formKey: string,
  id: number | null,
  opened: OpenedWith = WITH_NOTHING,
): Promise<OpenedEntry> {
  const { form, version, plan } = await publishedForm(ws, formKey);
  // hundreds of lines may be pasted into it, and are saved in a thread
  if (plan.lines.length) ws.work.expect('save');
  const stored = id === null ? null : await storedRecord(ws, plan, id, account);
  const renamed = await renamedNames(ws, { key: formKey, version, plan }, Object.keys(opened.url));
  const url = withNames(opened.url, renamed);
  const now = ws.clock.now();
  const context = {
    today: now.slice(0, 10),
    now,
    me: account.person,
    roles: account.roles,
    calendar: await workCalendar(ws),
    parent: await checkedParent(ws, form, opened.parent, account),
  };
  const mode = !stored ? 'new' : (await rightsOf(ws, account, formKey)).includes('edit') ? 'edit' : 'view';
  const settled: Settled = async (record) => {
    const entry = await new Pace().through(openEntryInSteps(plan, { ...context, url, mode }, ws.newCache(), record));
    return { entry, answered: await settleEntry(ws, entry, account) };
  };
  const { told, answered } = await toldOf(plan, stored?.record ?? null, settled);
  return {
    form,
    version,
    tables: tablesReached(plan),
    lists: listsReached(plan, (await ws.lists()).values()),
    feeds: feedsReached(plan, (await ws.feeds()).values()),
    context,
    mode,
    record: stored && told && { id: id as number, revision: stored.row.revision, ...toldRecord(told) },
    answered: answersReached(plan, answered),
    renamed,
  };
}

/** Opens an entry of a record and answers all that it wants. */
type Settled = (record: StoredRecord | null) => Promise<{ readonly entry: Entry; readonly answered: readonly Answered[] }>;

/** A record as it is told to who opens it, and what its entry will want, with the answers. */
async function toldOf(
  plan: Plan,
  record: StoredRecord | null,
  settled: Settled,
): Promise<{ readonly told: StoredRecord | null; readonly answered: readonly Answered[] }> {
  if (record && hasManyLines(record) && !plan.fields.some((f) => f.isPersonal)) {
    // the screen works out the same from the same: nobody need wait for it twice where some lines say what all of them want
    const own = new Set((await settled(withLines(record, 0))).answered.map(({ want }) => wantKey(want)));
    const { answered } = await settled(withLines(record, LINES_ASKED));
    if (answered.every(({ want }) => want.kind === 'table' || own.has(wantKey(want)))) return { told: record, answered };
  }
  const { entry, answered } = await settled(record);
  const told = record && withoutWithheld(entry, record);
  // what the record holds where it is hidden must not show in the answers either
  return { told, answered: told === record ? answered : (await settled(told)).answered };
}

/** So many lines say what the others want too: whole tables. One that asks for its own values says nothing of others'. */
const LINES_ASKED = 40;
const hasManyLines = ({ lines = {} }: StoredRecord): boolean => Object.values(lines).some((all) => all.length > 2 * LINES_ASKED);
/** A record with the first of its lines. */
const withLines = (record: StoredRecord, most: number): StoredRecord => ({
  ...record,
  lines: Object.fromEntries(Object.entries(record.lines ?? {}).map(([key, all]) => [key, all.slice(0, most)])),
});

/** A record as its opened entry shows it: without what the form hides from the person signed in. */
function withoutWithheld(entry: Entry, record: StoredRecord): StoredRecord {
  const withheld = withheldIn(entry);
  if (!withheld.length) return record;
  const values = less(record.values, hiddenIn(withheld));
  const origins = less(record.origins, pathsIn(withheld, null));
  const lines = linesWithout(record.lines ?? {}, withheld);
  return { values, origins, lines };
}
interface Withheld {
  readonly field: PlanField;
  readonly line: number | null;
}
/** The columns that are withheld of a record itself, or of one of its lines. */
const hiddenIn = (withheld: readonly Withheld[], lines: string | null = null, line: number | null = null): (string | null)[] =>
  withheld.filter((w) => w.line === line && (lines === null || w.field.key.startsWith(`${lines}.`))).map((w) => w.field.definition.column);
/** The fields that are withheld of a record itself, or of one of its lines. */
const pathsIn = (withheld: readonly Withheld[], line: number | null): string[] => withheld.filter((w) => w.line === line).map((w) => w.field.key); // prettier-ignore
/** Lines of every group without what is withheld of them. */
const linesWithout = (
  groups: Readonly<Record<string, readonly StoredLine[]>>,
  withheld: readonly Withheld[],
): Record<string, StoredLine[]> =>
  Object.fromEntries(
    Object.entries(groups).map(([key, all]) => [
      key,
      all.map(({ id, values, origins }) => ({
        id,
        values: less(values, hiddenIn(withheld, key, id)),
        origins: origins && less(origins, pathsIn(withheld, id)),
      })),
    ]),
  );
/** What of an entry the person it is opened for may not be told. */
export function withheldIn(entry: Entry): Withheld[] {
  const found: Withheld[] = [];
  entry.eachField((field, { line }) => {
    if (field.isPersonal && entry.isWithheld(field.key, line)) found.push({ field, line });
  });
  return found;
}
