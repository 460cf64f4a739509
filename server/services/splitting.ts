import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { compileFormInSteps } from '../../core/engine/compile.ts';
import { type Split, linkColumn, subsetsSplit, tablesSplit, withSplit } from '../../core/engine/split.ts';
import { togetherKey } from '../../core/evidence/together.ts';
import { type Form } from '../../core/form/definition.ts';
import { formSchema } from '../../core/form/schemas.ts';
import { type Column, type Table, type Tables, keyFromLabel, targetOf } from '../../core/model/tables.ts';
import { PEOPLE } from '../../core/values/kinds/index.ts';
import { compareText } from '../../core/values/text.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import type { Account } from '../database/accounts';
import type { Database } from '../database/connection';
import { formRows, newestVersions, updateDraft } from '../database/forms';
import { addColumns, createTable, dropColumn, dropTable, orderColumns, replaceColumn, writeSubsets } from '../database/model';
import { type Repair, type SplitDone, markUndone, noteRepair } from '../database/repairs';
import { allRows, eachPage, restoreRows, setColumn } from '../database/rows';
import { refuseBreakages, breaksBetween, type World } from './breakage';
import { parsedJson } from './definitions';
import { Refused } from './errors';
import { ensureAllIndexes } from './publishing';
import { stampOf } from './tables';
import { Pace } from './pace';
import type { Workspace } from './workspace';

/*
 * Columns that come together become a table of their own: each row links to what it said before. Drafts and subsets are written anew, so
 * that they say the same. All of it in one transaction; it can be undone.
 */

export interface SplitAsked {
  /** innermost first: what is split off first may be moved into what is split off after */
  readonly groups: readonly { readonly by: string; readonly columns: readonly string[]; readonly label: string }[];
  readonly mayLose: boolean;
}
type Answered = Answer<typeof contract.tables.split>;
type GroupDone = SplitDone['groups'][number];
const MOST_ROWS = 500_000;
const MOST_VALUES = 50_000;

export const splitTable = (ws: Workspace, account: Account, key: string, asked: SplitAsked): Promise<Answered> =>
  ws.reshape([key], 'splitTable', [account, key, asked], () => splitNow(ws, account, key, asked));
async function splitNow(ws: Workspace, account: Account, key: string, asked: SplitAsked): Promise<Answered> {
  const table = await ws.modelTable(key);
  if (key === PEOPLE) throw new Refused(409, 'inUse', 'Who people are is told by the columns they have: they stay together.', {});
  if ((await ws.rowCount(key)) > MOST_ROWS)
    throw new Refused(422, 'values', `${table.label} has more than ${MOST_ROWS.toLocaleString('en')} rows: too many to be split at once.`, {}); // prettier-ignore
  const before: World = { tables: await ws.tables(), lists: await ws.lists(), feeds: await ws.feeds() };
  let tables = before.tables;
  const steps = asked.groups.map((g) => {
    const split = splitOf(tables, key, g);
    const step = { split, before: tables, ...tablesSplit(tables, split) };
    tables = step.tables;
    return step;
  });
  const after: World = { ...before, tables };
  const drafts = await draftsSplit(ws, before, after, steps);
  const subsets = subsetsOf(before.tables, steps);
  const stamp = stampOf(ws, account);
  const result = await ws.db.transaction(async (db) => {
    const [groups, made]: [GroupDone[], Answered['tables'][number][]] = [[], []];
    let changed = 0;
    for (const { split, target, before: were, tables: are } of steps) {
      const found = await valuesOf(db, were.get(key)!, split);
      changed += found.changed;
      await createTable(db, target);
      await restoreRows(db, target, found.rows, stamp);
      await write(db, were.get(key)!, are.get(key)!, split, found.done);
      groups.push(found.done);
      made.push({ key: target.key, label: target.label, rows: found.rows.length });
    }
    if (changed && !asked.mayLose)
      throw new Refused(409, 'wouldLose', `${changed} rows say otherwise than most with the same value and would say the same.`, { changed }); // prettier-ignore
    for (const { form, revision, definition, label } of drafts)
      if (!(await updateDraft(db, form, revision, { label, draft: definition }, { at: stamp.at, account: account.id })))
        throw new Refused(409, 'conflict', `${label} was changed meanwhile. Try again.`, {});
    for (const s of subsets) await writeSubsets(db, s.table, s.after);
    const split: SplitDone = { groups, subsets, drafts: drafts.map(({ form, revision, before: was }) => ({ form, revision: revision + 1, before: was })) }; // prettier-ignore
    const repair = await noteRepair(db, key, account.id, stamp.at, { moved: [], dropped: [], split });
    return { tables: made, changed, forms: drafts.map((d) => d.label), repair };
  });
  ws.modelChanged();
  await ensureAllIndexes(ws);
  return result;
}

