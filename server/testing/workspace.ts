import { copyFileSync, existsSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { inject } from 'vitest';
import { SMALL_DEMO } from '../demo/enter';
import { loadDemo } from '../demo/load';
import { openDatabase } from '../database/connection';
import { type Account, accountByEmail, addAccount } from '../database/accounts';
import { insertRow } from '../database/rows';
import { ON_SERVER, ownDatabase } from './databases';
import { type Clock, Workspace } from '../services/workspace';

declare module 'vitest' {
  interface ProvidedContext {
    /** where the demo stands once one test of a run has loaded it: the others take a copy */
    demoFolder: string;
  }
}

export const NOW = '2026-03-10T09:30:00';
export const FIXED: Clock = { now: () => NOW };
export const DEMO = fileURLToPath(new URL('../../demo', import.meta.url));

export interface TestWorkspace {
  readonly ws: Workspace;
  readonly maud: Account;
  readonly ida: Account;
}

/** Loads the demo where nothing is yet. */
async function loadInto(where: string): Promise<void> {
  const loading = new Workspace(await openDatabase(where), FIXED);
  await loadDemo(loading, DEMO, async (password) => `hash of ${password}`, SMALL_DEMO);
  await loading.close();
}

let copies = 0;
/** The demo as a file, loaded once in a run of all tests. */
async function loadedDemo(): Promise<string> {
  const file = join(inject('demoFolder'), 'demo.sqlite');
  if (existsSync(file)) return file;
  // whoever is quicker: both are the same
  const own = join(inject('demoFolder'), `loading-${process.pid}-${++copies}.sqlite`);
  await loadInto(own);
  renameSync(own, file);
  return file;
}
/** A copy of the demo of one's own. */
const copyOfDemo = (): Promise<string> => (ON_SERVER ? ownDatabase(inject('demoFolder'), 'demo', loadInto) : demoFile());
/** The same in a file. */
export async function demoFile(): Promise<string> {
  const file = join(inject('demoFolder'), `copy-${process.pid}-${++copies}.sqlite`);
  copyFileSync(await loadedDemo(), file);
  return file;
}

/** A workspace of one's own with the demo in it, on a day that stands still. */
export async function demoWorkspace(): Promise<TestWorkspace> {
  const ws = new Workspace(await openDatabase(await copyOfDemo()), FIXED);
  // nobody needs it after the test
  if (!ON_SERVER) await ws.db.raw('PRAGMA synchronous = OFF');
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

/** Where a database with nothing in it is opened: in memory, or on the server the tests run on. */
export const emptyDatabase = async (): Promise<string> =>
  ON_SERVER ? ownDatabase(inject('demoFolder'), 'empty', async () => undefined) : ':memory:';

/** A workspace in memory with two people who have accounts and nothing else: for tests that make their own tables. */
export async function bareWorkspace(): Promise<TestWorkspace> {
  const ws = new Workspace(await openDatabase(await emptyDatabase()), FIXED);
  const people = await ws.modelTable('people');
  const account = async (name: string, role: 'designer' | 'clerk'): Promise<Account> => {
    const email = `${name.toLowerCase()}@marrowfen.example`;
    const person = await insertRow(ws.db, people, { name, email }, { at: NOW, account: null, form: null, formVersion: null });
    await addAccount(ws.db, { email, passwordHash: 'x', roles: [role], person, demo: false });
    return (await accountByEmail(ws.db, email)) as Account;
  };
  return { ws, maud: await account('Maud', 'designer'), ida: await account('Ida', 'clerk') };
}
