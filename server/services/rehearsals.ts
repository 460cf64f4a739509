import { z } from 'zod';
import type { Result } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { type Entry, openEntry } from '../../core/engine/entry.ts';
import type { Plan, PlanField } from '../../core/engine/plan.ts';
import { type RowNames, type StepResult, keptRehearsal, rehearse, rowsNamed } from '../../core/engine/rehearse.ts';
import type { Edit } from '../../core/engine/state.ts';
import { followSteps } from '../../core/form/follow.ts';
import { MOST_REHEARSALS, type Rehearsal } from '../../core/form/rehearsal.ts';
import { rehearsalSchema } from '../../core/form/rehearsalSchemas.ts';
import { foldText } from '../../core/values/text.ts';
import { type Account, accountByPerson, accountNames } from '../database/accounts';
import { setSetting, setting } from '../database/settings';
import { deleteRehearsal, insertRehearsal, rehearsalRows, updateRehearsal } from '../database/rehearsals';
import { entryRows } from '../database/rows';

import { parsedJson } from './definitions';
import { storedRecord } from './opening';
import { Refused, notFound } from './errors';
import { formOf, publishedForm, publishedOrNull, soundDraft, stampBy } from './forms';
import { type JobHandle, UNWATCHED } from './jobs';
import type { Asker } from './owners';
import { othersFirst } from './pace';
import { workCalendar } from './settings';
import { findRows, rowTexts } from './tables';
import { settleEntry } from './wants';
import type { Workspace } from './workspace';

/* Rehearsals of a form: kept, run on its draft or on a version, and written down from what somebody has just tried. */

/** A rehearsal as it is kept. */
export interface KeptRehearsal {
  readonly id: number;
  readonly rehearsal: Rehearsal;
  readonly at: string;
  readonly by: string;
}
export type Ran = Result<typeof contract.rehearsals.run>;

/** Those of a form that can be read, in their order. */
export async function rehearsalsOf(ws: Workspace, key: string): Promise<KeptRehearsal[]> {
  await formOf(ws, key);
  const names = await accountNames(ws.db);
  return (await rehearsalRows(ws.db, key)).flatMap((r) => {
    const read = rehearsalSchema.safeParse(parsedJson(r.definition));
    const by = r.changed_by === null ? 'the demo' : (names.get(r.changed_by) ?? 'somebody');
    return read.success ? [{ id: r.id, rehearsal: { ...read.data, label: r.label }, at: r.changed_at, by }] : [];
  });
}
export async function addRehearsal(ws: Workspace, account: Account | null, key: string, rehearsal: Rehearsal): Promise<number> {
  await formOf(ws, key);
  if ((await rehearsalRows(ws.db, key)).length >= MOST_REHEARSALS)
    throw new Refused(422, 'tooMany', `A form has at most ${MOST_REHEARSALS} rehearsals. Remove some.`, {});
  return insertRehearsal(ws.db, { form: key, label: rehearsal.label, definition: JSON.stringify(rehearsal) }, stampBy(ws, account));
}
export async function changeRehearsal(ws: Workspace, account: Account, key: string, id: number, rehearsal: Rehearsal): Promise<void> {
  const row = { id, form: key, label: rehearsal.label, definition: JSON.stringify(rehearsal) };
  if (!(await updateRehearsal(ws.db, row, stampBy(ws, account)))) throw notFound('This rehearsal');
}
export async function removeRehearsal(ws: Workspace, key: string, id: number): Promise<void> {
  if (!(await deleteRehearsal(ws.db, key, id))) throw notFound('This rehearsal');
}

/** Runs the rehearsals of a form, or some of them, on its draft (or on a version), where nobody waits for it. */
export async function runRehearsals(ws: Workspace, key: string, asked: RehearsalsAsked, job: JobHandle = UNWATCHED): Promise<Ran> {
  await formOf(ws, key);
  const ran = await ws.work.run('rehearse', { form: key, ...asked }, job);
  if (!asked.ids && !asked.version) await noteRun(ws, key, ran);
  return ran;
}
const LAST_RUNS = 'rehearsed';
const lastRunsSchema = z.record(z.string(), z.object({ failed: z.number(), of: z.number(), at: z.string() }));
/** What came of the rehearsals of each form when all were run last on its draft. */
export async function lastRuns(ws: Workspace): Promise<z.infer<typeof lastRunsSchema>> {
  return lastRunsSchema.safeParse(await setting(ws.db, LAST_RUNS)).data ?? {};
}
async function noteRun(ws: Workspace, key: string, { results }: Ran): Promise<void> {
  const failed = results.filter((r) => !r.ok).length;
  await setSetting(ws.db, LAST_RUNS, { ...(await lastRuns(ws)), [key]: { failed, of: results.length, at: ws.clock.now() } });
}
export interface RehearsalsAsked {
  readonly ids?: readonly number[] | undefined;
  /** null: the draft */
  readonly version?: number | null | undefined;
}
export async function performRehearsals(
  ws: Workspace,
  { form, ids, version }: RehearsalsAsked & { readonly form: string },
  job: JobHandle,
): Promise<Ran> {
  const began = Date.now();
  const plan = version ? (await publishedForm(ws, form, version)).plan : (await soundDraft(ws, form)).plan;
  // they call fields as the newest version does: what the draft has renamed is found
  const published = (await publishedOrNull(ws, form))?.form ?? null;
  const followed = (r: Rehearsal): Rehearsal => (published ? { ...r, steps: followSteps(r.steps, published, plan.form) } : r);
  const all = (await rehearsalsOf(ws, form)).filter((r) => !ids || ids.includes(r.id));
  const results: Ran['results'][number][] = [];
  for (const [i, { id, rehearsal }] of all.entries()) {
    job.at(i / Math.max(1, all.length), `rehearsing ${i + 1} of ${all.length}: ${rehearsal.label}`);
    results.push({ id, ...(await performRehearsal(ws, plan, followed(rehearsal))) });
    await othersFirst();
  }
  return { results, milliseconds: Date.now() - began };
}

