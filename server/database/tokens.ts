import type { Database } from './connection';

/** A token of a program, by its hash. */
export interface TokenRow {
  readonly id: number;
  readonly account: number;
  /** JSON */
  readonly rights: string;
  readonly madeAt: string;
  readonly madeBy: number | null;
  readonly usedAt: string | null;
}
const from = (raw: Record<string, unknown>): TokenRow => ({
  id: raw.id as number,
  account: raw.account_id as number,
  rights: raw.rights as string,
  madeAt: raw.made_at as string,
  madeBy: raw.made_by as number | null,
  usedAt: raw.used_at as string | null,
});
export async function tokenByHash(db: Database, token: string): Promise<TokenRow | null> {
  const raw = (await db('tokens').where({ token }).first()) as Record<string, unknown> | undefined;
  return raw ? from(raw) : null;
}
export const tokenRows = async (db: Database): Promise<TokenRow[]> =>
  ((await db('tokens').orderBy('id')) as Record<string, unknown>[]).map(from);
export async function addToken(
  db: Database,
  t: { token: string; account: number; rights: string; at: string; by: number },
): Promise<number> {
  const [id] = await db('tokens').insert({ token: t.token, account_id: t.account, rights: t.rights, made_at: t.at, made_by: t.by });
  return id as number;
}
export const dropToken = (db: Database, id: number): Promise<number> => db('tokens').where({ id }).delete();
export const touchToken = (db: Database, id: number, at: string): Promise<number> => db('tokens').where({ id }).update({ used_at: at });
