import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { convertValue } from '../../core/exchange/convert.ts';
import { type Column, targetOf } from '../../core/model/tables.ts';
import { foldText } from '../../core/values/text.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import type { Database } from '../database/connection';
import { type ModelTable, countRows } from '../database/model';
import { allRows, eachPage, rowsByIds } from '../database/rows';
import { type JobHandle, UNWATCHED } from './jobs';
import { rowTexts } from './tables';
import type { Workspace } from './workspace';

/** What another type makes of a column's values. */
export type Conversion = Omit<Answer<typeof contract.tables.retypeColumn>, 'uses'>;

/** What another type would make of a column's values; nothing is written. */
export async function previewConversion(
  ws: Workspace,
  { table, from, to }: { table: string; from: Column; to: Column },
  job: JobHandle,
): Promise<Conversion> {
  return convertAll(ws, ws.db, await ws.modelTable(table), from, to, null, job);
}

/** Converts every value of a column, page by page; `write` is given the changed ones. Nothing is kept in memory but counts. */
export async function convertAll(
  ws: Workspace,
  db: Database,
  table: ModelTable,
  from: Column,
  to: Column,
  write: ((changes: readonly { id: number; value: Datum }[]) => Promise<void>) | null,
  job: JobHandle = UNWATCHED,
): Promise<Conversion> {
  const [shownOf, rowNamed] = [await textsOf(ws, db, from), await namesOf(ws, db, to)];
  const total = Math.max(1, await countRows(db, table.key));
  const failures = new Map<string, { message: string; count: number }>();
  const done = { rows: 0, filled: 0, changed: 0, lost: 0 };
  await eachPage(db, table, async (rows: readonly Row[]) => {
    const shown = await shownOf(rows);
    const changes: { id: number; value: Datum }[] = [];
    for (const row of rows) {
      const value = row[from.key] ?? null;
      done.rows++;
      if (value === null) continue;
      done.filled++;
      const converted = convertValue(from, to, value, shown, rowNamed);
      if (converted.ok) {
        if (JSON.stringify(converted.value) !== JSON.stringify(value)) done.changed++;
        changes.push({ id: row.id, value: converted.value });
        continue;
      }
      done.lost++;
      changes.push({ id: row.id, value: null });
      const text = typeof value === 'number' && targetOf(from) ? shown(value) : JSON.stringify(value);
      const known = failures.get(text);
      if (known) known.count++;
      else if (failures.size < 1000) failures.set(text, { message: converted.message, count: 1 });
    }
    await write?.(changes);
    job.at(done.rows / total, 'looking at the values');
  });
  const examples = [...failures].map(([text, f]) => ({ text, ...f })).sort((a, b) => b.count - a.count).slice(0, 20); // prettier-ignore
  return { ...done, examples };
}

/** The texts that rows linked to are known by, for one page of rows at a time. */
async function textsOf(ws: Workspace, db: Database, from: Column): Promise<(rows: readonly Row[]) => Promise<(id: number) => string>> {
  const target = targetOf(from);
  if (!target) return async () => String;
  const table = await ws.modelTable(target, db);
  return async (rows) => {
    const ids = rows.flatMap((r) => r[from.key] ?? []).filter((v) => typeof v === 'number');
    const texts = await rowTexts(ws, table, await rowsByIds(db, table, [...new Set(ids)]), { db });
    return (id) => texts.get(id) ?? '';
  };
}

/** Which row of the new target a text names. */
async function namesOf(ws: Workspace, db: Database, to: Column): Promise<(text: string) => number | null> {
  const target = targetOf(to);
  if (!target) return () => null;
  const table = await ws.modelTable(target, db);
  const named = new Map<string, number | null>();
  for (const [id, text] of await rowTexts(ws, table, await allRows(db, table), { db })) {
    const key = foldText(text);
    named.set(key, named.has(key) ? null : id);
  }
  return (text) => named.get(foldText(text)) ?? null;
}