/** Refuses while a rehearsal of a form that says so does not come out as expected. */
export async function requireGreen(ws: Workspace, key: string): Promise<void> {
  const { form } = await soundDraft(ws, key);
  if (form.red !== 'refuse' || !(await rehearsalRows(ws.db, key)).length) return;
  const { results } = await runRehearsals(ws, key, {});
  const red = results.filter((r) => !r.ok);
  if (!red.length) return;
  const labels = new Map((await rehearsalsOf(ws, key)).map((r) => [r.id, r.rehearsal.label]));
  const said = red.slice(0, 5).map((r) => `“${labels.get(r.id) ?? ''}”`).join(', '); // prettier-ignore
  throw new Refused(422, 'rehearsals', `This form is not published while a rehearsal fails: ${said}.`, { failed: red.map((r) => r.id) });
}

// ---- names of rows ----

/** Stands for a row's text until that is looked up; a character that nobody types. */
const MARK = '\uE0A7';
const MARKED = /\uE0A7([a-z0-9_]+):(\d+)\uE0A7/g;

/** Rows by what people call them: those found beforehand, and marks for those that are to be named afterwards. */
class Names implements RowNames {
  private readonly known = new Map<string, number>();
  constructor(private readonly ws: Workspace) {}

  /** Looks texts up in a table, so that they are found. */
  async learn(table: string, texts: Iterable<string>): Promise<void> {
    for (const text of texts) {
      const id = await rowCalled(this.ws, table, text);
      if (id !== null) this.known.set(`${table} ${text}`, id);
    }
  }
  find = (field: PlanField, text: string): number | undefined => this.known.get(`${field.choices?.table ?? ''} ${text}`);
  name = (field: PlanField, id: number): string => `${MARK}${field.choices?.table ?? ''}:${id}${MARK}`;
  /** The same with every mark replaced by what its row is called. */
  async named<T>(value: T): Promise<T> {
    const json = JSON.stringify(value);
    const wanted = new Map<string, Set<number>>();
    for (const [, table = '', id = ''] of json.matchAll(MARKED)) wanted.set(table, (wanted.get(table) ?? new Set()).add(Number(id)));
    const texts = new Map<string, string>();
    for (const [table, ids] of wanted)
      for (const [id, text] of await calledRows(this.ws, table, [...ids])) texts.set(`${table}:${id}`, text);
    return JSON.parse(json.replaceAll(MARKED, (_, table: string, id: string) => JSON.stringify(texts.get(`${table}:${id}`) ?? `row ${id}`).slice(1, -1))) as T; // prettier-ignore
  }
}
/** How many rows of one text are looked at. */
const SAME_NAMED = 50;
const numbered = (text: string, id: number): string => `${text} (row ${id})`;
/** The row that a text calls: by what it is known by, which no other is; or with its number behind it. Null: none, or several. */
async function rowCalled(ws: Workspace, table: string, text: string): Promise<number | null> {
  if (!(await ws.tables()).has(table)) return null;
  const [, bare, number] = /^(.*) \(row (\d+)\)$/s.exec(text) ?? [];
  if (bare !== undefined) {
    const known = await calledRows(ws, table, [Number(number)], false);
    if (known.get(Number(number)) === bare) return Number(number);
  }
  const fits = (await sameNamed(ws, table, text)).filter((r) => foldText(r.text.trim()) === foldText(text.trim()));
  return fits.length === 1 ? fits[0]!.id : null;
}
const sameNamed = async (ws: Workspace, table: string, text: string) => (await findRows(ws, table, { search: text.slice(0, 200), limit: SAME_NAMED })).rows; // prettier-ignore
/** What rows are called, so that they are found again: those that share their text with others with their number. */
async function calledRows(ws: Workspace, table: string, ids: readonly number[], apart = true): Promise<ReadonlyMap<number, string>> {
  const of = await ws.modelTable(table);
  const rows = (await entryRows(ws.db, of, { ids })).map((r) => r.row);
  const texts = new Map(await rowTexts(ws, of, rows));
  if (apart) for (const [id, text] of texts) if ((await rowCalled(ws, table, text)) !== id) texts.set(id, numbered(text, id));
  return texts;
}

