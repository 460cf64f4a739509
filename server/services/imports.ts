import type { Result } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { isFolded } from '../../core/choices/order.ts';
import { readCell } from '../../core/exchange/columns.ts';
import { type Named, SELF, TextMatcher, type Unmatched, joinedKey } from '../../core/exchange/match.ts';
import { fitProblem, fitValue } from '../../core/form/fit.ts';
import { type Column, type ColumnType, isSeveral, keyProblem, namesTable, targetOf } from '../../core/model/tables.ts';
import { columnSchema } from '../../core/model/schemas.ts';
import { foldText } from '../../core/values/text.ts';
import type { Datum } from '../../core/values/types.ts';
import { type ModelTable, adoptStaging } from '../database/model';
import { insertRow } from '../database/rows';
import { linkRows, linkStaged } from '../database/merging';
import { Staging } from '../database/staging';
import type { ImportFile } from '../imports/files';
import type { Account } from '../database/accounts';
import { Refused } from './errors';
import { mergeStaged } from './importMerge';
import { type JobHandle, UNWATCHED } from './jobs';
import { namedRows } from './importNames';
import type { Workspace } from './workspace';

export const MAX_IMPORT_BYTES = 2_000_000_000;
/** The values of a cell that holds several, with semicolons between them. */
const severalIn = (text: string): string[] => text.split(';').map((t) => t.trim()).filter((t) => t !== ''); // prettier-ignore

/** What a person decided about a text that names no row. */
export type Repair = { readonly to: number } | { readonly empty: true } | { readonly add: true };

export interface ImportPlan {
  readonly key: string;
  readonly label: string;
  readonly shown: string | null;
  /** by place in the file; null leaves the column out */
  readonly columns: readonly ({
    readonly key: string;
    readonly label: string;
    readonly type: ColumnType;
    /** the table that a link leads to; `SELF` is the table that is made */
    readonly target: string | null;
    /** the columns of the target that say which row is meant; none is what its rows are known by */
    readonly by?: readonly string[];
  } | null)[];
  /** by column key, then by text of the file */
  readonly repairs: Readonly<Record<string, Readonly<Record<string, Repair>>>>;
  /** an existing table to bring the rows into; absent or null makes a new one */
  readonly into?: string | null;
  /** of an existing table: the column by which rows of the file are rows that exist, which are then changed; null only adds */
  readonly match?: string | null;
}

type BadValue = ImportCheck['bad'][number];

export type ImportCheck = Result<typeof contract.imports.check>;
const MOST_BAD = 200;

interface Goal {
  readonly table: ModelTable;
  /** by place in the file */
  readonly columns: readonly (Column | null)[];
  readonly used: readonly Column[];
}

async function goalOf(ws: Workspace, plan: ImportPlan, file: ImportFile): Promise<Goal> {
  const into = plan.into ?? null;
  if (plan.columns.length !== file.headers.length)
    throw new Refused(422, 'values', 'The columns do not fit the file. Read the file again.', {});
  if (into === null) {
    const problem = keyProblem(plan.key);
    if (problem) throw new Refused(422, 'values', problem, {});
    if ((await ws.modelTables()).some((t) => t.key === plan.key))
      throw new Refused(422, 'values', `There is a table “${plan.key}” already. Give this one another name.`, {});
  }
  const existing = into === null ? null : await ws.modelTable(into);
  const columns = plan.columns.map((c): Column | null => {
    if (!c) return null;
    const target = c.target === SELF ? plan.key : c.target;
    if (!existing) return columnSchema.parse({ ...c, target: namesTable(c.type) ? target : null });
    const column = existing.columns.find((x) => x.key === c.key);
    if (!column) throw new Refused(422, 'values', `${existing.label} has no column “${c.key}”.`, {});
    return column;
  });
  const used = columns.filter((c) => c !== null);
  if (!used.length) throw new Refused(422, 'values', 'At least one column must be imported.', {});
  const twice = used.find((c, i) => used.findIndex((d) => d.key === c.key) !== i);
  if (twice) throw new Refused(422, 'values', `Two columns are named “${twice.key}”.`, {});
  if (plan.match && !used.some((c) => c.key === plan.match))
    throw new Refused(422, 'values', 'The column that tells which rows exist must be one of those taken from the file.', {});
  const table = existing ?? { key: plan.key, label: plan.label.trim() || plan.key, shown: plan.shown, columns: used };
  return { table, columns, used };
}

