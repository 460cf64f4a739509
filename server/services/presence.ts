import type { Account } from '../database/accounts';
import { rowById } from '../database/rows';
import { publishedForm } from './forms';
import { tableFor } from './owners';
import { notFound } from './errors';
import type { Workspace } from './workspace';

/* Who has a record open now. It is kept in memory: a window says so every while, and one that is silent has gone. */

/** How long a window counts as there after it was heard last, in milliseconds. */
const SILENT = 40_000;
/** Windows that are remembered; of more, the one heard longest ago goes. */
const MOST = 5000;
interface Window {
  readonly record: string;
  readonly account: number;
  readonly name: string;
  readonly at: number;
}
const windows = new Map<string, Window>();

/** Notes that a window has a record open, or no longer has; gives the names of others who have, and the revision the record has now. */
export async function hereIs(
  ws: Workspace,
  account: Account,
  formKey: string,
  id: number,
  { window, gone }: { readonly window: string; readonly gone: boolean },
  now = Date.now(),
): Promise<{ others: string[]; revision: number | null }> {
  const { form } = await publishedForm(ws, formKey);
  const row = await rowById(ws.db, await tableFor(ws, account, form.table), id);
  if (!row) throw notFound('This record');
  const [own, record] = [`${account.id} ${window}`, `${form.table} ${id}`];
  windows.delete(own);
  for (const [key, w] of windows) if (now - w.at > SILENT || windows.size >= MOST) windows.delete(key);
  if (!gone) windows.set(own, { record, account: account.id, name: account.name, at: now });
  const others = [...windows.values()].filter((w) => w.record === record && w.account !== account.id).map((w) => w.name);
  return { others: [...new Set(others)].sort(), revision: row.revision };
}
