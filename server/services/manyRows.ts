import type { Result } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { MOST_AT_ONCE } from '../../core/contract/limits.ts';
import { type Entry, openEntry } from '../../core/engine/entry.ts';
import { choiceMeant } from '../../core/engine/meant.ts';
import { textsOf } from '../../core/engine/named.ts';
import type { Plan, PlanField } from '../../core/engine/plan.ts';
import type { Edit } from '../../core/engine/state.ts';
import { verify } from '../../core/engine/verify.ts';
import { readCell } from '../../core/exchange/columns.ts';
import { isLockedByFill } from '../../core/form/fills/index.ts';
import { fitProblem } from '../../core/form/fit.ts';
import { isDatum } from '../../core/formula/errors.ts';
import { isPersons } from '../../core/model/origin.ts';
import { isSeveral } from '../../core/model/tables.ts';
import { type Datum, type Row, same } from '../../core/values/types.ts';
import type { Account } from '../database/accounts';
import { openImport } from '../imports/files';
import { saveEntry } from './entries';
import { Refused } from './errors';
import { publishedForm } from './forms';
import { type JobHandle, UNWATCHED } from './jobs';
import { othersFirst } from './pace';
import { workCalendar } from './settings';
import { linkedTexts } from './tables';
import { dropUpload, takeUpload, uploadOf } from './uploads';
import { answerWants, settleEntry } from './wants';
import type { Workspace } from './workspace';
import type { Readable } from 'node:stream';

/*
 * Rows of a sheet entered through a form: each is opened as a new entry, its texts are put into their fields in the order of the
 * form, and what comes of it is told. Nothing is saved until it is asked for, and then each row as any other entry.
 */

export type RowsTried = Result<typeof contract.many.rows>;
type Wrong = RowsTried['rows'][number]['wrong'][number];

/** What texts mean is read as the files of this locale are; the same for everybody. */
const LOCALE = 'en-GB';
/** How often at most something is asked to know which choice one text means: a search, and one that looks at more. */
const MOST_ASKED = 4;

export async function tryRows(
  ws: Workspace,
  account: Account,
  formKey: string,
  asked: { readonly columns: readonly (string | null)[]; readonly rows: readonly (readonly string[])[] },
  job: JobHandle = UNWATCHED,
): Promise<RowsTried> {
  const { version, plan, form } = await publishedForm(ws, formKey);
  for (const key of asked.columns)
    if (key !== null && !plan.own.some((f) => f.key === key)) throw new Refused(422, 'values', `The form has no field “${key}”.`, {});
  const now = ws.clock.now();
  const context = { today: now.slice(0, 10), now, me: account.person, roles: account.roles, calendar: await workCalendar(ws), mode: 'new' as const, url: {}, parent: null };
  // what was read for one row is known to the next
  const cache = ws.newCache();
  const rows: RowsTried['rows'][number][] = [];
  for (const [i, texts] of asked.rows.entries()) {
    job.at(i / asked.rows.length, `row ${i + 1} of ${asked.rows.length}`);
    const entry = openEntry(plan, context, cache, null);
    await settleEntry(ws, entry, account);
    rows.push(await new TriedRow(ws, account, plan, entry).with(asked.columns, texts));
    await othersFirst();
  }
  const table = await ws.modelTable(form.table);
  const byColumn = rows.map((r): Row => ({ id: 0, ...Object.fromEntries(plan.own.flatMap((f) => (f.definition.column && f.key in r.values ? [[f.definition.column, r.values[f.key] ?? null]] : []))) }));
  return { version, rows, linked: await linkedTexts(ws, table.columns, byColumn, account) };
} // prettier-ignore

/** One row on its way through the form. */
class TriedRow {
  private readonly edits: Edit[] = [];
  private readonly wrong: Wrong[] = [];
  constructor(
    private readonly ws: Workspace,
    private readonly account: Account,
    private readonly plan: Plan,
    private readonly entry: Entry,
  ) {}

  async with(columns: readonly (string | null)[], texts: readonly string[]): Promise<RowsTried['rows'][number]> {
    const { entry, plan } = this;
    // in the order of the form, so that a parent comes before its child
    for (const field of plan.own) {
      const at = columns.indexOf(field.key);
      const text = at < 0 ? '' : (texts[at] ?? '').trim();
      if (text !== '') await this.put(field, text);
    }
    entry.beforeSaving();
    await settleEntry(this.ws, entry, this.account, 'needed');
    for (const issue of verify(entry)) {
      const [field, told] = [issue.field.split('.')[0] ?? issue.field, this.wrong.some((w) => w.field === issue.field)];
      if (!told) this.wrong.push({ field, text: '', message: issue.message });
    }
    return { values: this.values(), filled: this.filled(), wrong: this.wrong, edits: this.edits };
  }

