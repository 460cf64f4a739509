import { type OptionList, listProblems, optionListSchema, parseOutline } from '../../core/form/lists.ts';
import { keyFromLabel } from '../../core/form/tables.ts';
import type { Account } from './accounts';
import { Refused, notFound } from './errors';
import type { Workspace } from './workspace';

export interface ListAnswer extends OptionList {
  readonly revision: number;
  /** labels of the forms whose draft offers it */
  readonly usedBy: readonly { readonly key: string; readonly label: string }[];
}

interface ListRow {
  key: string;
  label: string;
  items: string;
  revision: number;
}

const listFrom = (row: ListRow): OptionList => optionListSchema.parse({ key: row.key, label: row.label, items: JSON.parse(row.items) });

/** All option lists, as the workspace keeps them. */
export const readLists = async (ws: Workspace): Promise<OptionList[]> => [...(await ws.lists()).values()];

async function usersOf(ws: Workspace, key: string): Promise<ListAnswer['usedBy']> {
  const forms = (await ws.db('forms').select('key', 'label', 'draft')) as { key: string; label: string; draft: string }[];
  const uses = (draft: string): boolean =>
    Object.values((JSON.parse(draft) as { fields: Record<string, { source?: { kind: string; list?: string } | null }> }).fields).some(
      (f) => f.source?.kind === 'list' && f.source.list === key,
    );
  return forms.filter((f) => uses(f.draft)).map((f) => ({ key: f.key, label: f.label }));
}

export async function listAnswers(ws: Workspace): Promise<ListAnswer[]> {
  const rows = (await ws.db('option_lists').orderBy('label')) as ListRow[];
  return Promise.all(rows.map(async (row) => ({ ...listFrom(row), revision: row.revision, usedBy: await usersOf(ws, row.key) })));
}

/** Makes a list, empty or from a pasted outline. */
export async function createList(ws: Workspace, account: Account | null, label: string, outline: string): Promise<string> {
  const taken = (await readLists(ws)).map((l) => l.key);
  const key = keyFromLabel(label, taken);
  const items = parseOutline(outline);
  await ws
    .db('option_lists')
    .insert({ key, label, items: JSON.stringify(items), changed_at: ws.clock.now(), changed_by: account?.id ?? null });
  ws.modelChanged();
  return key;
}

/** Saves a list as a whole if nobody saved it since; gives the new revision. Refused when values are used twice. */
export async function saveList(ws: Workspace, account: Account, list: OptionList, revision: number): Promise<number> {
  const problems = listProblems(list.items);
  if (problems.length) throw new Refused(422, 'values', problems[0] ?? '', { problems });
  const changed = await ws
    .db('option_lists')
    .where({ key: list.key, revision })
    .update({
      label: list.label,
      items: JSON.stringify(list.items),
      revision: revision + 1,
      changed_at: ws.clock.now(),
      changed_by: account.id,
    });
  if (changed !== 1) {
    if (!(await ws.db('option_lists').where({ key: list.key }).first())) throw notFound(`The list “${list.key}”`);
    throw new Refused(409, 'changedMeanwhile', 'Somebody else changed this list meanwhile. Read it again.', {});
  }
  ws.modelChanged();
  return revision + 1;
}

export async function removeList(ws: Workspace, key: string): Promise<void> {
  const users = await usersOf(ws, key);
  if (users.length) throw new Refused(409, 'inUse', `It is used by ${users.map((u) => u.label).join(', ')}.`, { users });
  if (!(await ws.db('option_lists').where({ key }).delete())) throw notFound(`The list “${key}”`);
  ws.modelChanged();
}
