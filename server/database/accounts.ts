import type { FormScope } from '../../core/form/rights.ts';
import { ROLES, type Role } from '../../core/values/roles.ts';
import type { Database } from './connection';

export interface Account {
  readonly id: number;
  readonly email: string;
  readonly roles: readonly Role[];
  readonly person: number;
  readonly name: string;
  /** the team of the person, as it stands in People */
  readonly team: string | null;
  readonly demo: boolean;
  /** of a program: the rights of its token, and no others */
  readonly scope?: readonly FormScope[];
}
/** An account with what only its administration needs. */
export interface WholeAccount extends Account {
  readonly active: boolean;
  /** a person signs in; a program asks with a token */
  readonly kind: 'person' | 'program';
  readonly passwordHash: string;
}

interface AccountRow {
  id: number;
  email: string;
  password_hash: string;
  roles: string;
  person_id: number;
  name: string | null;
  team: string | null;
  demo: number;
  active: number;
  kind: 'person' | 'program';
}

/** By the text they are kept as: thousands of accounts have the same few. */
const knownRoles = new Map<string, readonly Role[]>();
const MOST_KNOWN = 200;
function rolesFrom(text: string): readonly Role[] {
  let roles = knownRoles.get(text);
  if (!roles) {
    roles = (JSON.parse(text) as string[]).filter((r): r is Role => ROLES.some((k) => k === r));
    if (knownRoles.size >= MOST_KNOWN) knownRoles.clear();
    knownRoles.set(text, roles);
  }
  return roles;
}
const accountFrom = (row: AccountRow): Account => ({
  id: row.id,
  email: row.email,
  roles: rolesFrom(row.roles),
  person: row.person_id,
  name: row.name ?? row.email,
  team: row.team,
  demo: row.demo === 1,
});
const wholeFrom = (row: AccountRow): WholeAccount => ({
  ...accountFrom(row),
  active: row.active === 1,
  kind: row.kind,
  passwordHash: row.password_hash,
});

const joined = (db: Database) => db('accounts').join('data_people', 'data_people.id', 'accounts.person_id');
const select = (db: Database) => joined(db).select('accounts.*', 'data_people.name', 'data_people.team');
const inOrder = (db: Database) => joined(db).orderBy('data_people.name').orderBy('accounts.id');

export async function accountById(db: Database, id: number): Promise<Account | null> {
  const row = (await select(db).where('accounts.id', id).first()) as AccountRow | undefined;
  return row ? accountFrom(row) : null;
}

/** The account of an address that may sign in, with the hash of its password; null where there is none, or it was put out of use. */
export async function accountByEmail(db: Database, email: string): Promise<(Account & { passwordHash: string }) | null> {
  const row = (await select(db)
    .where({ 'accounts.email': email.trim().toLowerCase(), 'accounts.active': true, 'accounts.kind': 'person' })
    .first()) as AccountRow | undefined;
  return row ? { ...accountFrom(row), passwordHash: row.password_hash } : null;
}
/** The account of a person; null where they have none. */
export async function accountByPerson(db: Database, person: number): Promise<Account | null> {
  const row = (await select(db).where('accounts.person_id', person).first()) as AccountRow | undefined;
  return row ? accountFrom(row) : null;
}

/** An account with everything that is kept of it. */
export async function wholeAccount(db: Database, id: number): Promise<WholeAccount | null> {
  const row = (await select(db).where('accounts.id', id).first()) as AccountRow | undefined;
  return row ? wholeFrom(row) : null;
}
/** How many are read at once. */
const AT_ONCE = 500;
/** All accounts, by the names of their people; read a few hundred at a time. */
export async function* eachAccount(db: Database): AsyncGenerator<WholeAccount> {
  // their order at one moment: between two pages somebody may get another name
  const order = (await inOrder(db).select('accounts.id')) as { id: number }[];
  for (let from = 0; from < order.length; from += AT_ONCE) {
    const page = order.slice(from, from + AT_ONCE).map((r) => r.id);
    const rows = new Map(((await select(db).whereIn('accounts.id', page)) as AccountRow[]).map((r) => [r.id, r]));
    for (const id of page) {
      const row = rows.get(id);
      if (row) yield wholeFrom(row);
    }
  }
}
/** The same, all in one. */
export async function allAccounts(db: Database): Promise<WholeAccount[]> {
  return ((await select(db).orderBy('data_people.name')) as AccountRow[]).map(wholeFrom);
}

