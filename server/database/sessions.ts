import type { Database } from './connection';

/** A sign-in as it is kept: by the hash of its token, so that nobody who reads the database can use it. */
export interface SessionRow {
  readonly token: string;
  readonly account: number;
  /** what the account was when it was signed in to; a change of it ends the session */
  readonly fingerprint: string;
  /** milliseconds since 1970 */
  readonly began: number;
  readonly used: number;
}

const from = (raw: Record<string, unknown>): SessionRow => ({
  token: raw.token as string,
  account: raw.account_id as number,
  fingerprint: raw.fingerprint as string,
  began: raw.began as number,
  used: raw.used as number,
});

export async function sessionByToken(db: Database, token: string): Promise<SessionRow | null> {
  const raw = (await db('sessions').where({ token }).first()) as Record<string, unknown> | undefined;
  return raw ? from(raw) : null;
}
export async function addSession(db: Database, s: SessionRow): Promise<void> {
  await db('sessions').insert({ token: s.token, account_id: s.account, fingerprint: s.fingerprint, began: s.began, used: s.used });
}
export const touchSession = (db: Database, token: string, used: number) => db('sessions').where({ token }).update({ used });
export const dropSession = (db: Database, token: string) => db('sessions').where({ token }).delete();
/** Drops sessions that began, or were used last, before these moments. */
export const dropSessionsBefore = (db: Database, began: number, used: number) =>
  db('sessions').where('began', '<', began).orWhere('used', '<', used).delete();