/** For links that a file writes as keys and not as texts: by column, the row that each key stands for. */
export type LinkKeys = ReadonlyMap<string, ReadonlyMap<string, number>>;

/** Reads a column's texts as its values, and notes what does not fit. */
interface Reader {
  readonly column: Column;
  /** the value; `undefined` when it does not fit (noted) */
  read(text: string, line: number): Datum | undefined;
  /** texts that name no row and of which nothing was decided */
  unmatched(): Unmatched[];
  /** whether a text was decided to become a new row */
  adds(text: string): boolean;
  /** of a link to rows of the same file, which can only be followed once all of them are read */
  readonly within: Within | null;
}
/** Links between the rows of one file: told row by row, known at the end. */
interface Within {
  /** the columns of the file that say which row is meant */
  readonly by: readonly string[];
  row(row: number, text: string): void;
  link(row: number, text: string): void;
  /** by line, the row that its text names: one that is there, or a line with a minus; of a new table, the line */
  links(): ReadonlyMap<number, number>;
}

async function readerOf(
  ws: Workspace,
  column: Column,
  plan: ImportPlan,
  keys: LinkKeys,
  bad: (line: number, text: string, message: string) => void,
): Promise<Reader> {
  const target = targetOf(column);
  if (namesTable(column.type)) {
    if (!target) throw new Refused(422, 'values', `Say which table “${column.label}” links to.`, {});
  }
  const by = plan.columns.find((c) => c?.key === column.key)?.by ?? [];
  const given = plan.repairs[column.key] ?? {};
  if (target === plan.key && !plan.into) return selfReader(column, plan, knownBy(plan.shown, by), given);
  if (target) {
    const table = await ws.modelTable(target);
    const known = knownBy(table.shown, by);
    // a row's parent may be there already, or come in the same file
    if (target === plan.into && !isSeveral(column.type) && !keys.has(column.key) && known.length && comesWith(plan, known))
      return selfReader(column, plan, known, given, await namedRows(ws, table, by));
    return linkReader(ws, column, table, by, given, keys.get(column.key));
  }
  const read = (text: string, line: number): Datum | undefined => {
    if (isSeveral(column.type)) {
      const parts = severalIn(text);
      return parts.length ? parts : null;
    }
    const result = readCell(column.type, text);
    const field = { type: column.type, label: column.label, decimals: column.decimals };
    const message = result.ok ? fitProblem(field, column, result.value) : result.message;
    if (result.ok && message === null) return fitValue(field, column, result.value);
    bad(line, text, message ?? '');
    return undefined;
  };
  return { column, read, unmatched: () => [], adds: () => false, within: null };
}

/** What a person has decided about texts: a row, or none. */
const decidedOf = (repairs: Readonly<Record<string, Repair>>): Map<string, number | null> =>
  new Map(Object.entries(repairs).map(([text, repair]) => [text, 'to' in repair ? repair.to : null]));

async function linkReader(
  ws: Workspace,
  column: Column,
  target: ModelTable,
  by: readonly string[],
  repairs: Readonly<Record<string, Repair>>,
  keys: ReadonlyMap<string, number> | undefined,
): Promise<Reader> {
  const matcher = keys ? null : new TextMatcher(await namedRows(ws, target, by), decidedOf(repairs), by.length > 1 ? joinedKey : undefined);
  const one = (text: string, line: number): number | null => (matcher ? matcher.match(text, line - 1) : (keys?.get(text) ?? null));
  const read = (text: string, line: number): Datum => {
    if (!isSeveral(column.type)) return one(text, line);
    const ids = severalIn(text).map((t) => one(t, line)).filter((id) => id !== null); // prettier-ignore
    return ids.length ? ids : null;
  };
  const adds = (text: string): boolean => {
    const repair = repairs[text];
    return repair !== undefined && 'add' in repair && text.trim() !== '' && !isSeveral(column.type);
  };
  return { column, read, adds, unmatched: () => matcher?.unmatched() ?? [], within: null };
}

const knownBy = (shown: string | null, by: readonly string[]): readonly string[] => (by.length ? by : shown === null ? [] : [shown]);
const comesWith = (plan: ImportPlan, known: readonly string[]): boolean => known.every((key) => plan.columns.some((c) => c?.key === key));

