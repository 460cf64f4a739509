import type { Result } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { guessType, readCell } from '../../core/exchange/columns.ts';
import { type Named, TextMatcher, type Unmatched, matchShare } from '../../core/exchange/match.ts';
import { fitProblem, fitValue } from '../../core/form/fit.ts';
import {
  type Column,
  type ColumnType,
  columnSchema,
  isSeveral,
  keyFromLabel,
  keyProblem,
  namesTable,
  targetOf,
} from '../../core/model/tables.ts';
import type { Datum } from '../../core/values/types.ts';
import { type ModelTable, adoptStaging } from '../database/model';
import { allRows, insertRow } from '../database/rows';
import { linkStaged } from '../database/merging';
import { Staging } from '../database/staging';
import type { ImportFile } from '../imports/files';
import type { Account } from '../database/accounts';
import { Refused } from './errors';
import { mergeStaged } from './importMerge';
import { type JobHandle, UNWATCHED } from './jobs';
import { rowTexts } from './tables';
import type { Workspace } from './workspace';

export const MAX_IMPORT_BYTES = 2_000_000_000;
/** Lines looked at closely when types are guessed. */
const SAMPLE = 5000;
/** Distinct texts told apart when it is guessed which column names the rows. */
const MOST_DISTINCT = 50_000;

type Guessed = Result<typeof contract.imports.guess>;
export type Guess = Exclude<Guessed, { readonly package: unknown }>;
type GuessedColumn = Guess['columns'][number];

async function namedRows(ws: Workspace, table: ModelTable): Promise<Named[]> {
  const rows = (await allRows(ws.db, table)).filter((r) => table.shown && r[table.shown] !== null);
  return [...(await rowTexts(ws, table, rows))].map(([id, text]) => ({ id, text }));
}

/**
 * Looks at a file and guesses, column by column, its name, type and the table it links to; with `into`, which column of
 * that table it is. Nothing is written.
 */
export async function guessImport(ws: Workspace, file: ImportFile, into: string | null = null, job: JobHandle = UNWATCHED): Promise<Guess> {
  const tables = await ws.modelTables();
  const seen = file.headers.map(() => ({ texts: new Set<string>(), filled: 0, sample: [] as string[] }));
  let rows = 0;
  for await (const batch of file.lines()) {
    for (const cells of batch) {
      rows++;
      for (let i = 0; i < seen.length; i++) {
        const text = cells[i] as string;
        const column = seen[i] as (typeof seen)[number];
        if (text.trim() === '') continue;
        column.filled++;
        if (column.texts.size < MOST_DISTINCT) column.texts.add(text);
        // some from further down, so that a column that begins with blanks or codes is not misjudged
        if (column.sample.length < SAMPLE || (rows % 997 === 0 && column.sample.length < 2 * SAMPLE)) column.sample.push(text);
      }
    }
    job.at(file.read(), 'reading the file');
  }
  if (!rows) throw new Refused(422, 'file', 'The file has a header line but no rows.', {});
  const table = into === null ? null : await ws.modelTable(into);
  const keys: string[] = [];
  const columns: GuessedColumn[] = [];
  for (const [i, header] of file.headers.entries()) {
    const { texts, filled, sample } = seen[i] as (typeof seen)[number];
    const about = { header, examples: [...texts].slice(0, 3), filled, distinct: texts.size };
    const own = table?.columns.find(
      (c) => [c.key, c.label.toLowerCase()].includes(header.toLowerCase()) || c.key === keyFromLabel(header || 'x'),
    );
    if (table) {
      const taken = own && !keys.includes(own.key) ? own : null;
      if (taken) keys.push(taken.key);
      columns.push({
        ...about,
        key: taken?.key ?? '',
        label: taken?.label ?? header,
        type: taken?.type ?? 'text',
        target: taken?.target ?? null,
        known: taken !== null,
      });
      continue;
    }
    const key = keyFromLabel(header === '' ? `column ${i + 1}` : header, keys);
    keys.push(key);
    let type = guessType(sample);
    let target: string | null = null;
    if (type === 'text' && i > 0) {
      target = await guessTarget(ws, tables, key, [...texts].slice(0, 500));
      if (target) type = target === 'people' ? 'person' : 'link';
    }
    const label = header === '' ? `Column ${i + 1}` : header.replaceAll('_', ' ').replace(/^./, (c) => c.toUpperCase());
    columns.push({ ...about, key, label, type, target, known: false });
  }
  if (table) return { label: table.label, key: table.key, shown: table.shown, columns, rows };
  const base = file.name.replace(/\.[^.]*$/, '').replace(/[_-]+/g, ' ').trim() || 'Imported'; // prettier-ignore
  const labels = new Set(tables.map((t) => t.label));
  const wanted = base.replace(/^./, (c) => c.toUpperCase());
  let label = wanted;
  // two tables of one label could not be told apart in lists
  for (let n = 2; labels.has(label); n++) label = `${wanted} ${n}`;
  const unique = (c: GuessedColumn): boolean => c.type === 'text' && c.distinct === Math.min(rows, MOST_DISTINCT) && c.filled === rows;
  const shown = columns.find(unique) ?? columns.find((c) => c.type === 'text') ?? columns[0];
  return { label, key: keyFromLabel(label, tables.map((t) => t.key)), shown: shown?.key ?? null, columns, rows }; // prettier-ignore
}

