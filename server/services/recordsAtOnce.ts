import type { Result } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import type { Edit } from '../../core/engine/state.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import { same } from '../../core/values/types.ts';
import type { Account } from '../database/accounts';
import { historyAt, historyOf } from '../database/history';
import { restoreRow, rowById, rowsByIds } from '../database/rows';
import { addHistory } from '../database/history';
import { saveEntry, triedChange } from './entries';
import { Refused } from './errors';
import { publishedForm } from './forms';
import { type JobHandle, UNWATCHED } from './jobs';
import { wrongOf } from './manyRows';
import { tableFor } from './owners';
import { Pace, othersFirst } from './pace';
import { deleteRecord } from './records';
import { asChanges, linkedTexts, stampOf } from './tables';
import type { Workspace } from './workspace';

/* Many records changed, deleted, and brought back, each through its form; what one is refused for keeps no other from it. */

interface Seen {
  readonly id: number;
  readonly revision: number;
}
type Outcome = Result<typeof contract.many.undo>['records'][number];
export type Changed = Result<typeof contract.many.change>;

/** Does something to each record; a refusal becomes its message. */
async function each<R extends Seen, O>(records: readonly R[], job: JobHandle, doing: string, act: (one: R) => Promise<O>, refused: (one: R, message: string) => O): Promise<O[]> {
  const done: O[] = [];
  for (const [i, one] of records.entries()) {
    job.at(i / records.length, `${doing} ${i + 1} of ${records.length}`);
    try {
      done.push(await act(one));
    } catch (e) {
      if (!(e instanceof Refused)) throw e;
      const said = wrongOf(e).map((w) => w.message);
      done.push(refused(one, [...new Set(said)].join(' ')));
    }
    await othersFirst();
  }
  return done;
} // prettier-ignore
const stays = ({ id, revision }: Seen, message: string): Outcome => ({ id, revision, message });

/** Sets one field of some records; with `dry` only tells what that would change. */
export async function changeRecords(
  ws: Workspace,
  account: Account,
  formKey: string,
  asked: {
    readonly version: number;
    readonly records: readonly Seen[];
    readonly field: string;
    readonly value: Datum;
    readonly dry: boolean;
  },
  job: JobHandle = UNWATCHED,
): Promise<Changed> {
  const { plan, form } = await publishedForm(ws, formKey);
  const field = plan.own.find((f) => f.key === asked.field);
  if (!field) throw new Refused(422, 'values', `The form has no field “${asked.field}”.`, {});
  const edits: Edit[] = [
    asked.value === null ? { kind: 'clear', field: field.key } : { kind: 'set', field: field.key, value: asked.value },
  ];
  const records = await each(asked.records, job, asked.dry ? 'looking at' : 'changing', async (seen): Promise<Changed['records'][number]> => {
    const changes = await triedChange(ws, account, formKey, seen, edits);
    if (asked.dry || !Object.keys(changes).length) return { id: seen.id, revision: seen.revision, message: null, changes };
    const saved = await saveEntry(ws, account, formKey, seen.id, { version: asked.version, edits, revision: seen.revision, request: crypto.randomUUID() });
    return { id: seen.id, revision: saved.revision, message: null, changes };
  }, (seen, message) => ({ ...stays(seen, message), changes: {} })); // prettier-ignore
  const table = await ws.modelTable(form.table);
  const column = new Map(plan.own.map((f) => [f.key, f.definition.column]));
  const sides = records.flatMap((r) => [0, 1].map((side): Row => ({ id: 0, ...Object.fromEntries(Object.entries(r.changes).flatMap(([k, v]) => (column.get(k) ? [[column.get(k)!, (v as readonly Datum[])[side] ?? null]] : []))) }))); // prettier-ignore
  return { records, linked: await linkedTexts(ws, table.columns, sides, account) };
}

/**
 * Takes the last change of records back, or a certain line of the history of one: what it changed, and still stands, is what it was,
 * through the form, in the order of its fields.
 */
