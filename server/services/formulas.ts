import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { formulaUses } from '../../core/engine/uses.ts';
import type { Form } from '../../core/form/definition.ts';
import { accountNames } from '../database/accounts';
import { definitionsInUse, versionsWithForms } from './forms';
import { Pace } from './pace';
import { MODEL_TABLES, type Workspace } from './workspace';

type UseInForm = Answer<typeof contract.forms.formulas>[number];
/** More are of no help to somebody who looks for an example. */
const MOST_USES = 200;

/** Formulas of the drafts of all forms that use any of these names (see `FormulaUse`). */
export async function usesOf(ws: Workspace, names: readonly string[]): Promise<UseInForm[]> {
  const sought = new Set(names);
  const found: UseInForm[] = [];
  const pace = new Pace();
  for (const { form, which, name } of await definitionsInUse(ws)) {
    if (which !== 'draft') continue;
    const kept = `uses in ${form.key} ${name} ${await ws.largeTables()}`;
    for (const use of await ws.kept.get(kept, MODEL_TABLES, async () => formulaUses(await ws.plan(name, form)))) {
      const common = use.names.filter((n) => sought.has(n));
      if (common.length) found.push({ ...use, names: common, form: form.key, formLabel: form.label });
    }
    await pace.rest();
  }
  return found.slice(0, MOST_USES);
}

export interface FormVersion {
  readonly version: number;
  readonly at: string;
  readonly by: string;
  readonly note: string;
  readonly form: Form;
}
/** The newest published versions of a form, newest first. */
export async function publishedVersions(ws: Workspace, key: string, most = 30): Promise<FormVersion[]> {
  const names = await accountNames(ws.db);
  const versions = await versionsWithForms(ws, key, most);
  return versions.map(({ publishedBy, number, publishedAt, note, form }) => ({
    version: number,
    at: publishedAt,
    by: publishedBy === null ? 'the demo' : (names.get(publishedBy) ?? 'somebody'),
    note,
    form,
  }));
}
