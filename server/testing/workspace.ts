import { fileURLToPath } from 'node:url';
import { SMALL_DEMO } from '../demo/enter';
import { loadDemo } from '../demo/load';
import { openDatabase } from '../database/connection';
import { type Account, accountByEmail, addAccount } from '../database/accounts';
import { insertRow } from '../database/rows';
import { type Clock, Workspace } from '../services/workspace';

export const NOW = '2026-03-10T09:30:00';
export const FIXED: Clock = { now: () => NOW };
export const DEMO = fileURLToPath(new URL('../../demo', import.meta.url));

export interface TestWorkspace {
  readonly ws: Workspace;
  readonly maud: Account;
  readonly ida: Account;
}

/** A workspace in memory with the demo in it, on a day that stands still. */
export async function demoWorkspace(): Promise<TestWorkspace> {
  const ws = new Workspace(await openDatabase(':memory:'), FIXED);
  await loadDemo(ws, DEMO, async (password) => `hash of ${password}`, SMALL_DEMO);
  const account = async (email: string): Promise<Account> => (await accountByEmail(ws.db, email)) as Account;
  return { ws, maud: await account('maud@marrowfen.example'), ida: await account('ida@marrowfen.example') };
}

/** What a promise was refused with; fails when it was not refused. */
export async function refusal(
  work: Promise<unknown>,
): Promise<{ status: number; code: string; message: string; details: Record<string, unknown> }> {
  try {
    await work;
  } catch (e) {
    return e as { status: number; code: string; message: string; details: Record<string, unknown> };
  }
  throw new Error('nothing was refused');
}

/** A workspace in memory with two people who have accounts and nothing else: for tests that make their own tables. */
export async function bareWorkspace(): Promise<TestWorkspace> {
  const ws = new Workspace(await openDatabase(':memory:'), FIXED);
  const people = await ws.modelTable('people');
  const account = async (name: string, role: 'designer' | 'clerk'): Promise<Account> => {
    const email = `${name.toLowerCase()}@marrowfen.example`;
    const person = await insertRow(ws.db, people, { name, email }, { at: NOW, account: null, form: null, formVersion: null });
    await addAccount(ws.db, { email, passwordHash: 'x', roles: [role], person, demo: false });
    return (await accountByEmail(ws.db, email)) as Account;
  };
  return { ws, maud: await account('Maud', 'designer'), ida: await account('Ida', 'clerk') };
}
