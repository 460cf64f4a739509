import { parse } from 'csv-parse/sync';
import { guessType, readCell } from '../../core/exchange/columns.ts';
import { uncell } from '../../core/exchange/csv.ts';
import { type Named, type Unmatched, matchShare, matchTexts } from '../../core/exchange/match.ts';
import { type Column, type ColumnType, MAX_TEXT, columnSchema, keyFromLabel, keyProblem } from '../../core/form/tables.ts';
import type { Datum } from '../../core/values/types.ts';
import { type ModelTable, createTable } from '../database/model';
import { allRows, insertRow } from '../database/rows';
import type { Account } from './accounts';
import { Refused } from './errors';
import { rowText } from './tables';
import type { Workspace } from './workspace';

export const MAX_IMPORT_BYTES = 30_000_000;
const MAX_COLUMNS = 500;

interface Parsed {
  readonly headers: readonly string[];
  readonly lines: readonly (readonly string[])[];
}

/** The separator that cuts the first line into most columns. */
function delimiterOf(text: string): string {
  const first = text.slice(0, text.search(/[\r\n]|$/));
  const counts = [',', ';', '\t', '|'].map((d) => ({ d, n: first.split(d).length }));
  return counts.reduce((best, c) => (c.n > best.n ? c : best)).d;
}

/** Reads CSV text with a header line (RFC 4180; comma, semicolon, tab or bar). A broken line is refused with its number. */
export function parseCsv(text: string): Parsed {
  if (text.includes('\uFFFD')) {
    throw new Refused(422, 'file', 'The file is not in UTF-8: some characters could not be read. Save it as UTF-8 and try again.', {});
  }
  let lines: string[][];
  try {
    lines = parse(text, {
      bom: true,
      delimiter: delimiterOf(text.replace(/^\uFEFF/, '')),
      skip_empty_lines: true,
      relax_column_count: true,
      max_record_size: 1_000_000,
    });
  } catch (e) {
    const line = (e as { lines?: number }).lines;
    const quote = String((e as { code?: string }).code).includes('QUOTE');
    const what = quote ? 'a quotation mark is not closed or stands in the wrong place' : 'it is not well-formed CSV';
    throw new Refused(422, 'file', `The file cannot be read${line ? ` at line ${line}` : ''}: ${what}.`, { line: line ?? null });
  }
  const [headers, ...rest] = lines;
  if (!headers || headers.every((h) => h.trim() === ''))
    throw new Refused(422, 'file', 'The file is empty. Its first line must name the columns.', {});
  if (headers.length > MAX_COLUMNS)
    throw new Refused(422, 'file', `The file has ${headers.length} columns; at most ${MAX_COLUMNS} can be imported.`, {});
  if (!rest.length) throw new Refused(422, 'file', 'The file has a header line but no rows.', {});
  rest.forEach((line, i) => {
    if (line.length !== headers.length) {
      const message = `Line ${i + 2} has ${line.length} ${line.length === 1 ? 'value' : 'values'}, but the header names ${headers.length} columns.`;
      throw new Refused(422, 'file', message, { line: i + 2 });
    }
  });
  // texts that our own export guarded against spreadsheets come back as they were
  return { headers: headers.map((h) => h.trim()), lines: rest.map((line) => line.map(uncell)) };
}

export interface GuessedColumn {
  readonly header: string;
  readonly key: string;
  readonly label: string;
  readonly type: ColumnType;
  readonly target: string | null;
  readonly examples: readonly string[];
  readonly filled: number;
  readonly distinct: number;
}

const namedRows = async (ws: Workspace, table: ModelTable): Promise<Named[]> =>
  (await allRows(ws.db, table)).filter((r) => table.shown && r[table.shown] !== null).map((r) => ({ id: r.id, text: rowText(table, r) }));

