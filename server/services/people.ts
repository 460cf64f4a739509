import { createHash, randomBytes } from 'node:crypto';
import type { Given } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import type { AccountLine } from '../../core/contract/people.ts';
import type { Role } from '../../core/values/roles.ts';
import {
  type Account,
  type WholeAccount,
  accountByPerson,
  accountWithAddress,
  addAccount,
  administrators,
  changeAccount,
  eachAccount,
  hasAccounts,
  removeAccount,
  wholeAccount,
} from '../database/accounts';
import { type Database, isStillReferenced } from '../database/connection';
import { addHistory } from '../database/history';
import { addInvite, dropInvites, inviteByToken, openInvites } from '../database/invites';
import { insertRow, rowById, updateRow } from '../database/rows';
import { Refused, notFound } from './errors';
import type { Asker } from './owners';
import { Pace } from './pace';
import { hashPassword } from './passwords';
import { workspaceSettings, changeSettings } from './settings';
import { asChanges, stampOf } from './tables';
import type { Workspace } from './workspace';

/*
 * People and their accounts. A password is set by the person it is for, by a one-time link that an administrator hands over; the server
 * keeps the hash of what stands in the link. The first administrator of a workspace has a link that the start of the server prints.
 */

export const hashOfToken = (token: string): string => createHash('sha256').update(token).digest('hex');
const freshToken = (): string => randomBytes(24).toString('base64url');
/** How long a one-time link is open, in milliseconds. */
const OPEN_FOR = 7 * 24 * 3_600_000;
export interface OneTimeLink {
  readonly path: string;
  readonly until: number;
}

async function newLink(ws: Workspace, account: number | null, by: number | null, now = Date.now()): Promise<OneTimeLink> {
  const token = freshToken();
  await addInvite(ws.db, hashOfToken(token), { account, made: now, expires: now + OPEN_FOR, by });
  return { path: `/welcome/${token}`, until: now + OPEN_FOR };
}
/** The link that makes the first administrator; null where anybody has an account already. One from an earlier start is void. */
export const firstLink = async (ws: Workspace): Promise<OneTimeLink | null> =>
  (await hasAccounts(ws.db)) ? null : newLink(ws, null, null);

const lineOf = (a: WholeAccount, links: ReadonlyMap<number, number>): AccountLine => ({
  id: a.id,
  person: a.person,
  name: a.name,
  email: a.email,
  team: a.team,
  roles: [...a.roles],
  active: a.active,
  demo: a.demo,
  hasPassword: a.passwordHash !== '',
  linkUntil: links.get(a.id) ?? null,
});
/** All accounts of people. */
export async function accountLines(ws: Workspace): Promise<AccountLine[]> {
  const links = await openInvites(ws.db, Date.now());
  const lines: AccountLine[] = [];
  const pace = new Pace();
  for await (const account of eachAccount(ws.db)) {
    if (account.kind === 'person') lines.push(lineOf(account, links));
    await pace.rest();
  }
  return lines;
}
async function lineFor(ws: Workspace, id: number): Promise<AccountLine> {
  return lineOf(await accountNamed(ws, id), await openInvites(ws.db, Date.now(), id));
}
async function accountNamed(ws: Workspace, id: number): Promise<WholeAccount> {
  const found = await wholeAccount(ws.db, id);
  if (!found || found.kind !== 'person') throw notFound('This account');
  return found;
}

/** Adds an account for somebody, who gets a row of People where they have none yet; with a link to set its password by. */
export async function addPerson(
  ws: Workspace,
  by: Account,
  sent: Given<typeof contract.people.add.body>,
): Promise<{ account: AccountLine; link: OneTimeLink }> {
  await refuseAddress(ws, sent.email, null);
  const person = await personFor(ws, by, sent);
  const id = await addAccount(ws.db, { email: sent.email, passwordHash: '', roles: sent.roles, person, demo: false });
  const link = await newLink(ws, id, by.id);
  return { account: await lineFor(ws, id), link };
}
/** The row of People somebody has, or is given. */
async function personFor(
  ws: Workspace,
  by: Account | null,
  { person, name, email, team }: { person: number | null; name: string; email: string; team: string | null },
): Promise<number> {
  const people = await ws.modelTable('people');
  if (person !== null) {
    if (!(await rowById(ws.db, people, person))) throw notFound('This person');
    if (await accountByPerson(ws.db, person)) throw new Refused(409, 'inUse', 'This person has an account already.', {});
    return person;
  }
  const values = { name, email, team };
  const id = await insertRow(ws.db, people, values, { at: ws.clock.now(), account: by?.id ?? null, form: null, formVersion: null });
  if (by) await addHistory(ws.db, { table: 'people', row: id, kind: 'created', stamp: stampOf(ws, by), changes: asChanges({}, values) });
  ws.rowsChanged('people', 1);
  return id;
}
async function refuseAddress(ws: Workspace, email: string, own: number | null): Promise<void> {
  const taken = await accountWithAddress(ws.db, email);
  if (taken && taken.id !== own) throw new Refused(409, 'inUse', `${taken.name} has an account with this e-mail address already.`, {});
}