// ---- performing ----

/** Answers all that an entry wants: services where a value hangs on them, and lists as somebody who looks at them. */
async function settleWhole(ws: Workspace, entry: Entry, who: Asker): Promise<void> {
  await settleEntry(ws, entry, who, 'needed');
  await settleEntry(ws, entry, who);
}

type Performed = Omit<Ran['results'][number], 'id'>;
const failed = (problem: string): Performed => ({ ok: false, problem, steps: [] });

/** As whom, on what and when a rehearsal is opened. Throws RangeError with a sentence when something it names is not there. */
async function openRehearsed(ws: Workspace, plan: Plan, r: Omit<Rehearsal, 'label' | 'steps'>): Promise<{ entry: Entry; who: Asker }> {
  const person = r.as === null ? null : await rowCalled(ws, 'people', r.as);
  if (r.as !== null && person === null) throw new RangeError(`Nobody in People is called “${r.as}”, or several are.`);
  const who: Asker = person === null ? { person: null, roles: [] } : ((await accountByPerson(ws.db, person)) ?? { person, roles: [] });
  const id = r.record === null ? null : await rowCalled(ws, plan.form.table, r.record);
  if (r.record !== null && id === null) throw new RangeError(`No record is called “${r.record}”, or several are.`);
  const parent = r.parent === null || plan.form.parent === null ? null : await rowCalled(ws, plan.form.parent, r.parent);
  if (r.parent !== null && parent === null) throw new RangeError(`There is no “${r.parent}” to open it under.`);
  const record = id === null ? null : (await storedRecord(ws, plan, id, who)).record;
  const column = plan.form.steps && plan.form.fields[plan.form.steps.field]?.column;
  const stored = record && r.step !== null && column ? { ...record, values: { ...record.values, [column]: r.step } } : record;
  const mode = stored === null ? ('new' as const) : r.mode;
  const context = { mode, today: r.at.slice(0, 10), now: r.at, me: who.person, roles: who.roles, calendar: await workCalendar(ws), url: r.url, parent };
  return { entry: openEntry(plan, context, ws.newCache(), stored), who };
} // prettier-ignore

/** Performs one rehearsal on a plan; whatever is wrong with it is told in what it comes to. */
export async function performRehearsal(ws: Workspace, plan: Plan, rehearsal: Rehearsal): Promise<Performed> {
  try {
    const { entry, who } = await openRehearsed(ws, plan, rehearsal);
    const names = new Names(ws);
    for (const [path, texts] of rowsNamed(plan, rehearsal.steps)) await names.learn(entry.field(path).choices?.table ?? '', texts);
    const going = rehearse(entry, rehearsal, names);
    for (let round = 0, step = going.next(); ; step = going.next(), round++) {
      if (step.done) {
        const steps = await names.named(step.value as StepResult[]);
        return { ok: steps.every((s) => s.ok), problem: null, steps };
      }
      // each step settles in no more rounds than the form has cells
      if (round > (plan.cells.length + 2) * (rehearsal.steps.length + 1)) return failed('It keeps wanting the same.');
      await settleWhole(ws, entry, who);
    }
  } catch (e) {
    if (e instanceof RangeError || e instanceof Refused) return failed(e.message);
    throw e;
  }
}

/** What was tried, as a rehearsal of it: what was done, and what came of it. Nothing is kept yet. */
export async function rehearsalOf(ws: Workspace, key: string, { edits, record, parent, person, ...tried }: Tried): Promise<Rehearsal> {
  const { plan } = await soundDraft(ws, key);
  const called = async (table: string | null, id: number | null): Promise<string | null> =>
    table === null || id === null ? null : ((await calledRows(ws, table, [id])).get(id) ?? null);
  const settings = {
    as: await called('people', person),
    record: await called(plan.form.table, record),
    parent: await called(plan.form.parent, parent),
    mode: tried.mode,
    step: tried.step,
    url: { ...tried.url },
    at: tried.at ?? ws.clock.now(),
  };
  try {
    const open = async (): Promise<{ entry: Entry; who: Asker }> => {
      const opened = await openRehearsed(ws, plan, settings);
      await settleWhole(ws, opened.entry, opened.who);
      return opened;
    };
    const { entry: before } = await open();
    const { entry, who } = await open();
    for (const edit of edits) {
      entry.apply([edit]);
      await settleWhole(ws, entry, who);
    }
    const names = new Names(ws);
    const steps = await names.named(keptRehearsal(before, entry, names));
    return rehearsalSchema.parse({ label: tried.label, ...settings, steps });
  } catch (e) {
    if (e instanceof RangeError) throw new Refused(422, 'values', e.message, {});
    throw e;
  }
}
export interface Tried {
  readonly label: string;
  readonly edits: readonly Edit[];
  readonly record: number | null;
  readonly parent: number | null;
  readonly person: number | null;
  readonly mode: 'edit' | 'view';
  readonly step: string | null;
  readonly url: Readonly<Record<string, string>>;
  readonly at: string | null;
}