/**
 * Reads a column that links to rows of the same file, wherever in it they stand, and to rows that are there already: `there`, which
 * come before those of the file. A row of the file has its line as its id; beside rows that are there, its line with a minus.
 */
function selfReader(
  column: Column,
  plan: ImportPlan,
  known: readonly string[],
  repairs: Readonly<Record<string, Repair>>,
  there: readonly Named[] = [],
): Reader {
  if (isSeveral(column.type))
    throw new Refused(422, 'values', `“${column.label}” can link to one row of its own table, not to several.`, {});
  if (!known.length || !comesWith(plan, known))
    throw new Refused(422, 'values', `“${column.label}” links to rows of its own table: say by which column that is brought in too.`, {});
  const keyOf = known.length > 1 ? joinedKey : foldText;
  const isThere = new Set(there.map((r) => keyOf(r.text)));
  const sign = plan.into ? -1 : 1;
  const rows: Named[] = [...there];
  const told: { row: number; text: string }[] = [];
  let found: { readonly links: ReadonlyMap<number, number>; readonly unmatched: Unmatched[] } | null = null;
  const resolve = (): NonNullable<typeof found> => {
    if (found) return found;
    const matcher = new TextMatcher(rows, decidedOf(repairs), keyOf);
    const links = new Map<number, number>();
    for (const { row, text } of told) {
      const id = matcher.match(text, row);
      if (id !== null) links.set(row, id);
    }
    return (found = { links, unmatched: matcher.unmatched() });
  };
  const within: Within = {
    by: known,
    // a line that changes a row is that row
    row: (line, text) => void (isThere.has(keyOf(text)) || rows.push({ id: sign * line, text })),
    link: (row, text) => void told.push({ row, text }),
    links: () => resolve().links,
  };
  const adds = (text: string): boolean => plan.into !== null && text.trim() !== '' && 'add' in (repairs[text] ?? {});
  return { column, read: () => null, adds, unmatched: () => resolve().unmatched, within };
}

interface Pending {
  readonly row: number;
  readonly column: Column;
  readonly text: string;
}

/** Goes through the file once; puts converted rows into `staging` where there is one, until something does not fit. */
async function pass(
  ws: Workspace,
  plan: ImportPlan,
  file: ImportFile,
  goal: Goal,
  staging: Staging | null,
  job: JobHandle,
  keys: LinkKeys = new Map(),
): Promise<ImportCheck & { pending: Pending[]; within: ReadonlyMap<string, ReadonlyMap<number, number>> }> {
  const bad: BadValue[] = [];
  let badCount = 0;
  const readers = await Promise.all(
    goal.columns.map((column) =>
      column
        ? readerOf(ws, column, plan, keys, (line, text, message) => {
            badCount++;
            if (bad.length < MOST_BAD) bad.push({ line, column: column.key, text: text.slice(0, 60), message });
          })
        : null,
    ),
  );
  const used = readers.flatMap((reader, at) => (reader ? [{ reader, at }] : []));
  const inside = used.flatMap(({ reader, at }) => {
    const { within } = reader;
    // where the columns stand that say which row is meant
    return within ? [{ within, at, by: within.by.map((key) => plan.columns.findIndex((c) => c?.key === key)) }] : [];
  });
  const pending: Pending[] = [];
  let rows = 0;
  for await (const batch of file.lines()) {
    for (const cells of batch) {
      rows++;
      const values: Datum[] = [];
      for (const { reader, at } of used) values.push(reader.read(cells[at] as string, rows + 1) ?? null);
      for (const { within, at, by } of inside) {
        within.row(rows, by.map((i) => cells[i] as string).join(' '));
        if ((cells[at] as string).trim() !== '') within.link(rows, cells[at] as string);
      }
      if (!staging || badCount) continue;
      const row = staging.put(values);
      for (const { reader, at } of used)
        if (reader.adds(cells[at] as string)) pending.push({ row, column: reader.column, text: cells[at] as string });
    }
    if (staging?.full) await staging.flush();
    job.at(file.read() * 0.95, staging ? 'reading and writing' : 'looking');
    // others get their turn between two batches
    await new Promise((resolve) => setImmediate(resolve));
  }
  if (!rows) throw new Refused(422, 'file', 'The file has a header line but no rows.', {});
  await staging?.flush();
  const unmatched = Object.fromEntries(
    used.filter(({ reader }) => targetOf(reader.column)).map(({ reader }) => [reader.column.key, reader.unmatched()]),
  );
  const within = new Map(used.flatMap(({ reader }) => (reader.within ? [[reader.column.key, reader.within.links()]] : [])));
  return { rows, bad, badCount, unmatched, pending, within };
}