/** Changes what an account may, its address, the team of its person, or puts it out of use. The last administrator stays one. */
export async function changePerson(
  ws: Workspace,
  by: Account,
  id: number,
  sent: Given<typeof contract.people.change.body>,
): Promise<AccountLine> {
  const account = await accountNamed(ws, id);
  await refuseAddress(ws, sent.email, id);
  // asked and done as one: of two administrators who take each other's role at once, one is refused
  await ws.db.transaction(async (db) => {
    if (!sent.active || !sent.roles.includes('administrator'))
      await refuseLast(db, account, sent.active ? 'must stay an administrator' : 'must stay in use');
    await changeAccount(db, id, { roles: sent.roles, active: sent.active, email: sent.email });
  });
  const people = await ws.modelTable('people');
  const row = await rowById(ws.db, people, account.person);
  if (row && (row.row.team ?? null) !== sent.team) {
    await updateRow(ws.db, people, account.person, row.revision, { team: sent.team }, stampOf(ws, by));
    await addHistory(ws.db, {
      table: 'people',
      row: account.person,
      kind: 'changed',
      stamp: stampOf(ws, by),
      changes: asChanges(row.row, { team: sent.team }),
    });
    ws.rowsChanged('people');
  }
  if (!sent.active) await dropInvites(ws.db, id);
  return lineFor(ws, id);
}
async function refuseLast(db: Database, account: WholeAccount, what: string): Promise<void> {
  const isAdministrator = account.active && account.roles.includes('administrator');
  if (isAdministrator && (await administrators(db)).every((id) => id === account.id))
    throw new Refused(
      409,
      'lastAdministrator',
      `${account.name} is the last administrator and ${what}. Make somebody else an administrator first.`,
      {},
    );
}

/** A new link to set a password by; the one before is void. */
export async function personLink(ws: Workspace, by: Account, id: number): Promise<OneTimeLink> {
  const account = await accountNamed(ws, id);
  if (!account.active) throw new Refused(409, 'outOfUse', `The account of ${account.name} is out of use. Put it in use first.`, {});
  return newLink(ws, id, by.id);
}

/** Removes an account that has left no trace; one that has is put out of use instead, so that the history keeps its name. */
export async function removePerson(ws: Workspace, id: number): Promise<void> {
  const account = await accountNamed(ws, id);
  try {
    await ws.db.transaction(async (db) => {
      await refuseLast(db, account, 'cannot be removed');
      await removeAccount(db, id);
    });
  } catch (e) {
    if (!isStillReferenced(e)) throw e;
    throw new Refused(
      409,
      'inUse',
      `${account.name} has entered or changed something, so the account stays for the history. Put it out of use instead.`,
      {},
    );
  }
}

// ---- one-time links ----

/** Whom a link is for. Refused when it was used, is too old, or never was. */
export async function linkHolder(ws: Workspace, token: string): Promise<{ account: WholeAccount | null }> {
  const invite = token.length > 100 ? null : await inviteByToken(ws.db, hashOfToken(token), Date.now());
  const account = invite && invite.account !== null ? await wholeAccount(ws.db, invite.account) : null;
  // the first administrator comes once: whoever has an account by now made it otherwise
  const isFirst = invite?.account === null && !(await hasAccounts(ws.db));
  if (!invite || (!account?.active && !isFirst))
    throw new Refused(404, 'noLink', 'This link was used already, or is too old. Ask for a new one.', {});
  return { account };
}
/** Sets the password that a link is for, and ends the link. Gives the account to sign in to. */
export async function usePersonLink(
  ws: Workspace,
  token: string,
  { password, first }: Given<typeof contract.welcome.use.body>,
): Promise<number> {
  const { account } = await linkHolder(ws, token);
  if (!account && !first) throw new Refused(422, 'values', 'Say who you are, and what the workspace is called.', {});
  const passwordHash = await hashPassword(password);
  return ws.db.transaction(async (db) => {
    // of two who use it at once, one does
    if (!(await inviteByToken(db, hashOfToken(token), Date.now()))) throw new Refused(404, 'noLink', 'This link was used already.', {});
    await dropInvites(db, account?.id ?? null);
    if (account) {
      await changeAccount(db, account.id, { passwordHash });
      return account.id;
    }
    const { name, email, workspace } = first as NonNullable<typeof first>;
    if (await hasAccounts(db)) throw new Refused(404, 'noLink', 'This workspace has an administrator already.', {});
    const people = await ws.modelTable('people', db);
    const person = await insertRow(db, people, { name, email }, { at: ws.clock.now(), account: null, form: null, formVersion: null });
    const roles: Role[] = ['administrator', 'designer'];
    const id = await addAccount(db, { email, passwordHash, roles, person, demo: false });
    await changeSettings(ws, { ...(await workspaceSettings(ws, db)), name: workspace }, db);
    return id;
  });
}

/** As whom a draft is tried: whoever asks, or a person with what their account is; somebody without one has no roles. */
export async function triedAs(ws: Workspace, account: Account, person: number | undefined): Promise<Asker> {
  return person === undefined ? account : ((await accountByPerson(ws.db, person)) ?? { person, roles: [] });
}
