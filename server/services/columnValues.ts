import { isFolded } from '../../core/choices/order.ts';
import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { targetOf } from '../../core/model/tables.ts';
import { DistinctLookup } from '../database/lookups';
import type { ModelTable } from '../database/model';
import { countWithout } from '../database/rows';
import { Refused, notFound } from './errors';
import { MOST_LINKS, isSearchIndexed, longReadingOf, readingOf } from './tables';
import { NOBODY } from './owners';
import { outsideEnv } from './wants';
import type { Workspace } from './workspace';

/** The values that stand in a text column, each once; of a link, what the rows it leads to are known by. */
export async function valuesOfColumn(
  ws: Workspace,
  key: string,
  name: string,
  asked: { readonly search: string; readonly limit: number },
  /** the tables as whoever asks reads them */
  tableOf: (key: string) => Promise<ModelTable> = (k) => ws.modelTable(k),
): Promise<Answer<typeof contract.tables.columnValues>> {
  let table = await tableOf(key);
  let column = table.columns.find((c) => c.key === name);
  if (!column) throw notFound(`A column “${name}”`);
  for (let links = 0; links < MOST_LINKS; links++) {
    const target = targetOf(column);
    if (target === null) break;
    table = await tableOf(target);
    const { shown, columns } = table;
    const next = columns.find((c) => c.key === shown);
    if (!next) throw new Refused(422, 'values', `No column says what rows of ${table.label} are known by.`, {});
    column = next;
  }
  if (!isFolded(column.type)) throw new Refused(422, 'values', `${column.label} holds no texts to choose from.`, {});
  const narrowing = { narrowing: null, sort: [column] };
  const indexed = asked.search.trim() !== '' && (await isSearchIndexed(ws, table.key, [column.key]));
  const lookup = new DistinctLookup(
    ws.db,
    table,
    narrowing,
    outsideEnv(ws, NOBODY, new Map()),
    column.key,
    indexed,
    undefined,
    await longReadingOf(ws, table),
  );
  const { rows, more } = await lookup.page({ params: [], open: [] }, asked.search, 0, asked.limit);
  return { values: rows.map((r) => String(r.value)), more };
}

/** How many rows have a value in a column. */
export async function filledIn(ws: Workspace, key: string, name: string): Promise<Answer<typeof contract.tables.filled>> {
  const table = await ws.modelTable(key);
  if (!table.columns.some((c) => c.key === name)) throw notFound(`A column “${name}”`);
  const rows = await ws.rowCount(key);
  return { rows, filled: rows - (await countWithout(await readingOf(ws, table), key, name)) };
}