/** Says what would go wrong: values that do not convert, links that match no row. Nothing is written. */
export async function checkImport(ws: Workspace, plan: ImportPlan, file: ImportFile, job: JobHandle = UNWATCHED): Promise<ImportCheck> {
  const { rows, bad, badCount, unmatched } = await pass(ws, plan, file, await goalOf(ws, plan, file), null, job);
  return { rows, bad, badCount, unmatched };
}

export interface Imported {
  readonly table: string;
  readonly rows: number;
  readonly added: number;
  readonly changed: number;
}

/** A new row that a text names: the text stands in what its rows are known by, and in the column it was matched by. */
function namedAs(target: ModelTable, plan: ImportPlan, column: Column, text: string): Record<string, Datum> {
  const by = plan.columns.find((c) => c?.key === column.key)?.by ?? [];
  const [only] = by.length === 1 ? by : [];
  const texts = target.columns.filter((c) => isFolded(c.type) && (c.key === only || c.key === target.shown));
  return Object.fromEntries(texts.map((c) => [c.key, text]));
}

/**
 * Imports a file into a new table, or adds to (or changes) the rows of one: all of it or nothing. Refused while something
 * is unmatched or does not convert. Cancelled, it leaves nothing behind.
 */
export async function runImport(
  ws: Workspace,
  account: Account | null,
  plan: ImportPlan,
  file: ImportFile,
  job: JobHandle = UNWATCHED,
  keys: LinkKeys = new Map(),
): Promise<Imported> {
  const goal = await goalOf(ws, plan, file);
  const { table } = goal;
  const isNew = (plan.into ?? null) === null;
  if (isNew && table.shown && !goal.used.some((c) => c.key === table.shown))
    throw new Refused(422, 'values', 'The shown column must be one of the columns.', {});
  const stamp = { at: ws.clock.now(), account: account?.id ?? null, form: null, formVersion: null };
  const staging = await Staging.create(ws.db, goal.used, stamp, isNew ? table.key : null);
  let adopted = false;
  try {
    const done = await pass(ws, plan, file, goal, staging, job, keys);
    const open = Object.values(done.unmatched).reduce((n, u) => n + u.length, 0);
    if (done.badCount || open) {
      const { bad, badCount, unmatched } = done;
      throw new Refused(422, 'import', 'Some values do not fit yet. Nothing was imported.', { bad, badCount, unmatched });
    }
    job.at(0.96, 'putting it in place');
    const result = await ws.db.transaction(async (db) => {
      const added = new Map<string, number>();
      const links = new Map<string, Map<number, number>>();
      for (const { row, column, text } of done.pending) {
        const target = await ws.modelTable(targetOf(column) as string, db);
        const key = `${target.key} ${text}`;
        let id = added.get(key);
        if (id === undefined) added.set(key, (id = await insertRow(db, target, namedAs(target, plan, column, text), stamp)));
        links.set(column.key, (links.get(column.key) ?? new Map<number, number>()).set(row, id));
      }
      for (const [column, ids] of links) await linkStaged(db, staging.name, column, ids);
      if (!isNew)
        return mergeStaged(
          db,
          { table, columns: goal.used, staging: staging.name, match: plan.match ?? null, stamp, within: done.within },
          (share) => job.at(0.96 + share * 0.04),
        );
      await adoptStaging(db, staging.name, table);
      for (const [column, ids] of done.within) await linkRows(db, table.key, column, ids);
      adopted = true;
      return { added: done.rows, changed: 0 };
    });
    return { table: table.key, rows: done.rows, ...result };
  } finally {
    if (!adopted) await staging.drop();
    ws.modelChanged();
    ws.rowsChanged(table.key);
    for (const column of goal.used) if (targetOf(column)) ws.rowsChanged(targetOf(column) as string);
  }
}
