import type { Role } from '../../core/contract/define.ts';
import type { Database } from './connection';

export interface Account {
  readonly id: number;
  readonly email: string;
  readonly role: Role;
  readonly person: number;
  readonly name: string;
  readonly demo: boolean;
}

interface AccountRow {
  id: number;
  email: string;
  password_hash: string;
  role: Role;
  person_id: number;
  name: string | null;
  demo: number;
}

const accountFrom = (row: AccountRow): Account => ({
  id: row.id,
  email: row.email,
  role: row.role,
  person: row.person_id,
  name: row.name ?? row.email,
  demo: row.demo === 1,
});

const select = (db: Database) =>
  db('accounts').join('data_people', 'data_people.id', 'accounts.person_id').select('accounts.*', 'data_people.name');

export async function accountById(db: Database, id: number): Promise<Account | null> {
  const row = (await select(db).where('accounts.id', id).first()) as AccountRow | undefined;
  return row ? accountFrom(row) : null;
}

export async function accountByEmail(db: Database, email: string): Promise<(Account & { passwordHash: string }) | null> {
  const row = (await select(db).where('accounts.email', email.trim().toLowerCase()).first()) as AccountRow | undefined;
  return row ? { ...accountFrom(row), passwordHash: row.password_hash } : null;
}

/** An account with the hash of its password. */
export async function accountWithHash(db: Database, id: number): Promise<(Account & { passwordHash: string }) | null> {
  const row = (await select(db).where('accounts.id', id).first()) as AccountRow | undefined;
  return row ? { ...accountFrom(row), passwordHash: row.password_hash } : null;
}

/** The accounts that can be signed in to with one press: only those the demo made. */
export async function demoAccounts(db: Database): Promise<Account[]> {
  const rows = (await select(db).where('accounts.demo', true).orderBy('accounts.id')) as AccountRow[];
  return rows.map(accountFrom);
}

export async function addAccount(
  db: Database,
  account: { email: string; passwordHash: string; role: Role; person: number; demo: boolean },
): Promise<void> {
  await db('accounts').insert({
    email: account.email.trim().toLowerCase(),
    password_hash: account.passwordHash,
    role: account.role,
    person_id: account.person,
    demo: account.demo,
  });
}

/** Names of accounts, for "changed by". */
export async function accountNames(db: Database): Promise<ReadonlyMap<number, string>> {
  const rows = (await select(db)) as AccountRow[];
  return new Map(rows.map((r) => [r.id, r.name ?? r.email]));
}

/** The person behind each account. */
export async function personsOfAccounts(db: Database): Promise<ReadonlyMap<number, number>> {
  const rows = (await db('accounts').select('id', 'person_id')) as { id: number; person_id: number }[];
  return new Map(rows.map((r) => [r.id, r.person_id]));
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