/** What is asked, checked against the tables as they are by then. */
function splitOf(tables: Tables, key: string, { by, columns, label }: SplitAsked['groups'][number]): Split {
  const table = tables.get(key)!;
  const refuse = (message: string): never => {
    throw new Refused(422, 'values', message, {});
  };
  const named = (name: string): Column => table.columns.find((c) => c.key === name) ?? refuse(`${table.label} has no column “${name}”.`);
  const of = named(by);
  if (of.type !== 'text' && of.type !== 'choice') refuse(`The rows of a table are known by texts: ${of.label} holds none.`);
  for (const column of columns) {
    if (column === by) refuse(`${of.label} cannot be told by itself.`);
    if (table.shown === column) refuse(`The rows of ${table.label} are known by ${named(column).label}: it stays with them.`);
    if (targetOf(named(column)) === key) refuse(`${named(column).label} links to ${table.label} itself: it stays.`);
  }
  if ([...tables.values()].some((t) => t.label.toLowerCase() === label.toLowerCase())) refuse(`There is a table called ${label} already.`);
  return {
    table: key,
    by,
    columns: table.columns.filter((c) => columns.includes(c.key)).map((c) => c.key),
    target: keyFromLabel(label, [...tables.keys()]),
    label,
    shown: keyFromLabel('Name', [...columns]),
  };
}

interface Step {
  readonly split: Split;
  readonly before: Tables;
  readonly tables: Tables;
}
/** The drafts that are written anew. Refused where one, or a published form, would no longer work. */
async function draftsSplit(
  ws: Workspace,
  before: World,
  after: World,
  steps: readonly Step[],
): Promise<{ form: string; label: string; revision: number; before: string; definition: string }[]> {
  const found: Awaited<ReturnType<typeof draftsSplit>> = [];
  const versions = await newestVersions(ws.db);
  const broken: Parameters<typeof refuseBreakages>[1][number][] = [];
  const { lists, feeds } = before;
  const pace = new Pace();
  for (const row of await formRows(ws.db)) {
    const published = formSchema.safeParse(parsedJson(versions.get(row.key)?.definition ?? '')).data;
    if (published) {
      refuseSaved(published, steps);
      broken.push(...(await pace.through(breaksBetween([published, before], [published, after], 'published'))));
    }
    const draft = formSchema.safeParse(parsedJson(row.draft)).data;
    if (!draft) continue;
    let form: Form = draft;
    for (const { split, before: tables } of steps) {
      const next = withSplit(await pace.through(compileFormInSteps(form, tables, lists, feeds)), split);
      if (!next) refuseSaved(draft, steps);
      form = next ?? form;
      await pace.rest();
    }
    broken.push(...(await pace.through(breaksBetween([draft, before], [form, after], 'draft'))));
    const [was, definition] = [JSON.stringify(draft), JSON.stringify(form)];
    if (was !== definition) found.push({ form: row.key, label: row.label, revision: row.draft_revision, before: row.draft, definition });
  }
  refuseBreakages('These columns are used, so they must stay', broken);
  return found;
}
/** Refused where a form saves into one of the columns: what its clerks enter has no place to go. */
function refuseSaved(form: Form, steps: readonly Step[]): void {
  for (const { split } of steps)
    for (const { table, fields } of [form, ...Object.values(form.lines)]) {
      if (table !== split.table) continue;
      const field = Object.values(fields).find((f) => f.column === split.by || split.columns.includes(f.column ?? ''));
      if (field)
        throw new Refused(409, 'inUse', `${form.label} saves ${field.label} here, so its column must stay. Take the field out of the form, publish it, and try again.`, {}); // prettier-ignore
    }
}

/** The subsets that are written anew. */
function subsetsOf(
  tables: Tables,
  steps: readonly Step[],
): { table: string; before: Table['subsets'] & object; after: Table['subsets'] & object }[] {
  return [...tables.values()].flatMap((t) => {
    const was = t.subsets ?? [];
    let now = was;
    for (const { split, before } of steps) now = subsetsSplit({ key: t.key, subsets: now }, before, split);
    return now.some((s, i) => s.condition !== was[i]?.condition) ? [{ table: t.key, before: was, after: now }] : [];
  });
}