/** Looks at a file and guesses, column by column, its name, type and the table it links to. Nothing is written. */
export async function guessImport(
  ws: Workspace,
  fileName: string,
  text: string,
): Promise<{
  label: string;
  key: string;
  shown: string | null;
  columns: GuessedColumn[];
  rows: number;
  sample: readonly (readonly string[])[];
}> {
  const { headers, lines } = parseCsv(text);
  const tables = await ws.modelTables();
  const keys: string[] = [];
  const columns: GuessedColumn[] = [];
  for (const [i, header] of headers.entries()) {
    const texts = lines.map((l) => l[i] ?? '');
    const filled = texts.filter((t) => t.trim() !== '');
    const distinct = new Set(filled);
    const key = keyFromLabel(header === '' ? `column ${i + 1}` : header, keys);
    keys.push(key);
    let type = guessType(texts);
    let target: string | null = null;
    if (type === 'text' && i > 0) {
      target = await guessTarget(ws, tables, key, [...distinct]);
      if (target) type = target === 'people' ? 'person' : 'link';
    }
    const label = header === '' ? `Column ${i + 1}` : header.replaceAll('_', ' ').replace(/^./, (c) => c.toUpperCase());
    columns.push({ header, key, label, type, target, examples: [...distinct].slice(0, 3), filled: filled.length, distinct: distinct.size });
  }
  const base =
    fileName
      .replace(/\.[^.]*$/, '')
      .replace(/[_-]+/g, ' ')
      .trim() || 'Imported';
  const labels = new Set(tables.map((t) => t.label));
  const wanted = base.replace(/^./, (c) => c.toUpperCase());
  let label = wanted;
  // two tables of one label could not be told apart in lists
  for (let n = 2; labels.has(label); n++) label = `${wanted} ${n}`;
  const key = keyFromLabel(
    label,
    tables.map((t) => t.key),
  );
  const shown =
    columns.find((c) => c.type === 'text' && c.distinct === lines.length) ?? columns.find((c) => c.type === 'text') ?? columns[0];
  return { label, key, shown: shown?.key ?? null, columns, rows: lines.length, sample: lines.slice(0, 8) };
}

/** The table most of whose shown texts the column has: more than half must match, a like name counts extra. */
async function guessTarget(ws: Workspace, tables: readonly ModelTable[], key: string, texts: readonly string[]): Promise<string | null> {
  let best: { key: string; score: number } | null = null;
  for (const table of tables) {
    if (!table.shown || (await ws.rowCount(table.key)) > 100_000) continue;
    const share = matchShare(texts.slice(0, 500), await namedRows(ws, table));
    if (share < 0.5) continue;
    const score = share + (table.key.startsWith(key.slice(0, 4)) ? 0.5 : 0);
    if (!best || score > best.score) best = { key: table.key, score };
  }
  return best?.key ?? null;
}

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
}

export interface BadValue {
  readonly line: number;
  readonly column: string;
  readonly text: string;
  readonly message: string;
}

export interface ImportCheck {
  readonly rows: number;
  /** at most 200, with the whole count */
  readonly bad: readonly BadValue[];
  readonly badCount: number;
  readonly unmatched: Readonly<Record<string, readonly Unmatched[]>>;
}

interface Prepared extends ImportCheck {
  readonly table: ModelTable;
  readonly values: readonly Record<string, Datum>[];
  /** links still to be made to rows that the import adds: line, column, text */
  readonly pending: readonly { readonly line: number; readonly column: Column; readonly text: string }[];
}

