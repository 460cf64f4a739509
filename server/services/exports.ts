import { csvCell, csvText } from '../../core/exchange/csv.ts';
import { isFolded } from '../../core/choices/order.ts';
import { targetOf } from '../../core/form/tables.ts';
import type { Row } from '../../core/values/types.ts';
import { gridRows } from '../database/rows';
import { linkedTexts } from './tables';
import type { Workspace } from './workspace';

const PAGE = 1000;

/** A table as CSV, a page of rows at a time: links by the text their row is known by, so that the file can be brought in again. */
export async function* exportCsv(ws: Workspace, key: string): AsyncGenerator<string> {
  const table = await ws.modelTable(key);
  yield `${table.columns.map((c) => csvCell(c.key, true)).join(',')}\n`;
  for await (const rows of pages(ws, key)) {
    const linked = await linkedTexts(ws, table.columns, rows);
    yield rows
      .map((row) =>
        table.columns
          .map((c) => {
            const value = row[c.key] ?? null;
            const target = targetOf(c);
            const text = target && typeof value === 'number' ? (linked[target]?.[value] ?? '') : csvText(c, value);
            return csvCell(text, isFolded(c.type) || target !== null);
          })
          .join(','),
      )
      .join('\n')
      .concat('\n');
  }
}

/** A table as JSON: an array of rows with their ids, links as ids. */
export async function* exportJson(ws: Workspace, key: string): AsyncGenerator<string> {
  let first = true;
  yield '[';
  for await (const rows of pages(ws, key)) {
    yield rows.map((r, i) => `${first && i === 0 ? '' : ','}\n${JSON.stringify(r)}`).join('');
    first = false;
  }
  yield '\n]\n';
}

async function* pages(ws: Workspace, key: string): AsyncGenerator<Row[]> {
  const table = await ws.modelTable(key);
  for (let offset = 0; ; offset += PAGE) {
    const { rows } = await gridRows(ws.db, table, { search: '', sort: null, descending: false, offset, limit: PAGE });
    if (rows.length) yield rows.map((r) => r.row);
    if (rows.length < PAGE) return;
  }
}
