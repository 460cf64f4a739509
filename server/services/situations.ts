import { MOST_SITUATIONS, type Situation, situationSchema } from '../../core/contract/situations.ts';
import type { Account } from '../database/accounts';
import { deleteSituation, putSituation, situationRows } from '../database/situations';
import { parsedJson } from './definitions';
import { Refused, notFound } from './errors';
import { formOf } from './forms';
import type { Workspace } from './workspace';

/* Situations in which a designer tries a form. They are the designer's own. */

/** Those of one designer that can be read. */
export async function situationsOf(ws: Workspace, account: Account, form: string): Promise<{ id: number; situation: Situation }[]> {
  await formOf(ws, form);
  return (await situationRows(ws.db, { form, account: account.id })).flatMap(({ id, definition }) => {
    const read = situationSchema.safeParse(parsedJson(definition));
    return read.success ? [{ id, situation: read.data }] : [];
  });
}
export async function keepSituation(ws: Workspace, account: Account, form: string, situation: Situation): Promise<number> {
  await formOf(ws, form);
  const own = await situationRows(ws.db, { form, account: account.id });
  if (own.length >= MOST_SITUATIONS && !own.some((s) => s.label === situation.label))
    throw new Refused(422, 'tooMany', `You keep at most ${MOST_SITUATIONS} situations of a form. Remove some.`, {});
  const row = { label: situation.label, definition: JSON.stringify(situation), at: ws.clock.now() };
  return putSituation(ws.db, { form, account: account.id }, row);
}
export async function removeSituation(ws: Workspace, account: Account, form: string, id: number): Promise<void> {
  if (!(await deleteSituation(ws.db, { form, account: account.id }, id))) throw notFound('This situation');
}
