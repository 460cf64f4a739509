import type { StoredRecord } from '../../core/engine/context.ts';
import type { Plan } from '../../core/engine/plan.ts';
import { type LineOrigins, LinesAlike } from '../../core/model/noted.ts';
import { type Datum, same } from '../../core/values/types.ts';
import type { Database } from '../database/connection';
import { type HistoryEntry, addHistories, addHistory } from '../database/history';
import { type RowStamp, deleteRow, insertRows, linkingRows, rowById, updateRow } from '../database/rows';
import { Refused } from './errors';
import { asChanges } from './tables';
import { Pace } from './pace';
import { type LineOut, type WorkedOut, less } from './workedOut';
import type { Workspace } from './workspace';

/** A line as the screen numbered it, the row it is saved in, and what stands there. */
export interface SavedLine {
  readonly line: number;
  readonly id: number;
  readonly values: Readonly<Record<string, Datum>>;
}

/** How many new lines are written in one go. */
const AT_ONCE = 25;

/** The lines of a record as they are saved. */
interface Saving {
  readonly out: WorkedOut;
  readonly record: number;
  readonly before: StoredRecord | null;
  readonly stamp: RowStamp;
}
/** Each line with its row, where their values came from as the record’s note says it, and what its history says. */
interface SavedLines {
  readonly lines: Record<string, SavedLine[]>;
  readonly origins: LineOrigins;
  readonly changes: Record<string, [Datum, Datum]>;
}

/**
 * Writes an entry's lines into their child tables: new ones added, changed ones changed, those taken out (or emptied)
 * deleted. Call inside the save's transaction.
 */
export async function saveLines(ws: Workspace, db: Database, plan: Plan, { out, record, before, stamp }: Saving): Promise<SavedLines> {
  const lines: SavedLines['lines'] = {};
  const alike = new LinesAlike();
  const changes: SavedLines['changes'] = {};
  const pace = new Pace();
  for (const { key, definition } of plan.lines) {
    const table = await ws.modelTable(definition.table, db);
    const stored = new Map((before?.lines?.[key] ?? []).map((l) => [l.id, l.values]));
    const kept = out.lines[key] ?? [];
    const stay = new Set(kept.map((l) => l.line));
    const done = { added: 0, changed: 0, removed: 0 };
    const saved: SavedLine[] = [];
    const standsIn = (place: number, id: number, values: SavedLine['values']): void => {
      const { line, withheld, origins: came } = kept[place] as LineOut;
      saved[place] = { line, id, values: less(values, withheld) };
      alike.add(id, came);
    };
    let fresh: { readonly place: number; readonly values: SavedLine['values'] }[] = [];
    const insertFresh = async (): Promise<void> => {
      const some = fresh;
      fresh = [];
      const ids = await insertRows(db, table, some.map((f) => f.values), stamp); // prettier-ignore
      const created = some.map(({ place, values }, i): HistoryEntry => {
        const row = ids[i] as number;
        standsIn(place, row, values);
        const { kinds, gave } = kept[place] as LineOut;
        return { table: table.key, row, kind: 'created', stamp, changes: asChanges({}, values), origins: kinds, gave };
      });
      await addHistories(db, created);
    };
    for (const [place, { line, values: own, kinds, gave }] of kept.entries()) {
      await pace.rest();
      const values: Record<string, Datum> = { ...own, [definition.link]: record };
      if (definition.order) values[definition.order] = place + 1;
      const old = stored.get(line);
      if (!old) {
        done.added++;
        if (fresh.push({ place, values }) >= AT_ONCE) await insertFresh();
        continue;
      }
      if (Object.entries(values).some(([column, value]) => !same(old[column] ?? null, value))) {
        done.changed++;
        const revision = (await rowById(db, table, line))?.revision ?? 0;
        await updateRow(db, table, line, revision, values, stamp);
        await addHistory(db, {
          table: table.key,
          row: line,
          kind: 'changed',
          stamp,
          changes: asChanges(old, values),
          origins: kinds,
          gave,
        });
      }
      standsIn(place, line, values);
    }
    if (fresh.length) await insertFresh();
    for (const [id, values] of stored) {
      if (stay.has(id)) continue;
      await pace.rest();
      const links = await linkingRows(db, await ws.modelTables(db), table.key, id);
      if (links.length)
        throw new Refused(409, 'inUse', `A line of ${definition.label} cannot be taken out: rows of ${links[0]?.table ?? ''} link to it.`, {
          links,
        });
      done.removed++;
      await deleteRow(db, table.key, id);
      await addHistory(db, { table: table.key, row: id, kind: 'deleted', stamp, changes: asChanges(values, {}) });
    }
    lines[key] = saved;
    const said = Object.entries(done).filter(([, n]) => n > 0).map(([what, n]) => `${n} ${what}`); // prettier-ignore
    if (said.length) changes[key] = [before ? linesInWords(stored.size) : null, `${linesInWords(saved.length)} (${said.join(', ')})`];
  }
  return { lines, origins: alike.all, changes };
}

const linesInWords = (n: number): string => `${n} ${n === 1 ? 'line' : 'lines'}`;
