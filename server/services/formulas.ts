import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { formulaUses } from '../../core/engine/uses.ts';
import type { Form } from '../../core/form/definition.ts';
import { accountNames } from '../database/accounts';
import { draftOf, formSummaries, versionsWithForms } from './forms';
import type { Workspace } from './workspace';

type UseInForm = Answer<typeof contract.forms.formulas>[number];
/** More are of no help to somebody who looks for an example. */
const MOST_USES = 200;

/** Formulas of the drafts of all forms that use any of these names (see `FormulaUse`). */
export async function usesOf(ws: Workspace, names: readonly string[]): Promise<UseInForm[]> {
  const sought = new Set(names);
  const found: UseInForm[] = [];
  for (const { key } of await formSummaries(ws)) {
    const { draft, revision } = await draftOf(ws, key);
    const plan = await ws.plan(`draft ${revision}`, draft);
    for (const use of formulaUses(plan)) {
      const common = use.names.filter((n) => sought.has(n));
      if (common.length) found.push({ ...use, names: common, form: key, formLabel: draft.label });
    }
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
