import { readCell } from '../../core/exchange/columns.ts';
import { type Named, SELF, TextMatcher, type Unmatched, joinedKey } from '../../core/exchange/match.ts';
import { fitProblem, fitValue } from '../../core/form/fit.ts';
import { type Column, type ColumnType, isSeveral, keyProblem, namesTable, targetOf } from '../../core/model/tables.ts';
import { columnSchema } from '../../core/model/schemas.ts';
import { apart, foldText } from '../../core/values/text.ts';
import type { Datum } from '../../core/values/types.ts';
import type { ModelTable } from '../database/model';
import type { ImportFile } from '../imports/files';
import { Refused } from './errors';
import { namedRows } from './importNames';
import type { Workspace } from './workspace';

/* What becomes of the texts of a file: the columns they go to, and how each column is read. */

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

/** Where the rows of a file go. */
export interface Goal {
  readonly table: ModelTable;
  /** by place in the file */
  readonly columns: readonly (Column | null)[];
  readonly used: readonly Column[];
}

/** Where a plan brings the rows of a file. Refused with a sentence when it cannot. */
export async function goalOf(ws: Workspace, plan: ImportPlan, file: ImportFile): Promise<Goal> {
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
export interface Reader {
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
export interface Within {
  /** the columns of the file that say which row is meant */
  readonly by: readonly string[];
  row(row: number, text: string): void;
  link(row: number, text: string): void;
  /** by line, the row that its text names: one that is there, or a line with a minus; of a new table, the line */
  links(): ReadonlyMap<number, number>;
}

/** How a column of a file is read. */
export async function readerOf(
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
  const [isList, field] = [isSeveral(column.type), { type: column.type, label: column.label, decimals: column.decimals }];
  const read = (text: string, line: number): Datum | undefined => {
    if (isList) {
      const parts = severalIn(text);
      return parts.length ? parts : null;
    }
    const result = readCell(column.type, text);
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

/** Texts that become rows. */
const addedBy = (repairs: Readonly<Record<string, Repair>>): ReadonlySet<string> =>
  new Set(Object.entries(repairs).flatMap(([text, repair]) => ('add' in repair && text.trim() !== '' ? [text] : [])));

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
  const isList = isSeveral(column.type);
  const read = (text: string, line: number): Datum => {
    if (!isList) return one(text, line);
    const ids = severalIn(text).map((t) => one(t, line)).filter((id) => id !== null); // prettier-ignore
    return ids.length ? ids : null;
  };
  const added = isList ? new Set<string>() : addedBy(repairs);
  const adds = (text: string): boolean => added.has(text);
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
    row: (line, text) => void (isThere.has(keyOf(text)) || rows.push({ id: sign * line, text: apart(text) })),
    link: (row, text) => void told.push({ row, text: apart(text) }),
    links: () => resolve().links,
  };
  const added = plan.into ? addedBy(repairs) : new Set<string>();
  return { column, read: () => null, adds: (text) => added.has(text), unmatched: () => resolve().unmatched, within };
}
