import { childRows, deleteRow, linkingRows, rowById } from '../database/rows';
import { addHistory } from '../database/history';
import type { Account } from '../database/accounts';
import { visibleColumns } from './access';
import { Refused, notFound } from './errors';
import type { ToExport } from './exports';
import { publishedForm } from './forms';
import { tableFor, tablesFor } from './owners';
import { asChanges, refuseAccount, refuseLinked, stampOf } from './tables';
import type { Workspace } from './workspace';

/* What is done with records beside entering them: deleting one, and taking all one may read away as a file. */

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
      return { table: of, rows: await childRows(ws.db, of, definition.link, id, null) };
    }),
  );
  // what others’ rows link to it is a reason too, but is told only as far as it may be seen
  const [all, told] = [await ws.modelTables(), await tablesFor(ws, account)];
  const linking = async (model: typeof all) => [
    ...(await linkingRows(ws.db, model, form.table, id)).filter((l) => !own.has(l.table)),
    ...(await Promise.all(lines.flatMap(({ table: of, rows }) => rows.map((r) => linkingRows(ws.db, model, of.key, r.row.id))))).flat(),
  ];
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
    for (const { table: of, rows } of lines)
      for (const { row } of rows) {
        await deleteRow(db, of.key, row.id);
        await addHistory(db, { table: of.key, row: row.id, kind: 'deleted', stamp, changes: asChanges(row, {}) });
      }
    await deleteRow(db, form.table, id);
    await addHistory(db, { table: form.table, row: id, kind: 'deleted', stamp, changes: asChanges(current.row, {}) });
  });
  for (const { table: of, rows } of lines) ws.rowsChanged(of.key, -rows.length);
  ws.rowsChanged(form.table, -1);
}

/** The records of a form as somebody may read them, with the fields’ labels above the columns, in the order of the form. */
export async function recordsToExport(ws: Workspace, account: Account, formKey: string): Promise<ToExport> {
  const { plan, form } = await publishedForm(ws, formKey);
  const whole = await tableFor(ws, account, form.table);
  const seen = await visibleColumns(ws, plan, account, whole.columns);
  const fields = plan.own.map((f) => f.definition).filter((d) => d.column !== null);
  const columns = fields.flatMap((d) => seen.filter((c) => c.key === d.column));
  const labels = new Map(fields.map((d) => [d.column as string, d.label]));
  return { table: { ...whole, columns }, who: account, header: (c) => labels.get(c.key) ?? c.label };
}
