import { createHash, randomBytes } from 'node:crypto';
import { addSession, dropSession, dropSessionsBefore, sessionByToken, touchSession } from '../database/sessions';
import { type Account, wholeAccount } from '../database/accounts';
import type { Workspace } from './workspace';

/*
 * Sign-ins, kept by the server (OWASP ASVS 3): the browser holds a random token, the database its hash. They end at sign-out,
 * after idling, at a set age, and when the account is changed in any way, also by hand in the database.
 */

const minutes = (name: string, usual: number): number => {
  const n = Number(process.env[name] ?? usual);
  return (Number.isFinite(n) && n > 0 ? n : usual) * 60_000;
};
export const idleTime = (): number => minutes('BRISK_SESSION_IDLE_MINUTES', 4 * 60);
export const mostAge = (): number => minutes('BRISK_SESSION_MINUTES', 14 * 60);
/** How often it is noted that a session is used: a write for every request would be waste. */
const NOTED = 60_000;

const hashOf = (text: string): string => createHash('sha256').update(text).digest('hex');

/** What a session and its account are read from. */
const TABLES = ['sessions', 'accounts', 'data_people'];

async function fingerprintOf(ws: Workspace, account: number): Promise<{ account: Account; fingerprint: string } | null> {
  const found = await wholeAccount(ws.db, account);
  if (!found?.active) return null;
  const { id, email, roles, person, name, team, demo, passwordHash } = found;
  const known = { id, email, roles, person, name, team, demo };
  return { account: known, fingerprint: hashOf([known.email, known.roles.join(), known.person, passwordHash].join('\n')) };
}

/** Begins a session; gives its token, which is told once and kept nowhere. */
export async function beginSession(ws: Workspace, account: number, now = Date.now()): Promise<string> {
  const token = randomBytes(32).toString('base64url');
  const known = await fingerprintOf(ws, account);
  await dropSessionsBefore(ws.db, now - mostAge(), now - idleTime());
  await addSession(ws.db, { token: hashOf(token), account, fingerprint: known?.fingerprint ?? '', began: now, used: now });
  return token;
}

/** Whose session a token is; null when it has ended or never was. Asked with `uses` false, it goes on idling: nobody did anything. */
export async function sessionAccount(ws: Workspace, token: string, now = Date.now(), uses = true): Promise<Account | null> {
  if (token.length < 20 || token.length > 100) return null;
  const hash = hashOf(token);
  const found = await ws.kept.get(`session ${hash}`, TABLES, async () => {
    const session = await sessionByToken(ws.db, hash);
    return session && { session, known: await fingerprintOf(ws, session.account) };
  });
  if (!found) return null;
  const { session, known } = found;
  const ended = now - session.began > mostAge() || now - session.used > idleTime() || known?.fingerprint !== session.fingerprint;
  if (ended) {
    await dropSession(ws.db, session.token);
    return null;
  }
  if (uses && now - session.used > NOTED) await touchSession(ws.db, session.token, now);
  return known.account;
}

export async function endSession(ws: Workspace, token: string): Promise<void> {
  await dropSession(ws.db, hashOf(token));
}
