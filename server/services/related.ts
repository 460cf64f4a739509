import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { linkTarget, targetOf } from '../../core/model/tables.ts';
import type { Only } from '../database/coverage';
import { cascadeRows } from '../database/coverage';
import { countWithout, neighbourOf } from '../database/rows';
import { tablesInForms } from './access';
import { tableFor } from './owners';
import { maySeeAll, plansFor } from './rights';
import type { Account } from '../database/accounts';
import { Refused, notFound } from './errors';
import { publishedForm } from './forms';
import { lookAt } from './look';
import type { Workspace } from './workspace';

export type Related = Answer<typeof contract.entries.related>;
type ChildForm = Related['groups'][number]['forms'][number];

/**
 * What belongs to a record: rows of any table that link to it, with the forms in which a further one can be entered, and
 * its neighbours, so that one can step from parent to parent. Tables that could have such rows but have none are there
 * too when a form can enter them. The lines of the record's own form are left out: they stand in the form itself.
 */
export async function relatedTo(ws: Workspace, account: Account, formKey: string, id: number): Promise<Related> {
  const { form } = await publishedForm(ws, formKey);
  const looked = await lookAt(ws, account, form.table, id);
  const told = maySeeAll(account) ? null : await tablesInForms(ws, account);
  const own = new Set(Object.values(form.lines).map((l) => `${l.table} ${l.link}`));
  const forms = (await plansFor(ws, account)).map((p) => p.form);
  const groups: Related['groups'][number][] = [];
  for (const table of await ws.modelTables()) {
    if (told && !told.has(table.key)) continue;
    for (const column of table.columns) {
      if (targetOf(column) !== form.table || own.has(`${table.key} ${column.key}`)) continue;
      const fitting = forms
        .filter((f) => f.table === table.key)
        .flatMap((f): ChildForm[] => {
          const field = Object.entries(f.fields).find(([, d]) => d.column === column.key)?.[0] ?? null;
          return field !== null || f.parent === form.table ? [{ form: f.key, label: f.label, field }] : [];
        });
      const children = looked.children.find((c) => c.table === table.key && c.column === column.key);
      if (!children && !fitting.length) continue;
      const none = { table: table.key, label: table.label, column: column.key, columnLabel: column.label, count: 0, rows: [] };
      groups.push({ ...(children ?? none), forms: fitting });
    }
  }
  const seen = await tableFor(ws, account, form.table);
  const neighbour = (side: 'before' | 'after'): Promise<number | null> => neighbourOf(ws.db, seen, id, side);
  return { groups, before: await neighbour('before'), after: await neighbour('after') };
}

export type ByParent = Answer<typeof contract.tables.parents>;

/** The rows that a link column leads to, each with the number of rows that link to it: children looked at by parent. */
export async function childrenByParent(
  ws: Workspace,
  key: string,
  columnKey: string,
  query: { only: Only; offset: number; limit: number },
): Promise<ByParent> {
  const table = await ws.modelTable(key);
  const column = table.columns.find((c) => c.key === columnKey);
  if (!column) throw notFound(`The column “${columnKey}”`);
  const target = linkTarget(column);
  if (target === null) throw new Refused(422, 'values', `${column.label} does not link each row to one parent.`, {});
  const parent = await ws.modelTable(target);
  const below = { table: key, link: columnKey, condition: null };
  const level = { table: target, shown: parent.shown, link: null, condition: null };
  const { rows, total } = await cascadeRows(ws.aside, level, below, { parent: null, ...query });
  return { parent: { key: target, label: parent.label }, rows, total, orphans: await countWithout(ws.aside, key, columnKey) };
}