export async function undoChanges(ws: Workspace, account: Account, formKey: string, records: readonly Seen[], change: number | undefined, job: JobHandle = UNWATCHED): Promise<{ records: Outcome[] }> {
  const { plan, form, version } = await publishedForm(ws, formKey);
  const table = await tableFor(ws, account, form.table);
  const undone = await each(records, job, 'taking back', async (seen): Promise<Outcome> => {
    const stored = await rowById(ws.db, table, seen.id);
    if (!stored) throw new Refused(404, 'notFound', 'This record is gone.', {});
    if (stored.revision !== seen.revision) throw new Refused(409, 'changedMeanwhile', 'Somebody changed it since.', {});
    const last = change === undefined ? (await historyOf(ws.db, form.table, seen.id, 1))[0] : (await historyOf(ws.db, form.table, seen.id)).find((l) => l.id === change);
    if (last?.kind !== 'changed') throw new Refused(409, 'notChanged', 'There is no change to take back.', {});
    const edits = plan.own.flatMap((f): Edit[] => {
      const change = f.definition.column ? last.changes[f.definition.column] : undefined;
      if (!change || !same(stored.row[f.definition.column!] ?? null, change[1])) return [];
      // what follows its sources by itself does so again
      if (f.value && ['calculation', 'prefill'].includes(f.value.kind) && last.origins[f.definition.column!] !== 'typed') return [];
      return [change[0] === null ? { kind: 'clear', field: f.key } : { kind: 'set', field: f.key, value: change[0] }];
    });
    if (!edits.length) throw new Refused(409, 'notChanged', 'Nothing of this change stands any more, so there is nothing to undo.', {});
    const saved = await saveEntry(ws, account, formKey, seen.id, { version, edits, revision: seen.revision, request: crypto.randomUUID() });
    return { id: seen.id, revision: saved.revision, message: null };
  }, stays);
  return { records: undone };
} // prettier-ignore

export async function deleteRecords(ws: Workspace, account: Account, formKey: string, records: readonly Seen[], job: JobHandle = UNWATCHED): Promise<{ records: Outcome[] }> {
  const gone = await each(records, job, 'deleting', async (seen): Promise<Outcome> => {
    await deleteRecord(ws, account, formKey, seen.id, seen.revision);
    return { id: seen.id, revision: null, message: null };
  }, stays);
  return { records: gone };
} // prettier-ignore

/**
 * Puts deleted records back from their history, with the lines that went with them, under the numbers they had. A link to what is gone
 * meanwhile is left empty and told.
 */
export async function restoreRecords(ws: Workspace, account: Account, formKey: string, ids: readonly number[], job: JobHandle = UNWATCHED): Promise<{ records: Outcome[] }> {
  const { plan, form, version } = await publishedForm(ws, formKey);
  const own = await ws.modelTable(form.table);
  const pace = new Pace();
  const back = await each(ids.map((id) => ({ id, revision: 0 })), job, 'putting back', async ({ id }): Promise<Outcome> => {
    const [last] = await historyOf(ws.db, form.table, id, 1);
    // whoever deleted it may put it back; of others’ records nothing is told
    if (last?.kind !== 'deleted' || last.account !== account.id) throw new Refused(404, 'notFound', 'There is no record that you deleted.', {});
    const lost: string[] = [];
    const stamp = stampOf(ws, account, { key: formKey, version });
    const rowOf = async (columns: typeof own.columns, id: number, changes: typeof last.changes): Promise<Row> => {
      const values: Record<string, Datum> = {};
      for (const c of columns) {
        const value = changes[c.key]?.[0] ?? null;
        const target = c.type === 'link' || c.type === 'person' ? (c.target ?? 'people') : null;
        const isGone = target !== null && typeof value === 'number' && target !== form.table && !(await rowsByIds(ws.db, await ws.modelTable(target), [value])).length;
        if (isGone) lost.push(c.label);
        values[c.key] = isGone ? null : value;
      }
      return { id, ...values };
    };
    const lines = await Promise.all(plan.lines.map(async ({ definition }) => {
      const table = await ws.modelTable(definition.table);
      const gone = await historyAt(ws.db, definition.table, 'deleted', last);
      return { table, link: definition.link, rows: gone.filter((g) => g.changes[definition.link]?.[0] === id) };
    }));
    const row = await rowOf(own.columns, id, last.changes);
    const wholes: { table: (typeof lines)[number]['table']; row: Row }[] = [];
    for (const { table, link, rows } of lines)
      for (const line of rows) {
        await pace.rest();
        wholes.push({ table, row: { ...(await rowOf(table.columns.filter((c) => c.key !== link), line.row, line.changes)), [link]: id } });
      }
    await ws.db.transaction(async (db) => {
      if (await rowById(db, own, id)) throw new Refused(409, 'taken', 'It was put back already.', {});
      await restoreRow(db, own, row, stamp);
      await addHistory(db, { table: own.key, row: id, kind: 'created', stamp, changes: asChanges({}, row), reason: 'Put back after it was deleted.' });
      for (const { table, row: whole } of wholes) {
        await pace.rest();
        await restoreRow(db, table, whole, stamp);
        await addHistory(db, {
          table: table.key,
          row: whole.id,
          kind: 'created',
          stamp,
          changes: asChanges({}, whole),
          reason: 'Put back after it was deleted.',
        });
      }
    });
    ws.rowsChanged(own.key, 1);
    for (const { table, rows } of lines) ws.rowsChanged(table.key, rows.length);
    return { id, revision: 1, message: lost.length ? `${[...new Set(lost)].join(', ')}: what it led to is gone, so it is empty.` : null };
  }, stays);
  return { records: back };
} // prettier-ignore
