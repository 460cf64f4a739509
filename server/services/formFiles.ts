import { type FormFile, type WorkspaceHas, formFileSchema, lacking, needsOf } from '../../core/exchange/formFile.ts';
import { keyFromLabel } from '../../core/model/tables.ts';
import { formKeys } from '../database/forms';
import type { Account } from '../database/accounts';
import { Refused } from './errors';
import { addForm, draftOf, versionOrNull } from './forms';
import { addRehearsal, rehearsalsOf } from './rehearsals';
import type { Workspace } from './workspace';

/* Forms out and in as files. */

const hasOf = async (ws: Workspace): Promise<WorkspaceHas> => ({
  tables: [...(await ws.tables()).values()],
  lists: [...(await ws.lists()).values()],
  feeds: [...(await ws.feeds()).values()],
});

/** A form as a file: a version of it, or its draft. Throws Refused when there is no such version. */
export async function formFile(ws: Workspace, key: string, version: number | null): Promise<FormFile> {
  const form = version === null ? (await draftOf(ws, key)).draft : await versionOrNull(ws, key, version);
  if (!form) throw new Refused(404, 'notPublished', `This form has no version ${version}.`, {});
  const rehearsals = (await rehearsalsOf(ws, key)).map((r) => r.rehearsal);
  return { brisk: 'form', format: 1, form, needs: needsOf(await ws.compiled(form), await hasOf(ws)), rehearsals };
}

/** Makes a form from a file, as a draft under a name that is free. Throws Refused with what is wrong with the file, or missing here. */
export async function bringInForm(
  ws: Workspace,
  account: Account,
  file: unknown,
): Promise<{ key: string; label: string; notes: string[] }> {
  const read = formFileSchema.safeParse(file);
  if (!read.success) {
    const [issue] = read.error.issues;
    const where = issue?.path.join('.') ?? '';
    const what = where === 'brisk' || where === 'format' ? 'it does not say that it is one' : `${where ? `${where}: ` : ''}${issue?.message ?? 'it does not fit'}`;
    throw new Refused(422, 'file', `This is no form file of this application: ${what}.`, {});
  } // prettier-ignore
  const { form, needs, rehearsals } = read.data;
  const missing = lacking(needs, await hasOf(ws));
  if (!missing.some((m) => m.includes(`no table “${form.table}”`)) && !(await ws.tables()).has(form.table))
    missing.unshift(`There is no table “${form.table}” for its records.`);
  if (missing.length)
    throw new Refused(422, 'needs', 'This workspace lacks what the form needs. Make or import that first, then the form.', { missing });
  const taken = await formKeys(ws.db);
  const key = taken.includes(form.key) ? keyFromLabel(form.label, taken) : form.key;
  const notes = key === form.key ? [] : [`There is a form “${form.key}” already: this one is called “${key}”.`];
  await addForm(ws, account, { ...form, key });
  for (const rehearsal of rehearsals) await addRehearsal(ws, account, key, rehearsal);
  const { problems } = await ws.compiled({ ...form, key });
  const errors = problems.filter((p) => p.severity === 'error').length;
  if (errors) notes.push(`${errors === 1 ? 'One problem' : `${errors} problems`} must be fixed before it can be published.`);
  return { key, label: form.label, notes };
}
