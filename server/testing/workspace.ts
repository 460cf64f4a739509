import { fileURLToPath } from 'node:url';
import { SMALL_DEMO } from '../demo/enter';
import { loadDemo } from '../demo/load';
import { openDatabase } from '../database/connection';
import { type Account, accountByEmail } from '../database/accounts';
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