/** The table most of whose shown texts the column has: more than half must match, a like name counts extra. */
async function guessTarget(ws: Workspace, tables: readonly ModelTable[], key: string, texts: readonly string[]): Promise<string | null> {
  let best: { key: string; score: number } | null = null;
  for (const table of tables) {
    if (!table.shown || (await ws.rowCount(table.key)) > 100_000) continue;
    const named = await namedRows(ws, table);
    // texts that many rows share name none of them
    if (new Set(named.map((n) => n.text)).size < named.length * 0.9) continue;
    const share = matchShare(texts, named);
    if (share < 0.5) continue;
    const score = share + (table.key.startsWith(key.slice(0, 4)) ? 0.5 : 0);
    if (!best || score > best.score) best = { key: table.key, score };
  }
  return best?.key ?? null;
}

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
    readonly target: string | null;
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
    if (!existing) return columnSchema.parse({ ...c, target: namesTable(c.type) ? c.target : null });
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
  if (target) return linkReader(ws, column, await ws.modelTable(target), plan.repairs[column.key] ?? {}, keys.get(column.key));
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
  return { column, read, unmatched: () => [], adds: () => false };
}

async function linkReader(
  ws: Workspace,
  column: Column,
  target: ModelTable,
  repairs: Readonly<Record<string, Repair>>,
  keys: ReadonlyMap<string, number> | undefined,
): Promise<Reader> {
  const decided = new Map(Object.entries(repairs).map(([text, repair]) => [text, 'to' in repair ? repair.to : null]));
  const matcher = keys ? null : new TextMatcher(await namedRows(ws, target), decided);
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
  return { column, read, adds, unmatched: () => matcher?.unmatched() ?? [] };
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
): Promise<ImportCheck & { pending: Pending[] }> {
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
  const pending: Pending[] = [];
  let rows = 0;
  for await (const batch of file.lines()) {
    for (const cells of batch) {
      rows++;
      const values: Datum[] = [];
      for (const { reader, at } of used) values.push(reader.read(cells[at] as string, rows + 1) ?? null);
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
  return { rows, bad, badCount, unmatched, pending };
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
  const staging = await Staging.create(ws.db, goal.used, stamp);
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
        if (id === undefined) added.set(key, (id = await insertRow(db, target, { [target.shown ?? 'name']: text }, stamp)));
        links.set(column.key, (links.get(column.key) ?? new Map<number, number>()).set(row, id));
      }
      for (const [column, ids] of links) await linkStaged(db, staging.name, column, ids);
      if (!isNew)
        return mergeStaged(db, { table, columns: goal.used, staging: staging.name, match: plan.match ?? null, stamp }, (share) =>
          job.at(0.96 + share * 0.04),
        );
      await adoptStaging(db, staging.name, table);
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