/** Who may sign in, with what they may: no more is read of them. */
export async function activeRoles(db: Database): Promise<{ person: number; roles: readonly Role[] }[]> {
  const rows = await db('accounts').where({ active: true }).orderBy('id').select('person_id', 'roles');
  return (rows as Pick<AccountRow, 'person_id' | 'roles'>[]).map((r) => ({ person: r.person_id, roles: rolesFrom(r.roles) }));
}
/** The account that has an address, in use or not; null where none has. */
export async function accountWithAddress(db: Database, email: string): Promise<Account | null> {
  const row = (await select(db).where('accounts.email', email).first()) as AccountRow | undefined;
  return row ? accountFrom(row) : null;
}
/** The accounts in use whose role is administrator, by their numbers. */
export async function administrators(db: Database): Promise<number[]> {
  const rows = await db('accounts').where({ active: true }).whereLike('roles', '%administrator%').select('id', 'roles');
  return (rows as Pick<AccountRow, 'id' | 'roles'>[]).filter((r) => rolesFrom(r.roles).includes('administrator')).map((r) => r.id);
}

/** The accounts that can be signed in to with one press: only those the demo made. */
export async function demoAccounts(db: Database): Promise<Account[]> {
  const rows = (await select(db).where({ 'accounts.demo': true, 'accounts.active': true }).orderBy('accounts.id')) as AccountRow[];
  return rows.map(accountFrom);
}

/** Adds an account; gives its id. Without a password nobody can sign in to it until one is set. */
export async function addAccount(
  db: Database,
  account: { email: string; passwordHash: string; roles: readonly Role[]; person: number; demo: boolean; kind?: 'person' | 'program' },
): Promise<number> {
  const [id] = await db('accounts').insert({
    email: account.email.trim().toLowerCase(),
    password_hash: account.passwordHash,
    // what versions before several roles read
    role: account.roles[0] ?? 'clerk',
    roles: JSON.stringify(account.roles),
    person_id: account.person,
    demo: account.demo,
    kind: account.kind ?? 'person',
  });
  return id as number;
}
/** Changes an account; what is not named stays. */
export async function changeAccount(
  db: Database,
  id: number,
  change: { roles?: readonly Role[]; active?: boolean; passwordHash?: string; email?: string },
): Promise<void> {
  const { roles, active, passwordHash, email } = change;
  const set = {
    ...(roles ? { roles: JSON.stringify(roles), role: roles[0] ?? 'clerk' } : {}),
    ...(active === undefined ? {} : { active }),
    ...(passwordHash === undefined ? {} : { password_hash: passwordHash }),
    ...(email === undefined ? {} : { email: email.trim().toLowerCase() }),
  };
  if (Object.keys(set).length) await db('accounts').where({ id }).update(set);
}

export const removeAccount = (db: Database, id: number): Promise<number> => db('accounts').where({ id }).delete();

/** Names of accounts, for "changed by". */
export async function accountNames(db: Database): Promise<ReadonlyMap<number, string>> {
  const rows = (await select(db)) as AccountRow[];
  return new Map(rows.map((r) => [r.id, r.name ?? r.email]));
}

/** Who stands behind each account, whether it is used or not: the person, and what the account is. */
export async function whoOfAccounts(
  db: Database,
): Promise<ReadonlyMap<number, { readonly person: number; readonly roles: readonly Role[] }>> {
  const rows = (await db('accounts').select('id', 'person_id', 'roles')) as { id: number; person_id: number; roles: string }[];
  return new Map(rows.map((r) => [r.id, { person: r.person_id, roles: rolesFrom(r.roles) }]));
}

/** Whether anybody can sign in: otherwise nobody has ever used the workspace. */
export const hasAccounts = async (db: Database): Promise<boolean> => (await db('accounts').first()) !== undefined;

/** The account of a person; null where there is none. */
export async function accountOfPerson(db: Database, person: number | null): Promise<number | null> {
  const row = (await db('accounts').where({ person_id: person }).first('id')) as { id: number } | undefined;
  return row?.id ?? null;
}
/** Gives the accounts of one person to another, who is the same. */
export const movePerson = async (db: Database, from: number, to: number): Promise<void> =>
  void (await db('accounts').where({ person_id: from }).update({ person_id: to }));