  private async put(field: PlanField, text: string): Promise<void> {
    const { entry, wrong } = this;
    const { label } = field.definition;
    const say = (message: string): void => void wrong.push({ field: field.key, text, message });
    const value = field.choices ? await this.chosen(field, text) : this.typed(field, text);
    if (typeof value === 'object' && value !== null && 'why' in value) return say(value.why);
    // what computes itself is compared, not set
    if (isLockedByFill(field)) {
      if (!same(entry.value(field.key), value)) say(`${label} computes itself here and comes to something else.`);
      return;
    }
    const misfit = fitProblem(field.definition, field.column, value);
    if (misfit !== null) return say(misfit);
    if (entry.isLocked(field.key)) {
      if (!same(entry.value(field.key), value)) say(`${label} cannot be filled in here.`);
      return;
    }
    if (!entry.isShown(field.key)) return say(`${label} does not apply here.`);
    const edit: Edit = { kind: 'set', field: field.key, value };
    const { refused } = entry.apply([edit]);
    await settleEntry(this.ws, entry, this.account, 'needed');
    if (refused[0]) return say(refused[0].message);
    if (!same(entry.value(field.key), value)) return say(`“${text}” is not offered here.`);
    this.edits.push(edit);
  }

  private typed(field: PlanField, text: string): Datum | { why: string } {
    const read = readCell(field.definition.type, text);
    return read.ok ? read.value : { why: `“${text}” cannot be read: ${read.message}` };
  }

  private async chosen(field: PlanField, text: string): Promise<Datum | { why: string }> {
    const found: Datum[] = [];
    for (const one of textsOf(field, text)) {
      const value = await this.meant(field, one);
      if (value === undefined) return { why: `“${one}” is not offered here.` };
      found.push(value);
    }
    return isSeveral(field.definition.type) ? (found as Datum) : (found[0] ?? null);
  }
  private async meant(field: PlanField, text: string): Promise<Datum | undefined> {
    const { entry, ws, plan, account } = this;
    for (let asked = 0; asked < MOST_ASKED; asked++) {
      const meant = choiceMeant(entry, field.key, null, text, LOCALE);
      if ('value' in meant) return meant.value;
      const answered = await answerWants(ws, plan, [meant.want], account);
      if (answered[0]?.answer.kind !== 'page') return undefined;
      entry.supply(answered);
      await settleEntry(ws, entry, account);
    }
    return undefined;
  }

  /** What the record would hold, as far as whoever enters it is shown it. */
  private values(): Record<string, Datum> {
    const found: Record<string, Datum> = {};
    for (const { key } of this.plan.own) {
      const value = this.entry.value(key);
      if (isDatum(value) && value !== null && !this.entry.isWithheld(key, null)) found[key] = value;
    }
    return found;
  }
  private filled(): string[] {
    return this.plan.own.flatMap(({ key }) => {
      const { origin } = this.entry.state(key);
      return origin.kind === 'none' || isPersons(origin) || this.entry.value(key) === null || this.entry.isWithheld(key, null) ? [] : [key];
    });
  }
}

export type RowsSaved = Result<typeof contract.many.save>;
/** Saves rows as records, one after the other. One that is refused is told, and takes no other with it. */
export async function saveRows(
  ws: Workspace,
  account: Account,
  formKey: string,
  asked: { readonly version: number; readonly rows: readonly { readonly edits: readonly Edit[]; readonly request: string }[] },
  job: JobHandle = UNWATCHED,
): Promise<RowsSaved> {
  const rows: RowsSaved['rows'][number][] = [];
  const opened = { parent: null, url: {}, at: ws.clock.now() };
  for (const [i, { edits, request }] of asked.rows.entries()) {
    job.at(i / asked.rows.length, `${i} of ${asked.rows.length} saved`);
    try {
      const saved = await saveEntry(ws, account, formKey, null, { version: asked.version, edits, revision: null, request, opened });
      rows.push({ id: saved.id, wrong: [] });
    } catch (e) {
      if (!(e instanceof Refused)) throw e;
      rows.push({ id: null, wrong: wrongOf(e) });
    }
    await othersFirst();
  }
  return { rows };
}
/** What a refusal says, field by field. */
export function wrongOf(e: Refused): Wrong[] {
  const issues = Object.entries((e.details.issues ?? {}) as Record<string, string>);
  return issues.length
    ? issues.map(([at, message]) => ({ field: at.split(/[#.]/)[0] ?? at, text: '', message }))
    : [{ field: null, text: '', message: e.message }];
}

/** A sheet as rows of texts: its first line as headers, and as many rows as can be entered at once. */
export async function readRows(
  ws: Workspace,
  account: Account,
  name: string,
  stream: Readable,
): Promise<{ headers: string[]; rows: string[][]; more: boolean }> {
  const { id } = await takeUpload(ws, account.id, name, stream);
  try {
    const file = await openImport(name, { path: uploadOf(id, account.id).path });
    const rows: string[][] = [];
    for await (const batch of file.lines()) {
      for (const cells of batch) rows.push(cells.map((c) => String(c ?? '')));
      if (rows.length > MOST_AT_ONCE) break;
    }
    return { headers: [...file.headers], rows: rows.slice(0, MOST_AT_ONCE), more: rows.length > MOST_AT_ONCE };
  } finally {
    await dropUpload(id);
  }
}