/** The rows of the new table, in order; which of them each row links to; and how many rows say otherwise. */
async function valuesOf(db: Database, table: Table, split: Split): Promise<{ rows: Row[]; done: GroupDone; changed: number }> {
  const of = (key: string): Column => table.columns.find((c) => c.key === key)!;
  const [by, columns] = [of(split.by), split.columns.map(of)];
  const known = new Map<string, { spelled: Tally; says: Tally[]; id: number }>();
  const seen: { id: number; key: string | null; by: Datum; columns: Datum[] }[] = [];
  await eachPage(db, table, async (page) => {
    for (const row of page) {
      const value = row[by.key] ?? null;
      const said = columns.map((c) => row[c.key] ?? null);
      const key = value === null ? null : togetherKey(value);
      seen.push({ id: row.id, key, by: value, columns: said });
      if (key === null) continue;
      let one = known.get(key);
      if (!one) known.set(key, (one = { spelled: new Tally(), says: columns.map(() => new Tally()), id: 0 }));
      one.spelled.add(value);
      for (const [i, v] of said.entries()) one.says[i]!.add(v);
    }
  });
  if (known.size > MOST_VALUES)
    throw new Refused(422, 'values', `${by.label} has more than ${MOST_VALUES.toLocaleString('en')} values: too many for a table of its own.`, {}); // prettier-ignore
  const ordered = [...known.values()].sort((a, b) => compareText(String(a.spelled.most()), String(b.spelled.most())));
  const rows = ordered.map((one, i): Row => {
    one.id = i + 1;
    return { id: one.id, [split.shown]: one.spelled.most(), ...Object.fromEntries(columns.map((c, j) => [c.key, one.says[j]!.most()])) };
  });
  let changed = 0;
  const links = seen.map(({ id, key, by: value, columns: said }): GroupDone['rows'][number] => {
    const one = key === null ? null : known.get(key)!;
    const now = one ? rows[one.id - 1]! : null;
    if (said.some((v, i) => JSON.stringify(v) !== JSON.stringify(now?.[columns[i]!.key] ?? null))) changed++;
    return [id, one?.id ?? null, value, ...said];
  });
  return { rows, changed, done: { split, by, columns, order: table.columns.map((c) => c.key), rows: links } };
}
/** Counts values, and tells the one that is there most often; of several the first. */
class Tally {
  private readonly counts = new Map<string, { value: Datum; count: number }>();
  add(value: Datum): void {
    const key = JSON.stringify(value);
    const known = this.counts.get(key);
    if (known) known.count++;
    else this.counts.set(key, { value, count: 1 });
  }
  most(): Datum {
    let best: { value: Datum; count: number } | null = null;
    for (const one of this.counts.values()) if (!best || one.count > best.count) best = one;
    return best?.value ?? null;
  }
}

async function write(db: Database, was: Table, is: Table, split: Split, { by, columns, rows }: GroupDone): Promise<void> {
  const link = linkColumn(by, split);
  await replaceColumn(db, was, by, link);
  await setColumn(db, was.key, link, rows.map(([id, value]) => ({ id, value })), 'silently'); // prettier-ignore
  for (const column of columns) await dropColumn(db, was, column);
  await orderColumns(db, is.key, is.columns.map((c) => c.key)); // prettier-ignore
}

/**
 * Undoes a split: the columns stand again as they were; where a row links to another since, or the row it links to was changed, they say
 * what that one says. Refused where something else links to the new tables by now, or a form would no longer work.
 */
export const undoSplit = (ws: Workspace, account: Account, repair: SplitRepair): Promise<{ restored: number; left: number }> =>
  ws.reshape(new Set(repair.split.groups.map((g) => g.split.table)), 'undoSplit', [account, repair], () => undoNow(ws, account, repair));
