import type ExcelJS from 'exceljs';
import { Refused } from '../services/errors';
import type { Batches } from './files';
import { readEntry, zipEntries } from './zip';

const BATCH = 1000;

const pad = (n: number): string => String(n).padStart(2, '0');
/** A cell as the text a person would write: dates ISO, what a formula gave, the text of links and rich text. */
function cellText(value: ExcelJS.CellValue): string {
  if (value === null || value === undefined) return '';
  if (value instanceof Date) {
    const day = `${value.getUTCFullYear()}-${pad(value.getUTCMonth() + 1)}-${pad(value.getUTCDate())}`;
    const time = `${pad(value.getUTCHours())}:${pad(value.getUTCMinutes())}:${pad(value.getUTCSeconds())}`;
    // a time alone is kept as a day of 1899
    if (value.getUTCFullYear() < 1900) return time;
    return time === '00:00:00' ? day : `${day} ${time}`;
  }
  if (typeof value === 'object') {
    if ('richText' in value) return value.richText.map((r) => r.text).join('');
    if ('result' in value) return cellText(value.result as ExcelJS.CellValue);
    if ('text' in value) return String(value.text);
    if ('error' in value) return '';
    return '';
  }
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return String(value);
}

/** The first sheet of a workbook as lines. Its unpacked size is judged before it is read. */
export async function* xlsxLines(path: string): Batches {
  const { zip, entries } = await zipEntries(path);
  try {
    // each part is unpacked once against its declared size, so that a size that lies is found before the workbook is built
    for (const entry of entries) await readEntry(zip, entry);
  } finally {
    zip.close();
  }
  // loaded when first needed: it is large, and few requests need it
  const { default: Excel } = await import('exceljs');
  const book = new Excel.Workbook();
  try {
    await book.xlsx.readFile(path);
  } catch (e) {
    throw new Refused(422, 'file', `The workbook cannot be read (${e instanceof Error ? e.message : 'unknown'}).`, {});
  }
  const sheet = book.worksheets[0];
  if (!sheet) throw new Refused(422, 'file', 'The workbook has no sheet.', {});
  let width = 0;
  let batch: string[][] = [];
  for (let r = 1; r <= sheet.rowCount; r++) {
    const row = sheet.getRow(r);
    const cells = Array.from({ length: Math.max(width, row.cellCount) }, (_, i) => cellText(row.getCell(i + 1).value));
    while (width === 0 && cells.length && cells.at(-1) === '') cells.pop();
    if (width === 0) {
      if (!cells.length) continue;
      width = cells.length;
    } else if (cells.every((c) => c === '')) continue;
    // cells to the right of the header without a text are the sheet's, not the table's
    batch.push(cells.slice(width).every((c) => c === '') ? cells.slice(0, width) : cells);
    if (batch.length === BATCH) {
      yield batch;
      batch = [];
    }
  }
  if (batch.length) yield batch;
}
