import type { StoredRecord } from '../../core/engine/context.ts';
import type { Entry } from '../../core/engine/entry.ts';
import type { PlanField } from '../../core/engine/plan.ts';
import { addressOf } from '../../core/engine/state.ts';
import type { Origin } from '../../core/model/origin.ts';
import { type Result, isDatum } from '../../core/formula/errors.ts';
import { type Datum, same } from '../../core/values/types.ts';
import type { Database } from '../database/connection';
import { type HistoryEntry, addHistories, addHistory } from '../database/history';
import { type RowStamp, deleteRow, insertRows, linkingRows, rowById, updateRow } from '../database/rows';
import { Refused } from './errors';
import { asChanges } from './tables';
import { Pace } from './pace';
import type { Workspace } from './workspace';

/** A line as the screen numbered it, the row it is saved in, and what stands there. */
export interface SavedLine {
  readonly line: number;
  readonly id: number;
  readonly values: Readonly<Record<string, Datum>>;
}

/** The values to store, by column. Errors and unknowns of shown fields have been refused; what is hidden is stored as empty then. */
export function columnValues(fields: readonly PlanField[], valueOf: (key: string) => Result): Record<string, Datum> {
  const values: Record<string, Datum> = {};
  for (const { key, definition } of fields) {
    const value = valueOf(key);
    if (definition.column) values[definition.column] = isDatum(value) ? value : null;
  }
  return values;
}

/** How the values of fields came to be, by column: what the history says beside them. */
export function kindsIn(fields: readonly PlanField[], kindOf: (key: string) => Origin['kind']): Record<string, Origin['kind']> {
  const said: Record<string, Origin['kind']> = {};
  for (const { key, definition } of fields) {
    const kind = kindOf(key);
    if (definition.column && kind !== 'stored' && kind !== 'none') said[definition.column] = kind;
  }
  return said;
}
/** What fills would have given to fields where a person decided otherwise, by column. */
export function overruledIn(fields: readonly PlanField[], gave: (key: string) => Datum | undefined): Record<string, Datum> {
  const said: Record<string, Datum> = {};
  for (const { key, definition } of fields) {
    const value = gave(key);
    if (definition.column && value !== undefined) said[definition.column] = value;
  }
  return said;
}

/** A line that has no row yet: where it stands among those saved, and what is written of it. */
interface FreshLine extends Required<Pick<HistoryEntry, 'origins' | 'gave'>> {
  readonly place: number;
  readonly line: number;
  readonly values: Readonly<Record<string, Datum>>;
}
/** How many new lines are written in one go. */
const AT_ONCE = 25;

/**
 * Writes an entry's lines into their child tables: new ones added, changed ones changed, those taken out (or emptied)
 * deleted. Gives each line with its row, and what the record's history says of it. Call inside the save's transaction.
 */
export async function saveLines(
  ws: Workspace,
  db: Database,
  entry: Entry,
  record: number,
  before: StoredRecord | null,
  stamp: RowStamp,
  over: ReadonlyMap<string, Datum>,
): Promise<{ lines: Record<string, SavedLine[]>; changes: Record<string, [Datum, Datum]> }> {
  const lines: Record<string, SavedLine[]> = {};
  const changes: Record<string, [Datum, Datum]> = {};
  const pace = new Pace();
  for (const { key, definition, first, count } of entry.plan.lines) {
    const table = await ws.modelTable(definition.table, db);
    const fields = entry.plan.fields.slice(first, first + count);
    const stored = new Map((before?.lines?.[key] ?? []).map((l) => [l.id, l.values]));
    const kept = entry.linesEmptied(key) ? [] : entry.lines(key).filter((line) => !entry.isBlankLine(key, line));
    const done = { added: 0, changed: 0, removed: 0 };
    const saved: SavedLine[] = [];
    let fresh: FreshLine[] = [];
    const insertFresh = async (): Promise<void> => {
      const some = fresh;
      fresh = [];
      const ids = await insertRows(db, table, some.map((f) => f.values), stamp); // prettier-ignore
      some.forEach(({ place, line, values }, i) => (saved[place] = { line, id: ids[i] as number, values }));
      const created = some.map(({ values, origins, gave }, i) => ({ table: table.key, row: ids[i] as number, kind: 'created' as const, stamp, changes: asChanges({}, values), origins, gave })); // prettier-ignore
      await addHistories(db, created);
    };
    for (const [place, line] of kept.entries()) {
      await pace.rest();
      const values = columnValues(fields, (k) => entry.value(k, line));
      values[definition.link] = record;
      if (definition.order) values[definition.order] = place + 1;
      const old = stored.get(line);
      const origins = kindsIn(fields, (k) => entry.state(k, line).origin.kind);
      const gave = overruledIn(fields, (k) => over.get(addressOf(k, line)));
      if (!old) {
        done.added++;
        if (fresh.push({ place, line, values, origins, gave }) >= AT_ONCE) await insertFresh();
        continue;
      }
      if (Object.entries(values).some(([column, value]) => !same(old[column] ?? null, value))) {
        done.changed++;
        const revision = (await rowById(db, table, line))?.revision ?? 0;
        await updateRow(db, table, line, revision, values, stamp);
        await addHistory(db, { table: table.key, row: line, kind: 'changed', stamp, changes: asChanges(old, values), origins, gave });
      }
      saved[place] = { line, id: line, values };
    }
    if (fresh.length) await insertFresh();
    for (const [id, values] of stored) {
      if (kept.includes(id)) continue;
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
  return { lines, changes };
}

const linesInWords = (n: number): string => `${n} ${n === 1 ? 'line' : 'lines'}`;