async function prepare(ws: Workspace, plan: ImportPlan, text: string): Promise<Prepared> {
  const { headers, lines } = parseCsv(text);
  const problem = keyProblem(plan.key);
  if (problem) throw new Refused(422, 'values', problem, {});
  if ((await ws.modelTables()).some((t) => t.key === plan.key))
    throw new Refused(422, 'values', `There is a table “${plan.key}” already. Give this one another name.`, {});
  if (plan.columns.length !== headers.length) throw new Refused(422, 'values', 'The columns do not fit the file. Read the file again.', {});
  const columns: (Column | null)[] = plan.columns.map(
    (c) => c && columnSchema.parse({ ...c, target: c.type === 'link' ? c.target : null }),
  );
  const used = columns.filter((c) => c !== null);
  if (!used.length) throw new Refused(422, 'values', 'At least one column must be imported.', {});
  const twice = used.find((c, i) => used.findIndex((d) => d.key === c.key) !== i);
  if (twice) throw new Refused(422, 'values', `Two columns are named “${twice.key}”.`, {});
  const values: Record<string, Datum>[] = lines.map(() => ({}));
  const bad: BadValue[] = [];
  const pending: { line: number; column: Column; text: string }[] = [];
  const unmatched: Record<string, readonly Unmatched[]> = {};
  let badCount = 0;
  for (const [i, column] of columns.entries()) {
    if (!column) continue;
    const texts = lines.map((l) => l[i] ?? '');
    if (column.type === 'link' || column.type === 'person') {
      const target = column.type === 'person' ? 'people' : column.target;
      if (!target) throw new Refused(422, 'values', `Say which table “${column.label}” links to.`, {});
      const matched = matchTexts(texts, await namedRows(ws, await ws.modelTable(target)));
      const repairs = plan.repairs[column.key] ?? {};
      unmatched[column.key] = matched.unmatched.filter((u) => !repairs[u.value]);
      texts.forEach((t, line) => {
        const repair = repairs[t];
        const row = values[line] as Record<string, Datum>;
        row[column.key] = matched.ids.get(t) ?? (repair && 'to' in repair ? repair.to : null);
        if (repair && 'add' in repair && t.trim() !== '') pending.push({ line, column, text: t });
      });
      continue;
    }
    texts.forEach((t, line) => {
      const read = readCell(column.type, t);
      if (read.ok && typeof read.value === 'string' && read.value.length > (column.length ?? MAX_TEXT)) {
        badCount++;
        bad.push({
          line: line + 2,
          column: column.key,
          text: t.slice(0, 60),
          message: `The text has ${read.value.length} characters; at most ${MAX_TEXT} can be saved.`,
        });
      } else if (read.ok) (values[line] as Record<string, Datum>)[column.key] = read.value;
      else {
        badCount++;
        if (bad.length < 200) bad.push({ line: line + 2, column: column.key, text: t.slice(0, 60), message: read.message });
      }
    });
  }
  const table = { key: plan.key, label: plan.label.trim() || plan.key, shown: plan.shown, columns: used };
  return { table, values, pending, rows: lines.length, bad, badCount, unmatched };
}

/** Says what would go wrong: values that do not convert, links that match no row. Nothing is written. */
export async function checkImport(ws: Workspace, plan: ImportPlan, text: string): Promise<ImportCheck> {
  const { rows, bad, badCount, unmatched } = await prepare(ws, plan, text);
  return { rows, bad, badCount, unmatched };
}

/** Imports a file into a new table: all of it in one transaction, or nothing. Refused while something is unmatched or does not convert. */
export async function runImport(
  ws: Workspace,
  account: Account | null,
  plan: ImportPlan,
  text: string,
): Promise<{ table: string; rows: number }> {
  const prepared = await prepare(ws, plan, text);
  const open = Object.values(prepared.unmatched).reduce((n, u) => n + u.length, 0);
  if (prepared.badCount || open) {
    throw new Refused(422, 'import', 'Some values do not fit yet. Nothing was imported.', {
      bad: prepared.bad,
      badCount: prepared.badCount,
      unmatched: prepared.unmatched,
    });
  }
  if (prepared.table.shown && !prepared.table.columns.some((c) => c.key === prepared.table.shown)) {
    throw new Refused(422, 'values', 'The shown column must be one of the columns.', {});
  }
  const stamp = { at: ws.clock.now(), account: account?.id ?? null, form: null, formVersion: null };
  await ws.db.transaction(async (db) => {
    const added = new Map<string, number>();
    for (const { line, column, text: name } of prepared.pending) {
      const target = await ws.modelTable(column.type === 'person' ? 'people' : (column.target as string));
      const key = `${target.key} ${name}`;
      let id = added.get(key);
      if (id === undefined) added.set(key, (id = await insertRow(db, target, { [target.shown ?? 'name']: name }, stamp)));
      (prepared.values[line] as Record<string, Datum>)[column.key] = id;
    }
    await createTable(db, prepared.table);
    for (const values of prepared.values) await insertRow(db, prepared.table, values, stamp);
  });
  ws.modelChanged();
  for (const { column } of prepared.pending) ws.rowsChanged(column.type === 'person' ? 'people' : (column.target as string));
  return { table: prepared.table.key, rows: prepared.rows };
}
