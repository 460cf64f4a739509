import type { Result } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { type TogetherChain, togetherIn as lookFor } from '../../core/evidence/together.ts';
import type { Column } from '../../core/model/tables.ts';
import type { Row } from '../../core/values/types.ts';
import { recordsOf } from '../database/rows';
import { type JobHandle, UNWATCHED } from './jobs';
import { linkedTexts } from './tables';
import type { Workspace } from './workspace';

/* Which columns of a table come together, looked for where nobody waits for it. */

/** The most rows that are looked at: the newest. */
const MOST_ROWS = 100_000;

export async function togetherIn(ws: Workspace, key: string, job: JobHandle = UNWATCHED): Promise<Result<typeof contract.tables.together>> {
  const table = await ws.modelTable(key);
  const found = await ws.work.run('together', { table: key }, job);
  // what links lead to is told by what it is called
  const linked: Record<string, Record<number, string>> = {};
  for (const { column, said, mostly } of found.chains.flat().flatMap((g) => g.exceptions)) {
    const of = table.columns.find((c) => c.key === column) as Column;
    const rows: Row[] = [said, mostly].map((value) => ({ id: 0, [column]: value }));
    for (const [to, texts] of Object.entries(await linkedTexts(ws, [of], rows))) linked[to] = { ...linked[to], ...texts };
  }
  return { ...found, linked } as Result<typeof contract.tables.together>;
}

/** The looking, in a thread of its own. */
export async function findTogether(
  ws: Workspace,
  key: string,
  job: JobHandle,
): Promise<{ rows: number; chains: TogetherChain[]; older: boolean }> {
  const table = await ws.modelTable(key);
  job.at(0, 'reading the rows');
  const { records, more } = await recordsOf(ws.db, table, MOST_ROWS);
  job.at(0.4, 'comparing columns');
  const columns = table.columns.filter((c) => c.key !== table.shown || c.type !== 'link');
  const values = new Map(columns.map((c) => [c.key, records.map(({ row }) => row[c.key] ?? null)]));
  return { rows: records.length, older: more, chains: lookFor(columns, values, records.map(({ row }) => row.id)) }; // prettier-ignore
}