type SplitRepair = Repair & { readonly split: SplitDone };
async function undoNow(ws: Workspace, account: Account, repair: SplitRepair): Promise<{ restored: number; left: number }> {
  const { groups, drafts, subsets } = repair.split;
  const world: World = { tables: await ws.tables(), lists: await ws.lists(), feeds: await ws.feeds() };
  const tables = new Map(world.tables);
  for (const { split, by, columns, order } of [...groups].reverse()) {
    const [table, target] = [tables.get(split.table), tables.get(split.target)];
    const refuse = (message: string): never => {
      throw new Refused(409, 'inUse', message, {});
    };
    if (!table || !target) return refuse(`${split.label} is not there any more.`);
    if (!table.columns.some((c) => c.key === split.by && c.target === split.target))
      refuse(`${table.label} does not link to ${target.label} by ${by.label} any more.`);
    for (const t of tables.values())
      for (const c of t.columns)
        if (targetOf(c) === split.target && !(t.key === split.table && c.key === split.by))
          refuse(`${t.label} links to ${target.label} by now: ${c.label}.`);
    for (const c of columns) if (table.columns.some((o) => o.key === c.key)) refuse(`${table.label} has a column “${c.key}” again.`);
    tables.set(table.key, { ...table, columns: inOrder([...table.columns.map((c) => (c.key === by.key ? by : c)), ...columns], order) });
    tables.delete(split.target);
  }
  const after: World = { ...world, tables };
  const formsNow = await formRows(ws.db);
  const back = drafts.filter((d) => formsNow.some((f) => f.key === d.form && f.draft_revision === d.revision));
  const broken = [];
  const pace = new Pace();
  const versions = await newestVersions(ws.db);
  for (const row of formsNow) {
    const now = formSchema.safeParse(parsedJson(row.draft)).data;
    const then = formSchema.safeParse(parsedJson(back.find((d) => d.form === row.key)?.before ?? row.draft)).data;
    if (now && then) broken.push(...(await pace.through(breaksBetween([now, world], [then, after], 'draft'))));
    const published = formSchema.safeParse(parsedJson(versions.get(row.key)?.definition ?? '')).data;
    if (published) broken.push(...(await pace.through(breaksBetween([published, world], [published, after], 'published'))));
  }
  refuseBreakages('The new tables are used', broken);
  const stamp = { at: ws.clock.now(), account: account.id };
  const result = await ws.db.transaction(async (db) => {
    let [restored, left] = [0, 0];
    let now = world.tables;
    for (const group of [...groups].reverse()) {
      const counts = await restoreColumns(db, now, group);
      [restored, left, now] = [restored + counts.restored, left + counts.left, counts.tables];
    }
    for (const { form, revision, before } of back) {
      const label = formsNow.find((f) => f.key === form)!.label;
      if (!(await updateDraft(db, form, revision, { label, draft: before }, stamp)))
        throw new Refused(409, 'conflict', `${label} was changed meanwhile. Try again.`, {});
    }
    for (const s of subsets) {
      const there = world.tables.get(s.table)?.subsets ?? [];
      if (JSON.stringify(there) === JSON.stringify(s.after)) await writeSubsets(db, s.table, s.before);
    }
    await markUndone(db, repair.id, stamp.at);
    return { restored, left };
  });
  ws.modelChanged();
  await ensureAllIndexes(ws);
  return result;
}
const inOrder = (columns: readonly Column[], order: readonly string[]): Column[] => {
  const at = (c: Column): number => (order.includes(c.key) ? order.indexOf(c.key) : order.length);
  return [...columns].sort((a, b) => at(a) - at(b));
};

async function restoreColumns(
  db: Database,
  tables: Tables,
  { split, by, columns, order, rows }: GroupDone,
): Promise<{ restored: number; left: number; tables: Tables }> {
  const [table, target] = [tables.get(split.table)!, tables.get(split.target)!];
  const link = table.columns.find((c) => c.key === split.by)!;
  const there = new Map((await allRows(db, target)).map((r) => [r.id, r]));
  const was = new Map(rows.map((r) => [r[0], r]));
  // what a row of the new table said when it was made: what most said
  const says = (row: Row): Datum[] => [row[split.shown] ?? null, ...columns.map((c) => row[c.key] ?? null)];
  const made = new Map<number, Tally[]>();
  for (const [, id, ...said] of rows) {
    if (id === null) continue;
    const tallies = made.get(id) ?? said.map(() => new Tally());
    for (const [i, v] of said.entries()) tallies[i]!.add(v);
    made.set(id, tallies);
  }
  const untouched = new Set([...there.values()].filter((r) => JSON.stringify(says(r)) === JSON.stringify(made.get(r.id)?.map((t) => t.most()))).map((r) => r.id)); // prettier-ignore
  const changes: { id: number; values: readonly Datum[] }[] = [];
  let left = 0;
  await eachPage(db, table, async (page) => {
    for (const row of page) {
      const to = (row[split.by] ?? null) as number | null;
      const old = was.get(row.id);
      const same = old !== undefined && old[1] === to && (to === null || untouched.has(to));
      if (!same) left++;
      const values = same ? old.slice(2) : to === null ? [null, ...columns.map(() => null)] : says(there.get(to)!);
      changes.push({ id: row.id, values: values as readonly Datum[] });
    }
  });
  await replaceColumn(db, table, link, by);
  await addColumns(db, table, columns);
  for (const [i, column] of [by, ...columns].entries())
    await setColumn(db, table.key, column, changes.map(({ id, values }) => ({ id, value: values[i] ?? null })), 'silently'); // prettier-ignore
  const next = { ...table, columns: inOrder([...table.columns.map((c) => (c === link ? by : c)), ...columns], order) };
  await orderColumns(db, table.key, next.columns.map((c) => c.key)); // prettier-ignore
  await dropTable(db, target.key);
  const now = new Map(tables).set(table.key, next);
  now.delete(target.key);
  return { restored: changes.length - left, left, tables: now };
}
