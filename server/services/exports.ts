import { csvCell, csvText } from '../../core/exchange/csv.ts';
import { isFolded } from '../../core/choices/order.ts';
import { type Column, targetOf } from '../../core/model/tables.ts';
import { KINDS, type ValueKind } from '../../core/values/kinds/index.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import { rowsAfter } from '../database/rows';
import type { ModelTable } from '../database/model';
import { Refused } from './errors';
import { type Asker, NOBODY } from './owners';
import { othersFirst } from './pace';
import { linkedTexts } from './tables';
import { type SheetColumn, type SheetValue, workbook } from './workbook';
import type { Workspace } from './workspace';

/** Rows read at once: few enough that nobody waits long for their turn. */
const PAGE = 200;

/** What is written out: a table with the columns and rows that somebody may read, and what stands above each column. */
export interface ToExport {
  readonly table: ModelTable;
  readonly who: Asker;
  readonly header: (column: Column) => string;
  /** the rows by their numbers, where they are not all of the table in the order of their numbers */
  readonly ids?: readonly number[];
  /** reads some of these; those that are gone are left out */
  readonly rowsOf?: (ids: readonly number[]) => Promise<readonly Row[]>;
}
/** A whole table, its columns by name, so that the file can be brought in again. */
export const wholeTable = async (ws: Workspace, key: string): Promise<ToExport> => ({
  table: await ws.modelTable(key),
  who: NOBODY,
  header: (c) => c.key,
});

/** Rows as CSV, a page at a time: links by the text their row is known by. */
export async function* exportCsv(ws: Workspace, taken: ToExport): AsyncGenerator<string> {
  const { table, who, header } = taken;
  yield `${table.columns.map((c) => csvCell(header(c), true)).join(',')}\n`;
  for await (const rows of pagesOf(ws, taken)) {
    const linked = await linkedTexts(ws, table.columns, rows, who);
    yield rows
      .map((row) =>
        table.columns
          .map((c) => {
            const value = row[c.key] ?? null;
            const target = targetOf(c);
            const name = (v: Datum): string => (target && typeof v === 'number' ? (linked[target]?.[v] ?? '') : csvText(c, v));
            const text = Array.isArray(value) ? (value as readonly Datum[]).map(name).join('; ') : name(value);
            return csvCell(text, isFolded(c.type) || target !== null);
          })
          .join(','),
      )
      .join('\n')
      .concat('\n');
  }
}

/** A table as JSON: an array of rows with their ids; links with the id and the text of their row, so that the file can be brought in again. */
export async function* exportJson(ws: Workspace, { table, who }: ToExport): AsyncGenerator<string> {
  let first = true;
  yield '[';
  for await (const rows of pages(ws, table)) {
    const linked = await linkedTexts(ws, table.columns, rows, who);
    const written = rows.map((row) => {
      const named: Record<string, unknown> = { id: row.id };
      for (const c of table.columns) named[c.key] = jsonValue(c, row[c.key] ?? null, linked);
      return JSON.stringify(named);
    });
    yield written.map((r, i) => `${first && i === 0 ? '' : ','}\n${r}`).join('');
    first = false;
  }
  yield '\n]\n';
}

function jsonValue(column: Column, value: Datum, linked: Record<string, Record<number, string>>): unknown {
  const target = targetOf(column);
  if (Array.isArray(value))
    return (value as readonly Datum[]).map((v) => (target && typeof v === 'number' ? { id: v, text: linked[target]?.[v] ?? null } : v));
  if (target && typeof value === 'number') return { id: value, text: linked[target]?.[value] ?? null };
  const kind: ValueKind = KINDS[column.type];
  return kind.asJson ? kind.asJson(value) : value;
}

/** The most rows a sheet holds, less its header. */
const SHEET_ROWS = 1_048_575;

/** Rows as a workbook of one sheet, a piece at a time: numbers, dates and yes/no as such, links by text. */
export async function exportXlsx(ws: Workspace, taken: ToExport): Promise<AsyncGenerator<Uint8Array>> {
  const { table, who, header } = taken;
  const rows = taken.ids?.length ?? (await ws.rowCount(table.key));
  if (rows > SHEET_ROWS)
    throw new Refused(
      422,
      'tooMuch',
      `A sheet holds at most ${SHEET_ROWS.toLocaleString('en')} rows; this table has ${rows.toLocaleString('en')}. Export CSV.`,
      {},
    );
  const columns = table.columns.map((c): SheetColumn => {
    const { sheet }: ValueKind = KINDS[c.type];
    return { header: header(c), width: sheet?.width ?? 18, numFmt: sheet?.format ?? null };
  });
  async function* sheetRows(): AsyncGenerator<SheetValue[][]> {
    for await (const page of pagesOf(ws, taken)) {
      const linked = await linkedTexts(ws, table.columns, page, who);
      yield page.map((row) => table.columns.map((c) => sheetValue(c, row[c.key] ?? null, linked)));
    }
  }
  return workbook(table.label.replace(/[\\/*?:[\]]/g, ' ').slice(0, 31) || 'Table', columns, sheetRows());
}

function sheetValue(column: Column, value: Datum, linked: Record<string, Record<number, string>>): SheetValue {
  if (value === null || typeof value === 'boolean') return value;
  const target = targetOf(column);
  const text = (v: Datum): string => (target && typeof v === 'number' ? (linked[target]?.[v] ?? '') : csvText(column, v));
  if (Array.isArray(value)) return (value as readonly Datum[]).map(text).join('; ');
  if (target) return text(value);
  if (typeof value === 'number') return value;
  // sheets know no day before 1900
  const { sheet }: ValueKind = KINDS[column.type];
  if (sheet?.format && typeof value === 'string' && value >= '1900-03-01')
    return new Date(`${value.slice(0, 10)}T${value.slice(11) || '00:00:00'}Z`);
  return csvText(column, value);
}

async function* pagesOf(ws: Workspace, { table, ids, rowsOf }: ToExport): AsyncGenerator<readonly Row[]> {
  if (!ids || !rowsOf) return yield* pages(ws, table);
  for (let at = 0; at < ids.length; at += PAGE) {
    yield await rowsOf(ids.slice(at, at + PAGE));
    await othersFirst();
  }
}

/** A table's rows in the order of their ids, a page at a time; others have their turn between two pages. */
export async function* pages(ws: Workspace, table: ModelTable): AsyncGenerator<Row[]> {
  for (let after = 0; ;) {
    const rows = await rowsAfter(ws.db, table, after, PAGE);
    if (rows.length) yield rows;
    if (rows.length < PAGE) return;
    after = rows.at(-1)?.id ?? after;
    await othersFirst();
  }
}
