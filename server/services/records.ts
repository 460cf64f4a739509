import type { View } from '../../core/choices/views.ts';
import { type Column, targetOf } from '../../core/model/tables.ts';
import type { Row } from '../../core/values/types.ts';
import { viewIds, viewRowsOf } from '../database/viewRows';
import { type LinkingRows, childIds, deleteRow, linkingRows, rowById, rowsByIds } from '../database/rows';
import { addHistories, addHistory } from '../database/history';
import type { Account } from '../database/accounts';
import { Refused, notFound } from './errors';
import type { ToExport } from './exports';
import { publishedForm } from './forms';
import { tableFor, tablesFor } from './owners';
import { Pace } from './pace';
import { viewQuery, viewed } from './viewQuery';
import { asChanges, readingOf, refuseAccount, refuseLinked, stampOf } from './tables';
import type { Workspace } from './workspace';

/* What is done with records beside entering them: deleting one, and taking all one may read away as a file. */

/** Lines read at once, to be deleted one by one. */
const AT_ONCE = 100;

/**
 * Deletes a record with its lines, as one change. Refused while rows link to it or to one of its lines, and where somebody saved it after
 * `revision` was read. Its history stays.
 */
export async function deleteRecord(ws: Workspace, account: Account, formKey: string, id: number, revision: number): Promise<void> {
  const { form, version, plan } = await publishedForm(ws, formKey);
  const table = await tableFor(ws, account, form.table);
  if (!(await rowById(ws.db, table, id))) throw notFound('This record');
  await refuseAccount(ws, form.table, id);
  const own = new Set(plan.lines.map((l) => l.definition.table));
  const lines = await Promise.all(
    plan.lines.map(async ({ definition }) => {
      const of = await ws.modelTable(definition.table);
      return { table: of, ids: await childIds(ws.db, of.key, definition.link, id) };
    }),
  );
  // what others’ rows link to it is a reason too, but is told only as far as it may be seen
  const [all, told] = [await ws.modelTables(), await tablesFor(ws, account)];
  const pace = new Pace();
  const linking = async (model: typeof all): Promise<LinkingRows[]> => {
    const linked = (table: string, row: number) => linkingRows(ws.db, model, table, row, undefined, (t) => readingOf(ws, t));
    const found = (await linked(form.table, id)).filter((l) => !own.has(l.table));
    for (const { table: of, ids } of lines) {
      if (!model.some((t) => t.columns.some((c) => targetOf(c) === of.key))) continue;
      for (const line of ids) {
        await pace.rest();
        found.push(...(await linked(of.key, line)));
      }
    }
    return found;
  };
  await refuseLinked(ws, await linking(told));
  if ((await linking(all)).length)
    throw new Refused(409, 'inUse', 'Something that you may not see links to it, so it cannot be deleted.', { links: [] });
  const stamp = stampOf(ws, account, { key: formKey, version });
  await ws.db.transaction(async (db) => {
    const current = await rowById(db, table, id);
    if (!current) throw notFound('This record');
    if (current.revision !== revision)
      throw new Refused(
        409,
        'changedMeanwhile',
        'Somebody saved this record meanwhile. Open it again, and see whether it is still to go.',
        {},
      );
    for (const { table: of, ids } of lines)
      for (let at = 0; at < ids.length; at += AT_ONCE) {
        const rows = await rowsByIds(db, of, ids.slice(at, at + AT_ONCE));
        for (const row of rows) {
          await pace.rest();
          await deleteRow(db, of.key, row.id);
        }
        await addHistories(
          db,
          rows.map((row) => ({ table: of.key, row: row.id, kind: 'deleted', stamp, changes: asChanges(row, {}) })),
        );
      }
    await deleteRow(db, form.table, id);
    await addHistory(db, { table: form.table, row: id, kind: 'deleted', stamp, changes: asChanges(current.row, {}) });
  });
  for (const { table: of, ids } of lines) ws.rowsChanged(of.key, -ids.length);
  ws.rowsChanged(form.table, -1);
}

/** What stands above the column of colours in a file. */
const COLOUR_HEADER = 'Colour';
const COLOUR: Column = { key: '_colour', label: COLOUR_HEADER, type: 'text', target: null, decimals: null, length: null };

/** The records of a form exactly as a view shows them to somebody: its columns in their order, its records in theirs, its colours in words. */
export async function recordsToExport(ws: Workspace, account: Account, formKey: string, view: View, search: string): Promise<ToExport> {
  const v = await viewed(ws, account, formKey);
  const { query } = await viewQuery(ws, account, v, view, search, !view.sort.length);
  const fields = v.plan.own.map((f) => f.definition.column);
  const columns = view.columns
    ? view.columns.flatMap((k) => v.table.columns.filter((c) => c.key === k))
    : v.table.columns.filter((c) => fields.includes(c.key));
  const rowsOf = async (ids: readonly number[]): Promise<readonly Row[]> =>
    (await viewRowsOf(ws.db, query, ids)).map(({ row, colour }) =>
      view.colours.length ? { ...row, [COLOUR.key]: colour === null ? null : (view.colours[colour]?.word ?? null) } : row,
    );
  return {
    table: { ...v.table, columns: view.colours.length ? [COLOUR, ...columns] : columns },
    who: account,
    header: (c) => c.label,
    // put in order once: page by page, each would be sorted anew
    ids: await viewIds(await readingOf(ws, v.table), query),
    rowsOf,
  };
}
