import Papa from 'papaparse';
import { foldText } from '~~/core/values/text.ts';

/* A block of cells as it is pasted from a spreadsheet, or stands in a CSV text. */

/** A field that a column may be for. */
export interface SheetField {
  readonly key: string;
  readonly label: string;
}
export interface Sheet {
  /** of each column, the field it is for; null: none */
  readonly columns: readonly (string | null)[];
  /** what stood above the columns, where the first line was that */
  readonly headers: readonly string[] | null;
  readonly rows: readonly (readonly string[])[];
}
/** Takes pasted text; gives its cells. Cells are parted by tabs, or else by what the first line has most of. Throws Error where quotes do not end. */
export function cellsOf(text: string): string[][] {
  const [first = ''] = text.split('\n', 1);
  const delimiter = first.includes('\t') ? '\t' : first.split(';').length > first.split(',').length ? ';' : ',';
  const { data, errors } = Papa.parse<string[]>(text, { delimiter });
  if (errors.some((e) => e.code === 'MissingQuotes')) throw new Error('A quotation mark is not closed.');
  return data.filter((row) => row.some((c) => c.trim() !== ''));
}
/** Which field each column is for: by what stands above it, or, where nothing does, in the order of the form. */
export function sheetOf(cells: readonly (readonly string[])[], fields: readonly SheetField[]): Sheet {
  const [first = [], ...others] = cells;
  const byName = new Map(fields.flatMap((f) => [[foldText(f.key), f.key], [foldText(f.label), f.key]] as const)); // prettier-ignore
  const named = first.map((c) => byName.get(foldText(c.trim())) ?? null);
  const width = Math.max(0, ...cells.map((r) => r.length));
  const isHeader =
    named.filter((n) => n !== null).length * 2 >= first.filter((c) => c.trim() !== '').length && named.some((n) => n !== null);
  if (!isHeader) return { columns: Array.from({ length: width }, (_, i) => fields[i]?.key ?? null), headers: null, rows: cells };
  // a field is filled by one column
  const columns = Array.from({ length: width }, (_, i) => (named.indexOf(named[i] ?? null) === i ? (named[i] ?? null) : null));
  return { columns, headers: [...first], rows: others };
}
