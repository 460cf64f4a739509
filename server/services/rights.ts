import { type FormRights, RIGHTS, type Right, hasRight } from '../../core/form/rights.ts';
import { rightsSchema } from '../../core/form/peopleSchemas.ts';
import { mayBuild } from '../../core/values/roles.ts';
import type { Account } from '../database/accounts';
import { formRow, formRows, newestVersions, setFormRights } from '../database/forms';
import { parsedJson } from './definitions';
import { Refused, notFound } from './errors';
import { type FormSummary, type PublishedForm, aboutForm, publishedPlans } from './forms';
import type { Workspace } from './workspace';

/* Who may do what with the records of a form: the one place that is asked, whoever asks and by whatever route. */

/** Those who build see everything: they have the tables. A program has the rights of its token alone. */
export const maySeeAll = (account: Account): boolean => !account.scope && mayBuild(account.roles);

export async function formRights(ws: Workspace, key: string): Promise<FormRights> {
  return ws.kept.get(`rights of ${key}`, ['forms'], async () => {
    const row = await formRow(ws.db, key);
    if (!row) throw notFound(`The form “${key}”`);
    return rightsSchema.parse(parsedJson(row.rights));
  });
}
/** Says who may; holds at once. */
export async function changeRights(ws: Workspace, key: string, rights: FormRights): Promise<FormRights> {
  await formRights(ws, key);
  await setFormRights(ws.db, key, JSON.stringify(rights));
  return rights;
}

/** The rights that somebody has with a form. */
export async function rightsOf(ws: Workspace, account: Account, key: string): Promise<readonly Right[]> {
  if (account.scope) return account.scope.find((s) => s.form === key)?.rights ?? [];
  if (maySeeAll(account)) return RIGHTS;
  const rights = await formRights(ws, key);
  return RIGHTS.filter((r) => hasRight(rights, r, account));
}
/** Refuses who has none of these rights with a form. */
export async function requireRight(ws: Workspace, account: Account, key: string, rights: readonly Right[]): Promise<void> {
  const has = await rightsOf(ws, account, key);
  if (rights.some((r) => has.includes(r))) return;
  const what = rights.includes('enter') && rights.includes('see') ? 'use this form' : DOES[rights[0] ?? 'see'];
  throw new Refused(403, 'forbidden', `You may not ${what}. Ask whoever administers the workspace.`, {});
}
const DOES: Readonly<Record<Right, string>> = {
  enter: 'enter new records of this form',
  see: 'see the records of this form',
  edit: 'change the records of this form',
  delete: 'delete the records of this form',
  export: 'export the records of this form',
};

/** The published forms that somebody may use. */
export async function plansFor(ws: Workspace, account: Account): Promise<PublishedForm[]> {
  const plans = await publishedPlans(ws);
  if (maySeeAll(account)) return plans;
  const has = await Promise.all(plans.map(async ({ form }) => (await rightsOf(ws, account, form.key)).length > 0));
  return plans.filter((_, i) => has[i]);
}

/** The forms as those who only enter records see them: those that are published and that they may use, and nothing of their drafts. */
export async function formsToEnter(ws: Workspace, account: Account): Promise<FormSummary[]> {
  const found: FormSummary[] = [];
  const versions = await newestVersions(ws.db);
  for (const row of await formRows(ws.db)) {
    const version = versions.get(row.key);
    const may = version ? await rightsOf(ws, account, row.key) : [];
    if (!version || !may.length) continue;
    const about = { ...aboutForm(row, version), changes: [], problems: { errors: 0, warnings: 0 }, broken: null, may: [...may] };
    found.push({ ...about, changedAt: version.published_at });
  }
  return found;
}
