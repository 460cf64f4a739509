import type { Database } from './connection';

/** A one-time link as it is kept: by the hash of its token. */
export interface InviteRow {
  /** null: for the first administrator of a workspace */
  readonly account: number | null;
  /** milliseconds since 1970 */
  readonly expires: number;
}
export async function inviteByToken(db: Database, token: string, now: number): Promise<InviteRow | null> {
  const raw = (await db('invites').where({ token }).where('expires', '>', now).first()) as { account_id: number | null; expires: number } | undefined; // prettier-ignore
  return raw ? { account: raw.account_id, expires: raw.expires } : null;
}
/** Keeps a link; one for the same account before it is void. */
export async function addInvite(
  db: Database,
  token: string,
  invite: InviteRow & { readonly made: number; readonly by: number | null },
): Promise<void> {
  await dropInvites(db, invite.account);
  await db('invites').insert({ token, account_id: invite.account, made: invite.made, expires: invite.expires, made_by: invite.by });
}
export const dropInvites = async (db: Database, account: number | null): Promise<void> =>
  void (await (account === null ? db('invites').whereNull('account_id') : db('invites').where({ account_id: account })).delete());
/** Until when each account, or this one, has an open link. */
export async function openInvites(db: Database, now: number, account?: number): Promise<ReadonlyMap<number, number>> {
  const open = db('invites').where('expires', '>', now).select('account_id', 'expires');
  void (account === undefined ? open.whereNotNull('account_id') : open.where({ account_id: account }));
  return new Map(((await open) as { account_id: number; expires: number }[]).map((r) => [r.account_id, r.expires]));
}
