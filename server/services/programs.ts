import { randomBytes } from 'node:crypto';
import type { Given } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import type { TokenLine } from '../../core/contract/people.ts';
import { MAY_FOR_PROGRAMS } from '../../core/values/roles.ts';
import { type FormScope } from '../../core/form/rights.ts';
import { rightsListSchema } from '../../core/form/peopleSchemas.ts';
import { type Account, accountNames, addAccount, changeAccount, wholeAccount } from '../database/accounts';
import { formKeys } from '../database/forms';
import { insertRow } from '../database/rows';
import { addToken, dropToken, tokenByHash, tokenRows, touchToken } from '../database/tokens';
import { parsedJson } from './definitions';
import { Refused, notFound } from './errors';
import { hashOfToken } from './people';
import type { Workspace } from './workspace';

/*
 * Other programs ask with a token (`Authorization: Bearer …`). Each has an account and a row of People of its own, so that records say
 * who entered them, and rights with some forms and nothing else. What they send goes through the same engine and checks.
 */

const PREFIX = 'ba_';
/** How often it is noted that a token is used, in milliseconds. */
const NOTED = 60_000;
const noted = new Map<number, number>();

export async function programLines(ws: Workspace): Promise<TokenLine[]> {
  const names = await accountNames(ws.db);
  const lines: TokenLine[] = [];
  for (const t of await tokenRows(ws.db)) {
    const account = await wholeAccount(ws.db, t.account);
    if (account)
      lines.push({
        id: t.id,
        account: account.id,
        name: account.name,
        roles: [...account.roles],
        rights: scopeOf(t.rights),
        madeAt: t.madeAt,
        madeBy: t.madeBy === null ? null : (names.get(t.madeBy) ?? null),
        usedAt: t.usedAt,
      });
  }
  return lines;
}
const scopeOf = (text: string): FormScope[] => {
  const read = rightsListSchema.safeParse(parsedJson(text));
  return read.success ? read.data : [];
};

/** Makes a token with rights of its own. It is told once and kept as its hash. */
export async function addProgram(
  ws: Workspace,
  by: Account,
  { name, roles, rights }: Given<typeof contract.programs.add.body>,
): Promise<{ program: TokenLine; token: string }> {
  const bad = roles.find((r) => !MAY_FOR_PROGRAMS.includes(r));
  if (bad) throw new Refused(422, 'values', `A program cannot be a ${bad}: it works with records, not on forms.`, {});
  const known = new Set(await formKeys(ws.db));
  const gone = rights.find((r) => !known.has(r.form));
  if (gone) throw notFound(`The form “${gone.form}”`);
  const token = `${PREFIX}${randomBytes(32).toString('base64url')}`;
  const id = await ws.db.transaction(async (db) => {
    const stamp = { at: ws.clock.now(), account: by.id, form: null, formVersion: null };
    const person = await insertRow(db, await ws.modelTable('people', db), { name }, stamp);
    // an address that nobody can sign in with
    const email = `program-${person}@${randomBytes(4).toString('hex')}.invalid`;
    const account = await addAccount(db, { email, passwordHash: '', roles, person, demo: false, kind: 'program' });
    return addToken(db, { token: hashOfToken(token), account, rights: JSON.stringify(rights), at: ws.clock.now(), by: by.id });
  });
  ws.rowsChanged('people', 1);
  const program = (await programLines(ws)).find((p) => p.id === id) as TokenLine;
  return { program, token };
}
/** Ends a token at once; its account stays for the history. */
export async function removeProgram(ws: Workspace, id: number): Promise<void> {
  const row = (await tokenRows(ws.db)).find((t) => t.id === id);
  if (!row) throw notFound('This token');
  await dropToken(ws.db, id);
  await changeAccount(ws.db, row.account, { active: false });
}

/** The account a token stands for, with the rights it has; null when it is none. */
export async function programAccount(ws: Workspace, token: string): Promise<Account | null> {
  if (!token.startsWith(PREFIX) || token.length > 100) return null;
  const row = await tokenByHash(ws.db, hashOfToken(token));
  const account = row && (await wholeAccount(ws.db, row.account));
  if (!row || !account?.active || account.kind !== 'program') return null;
  if (Date.now() - (noted.get(row.id) ?? 0) > NOTED) {
    noted.set(row.id, Date.now());
    await touchToken(ws.db, row.id, ws.clock.now());
  }
  const { id, email, roles, person, name, team, demo } = account;
  return { id, email, roles, person, name, team, demo, scope: scopeOf(row.rights) };
}
