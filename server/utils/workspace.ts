import { existsSync, renameSync, rmSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { Pool } from '../work/pool';
import { aloneOnServer, closeDatabase, isServer, openDatabase } from '../database/connection';
import { checkpointsAside } from '../database/checkpoints';
import { setSetting, setting } from '../database/settings';
import { dropStagings } from '../database/model';
import { FULL_DEMO, SMALL_DEMO } from '../demo/enter';
import { hasAccounts } from '../database/accounts';
import { loadDemo } from '../demo/load';
import { loadScale } from '../demo/scale';
import { ensureNewIndexes } from '../services/publishing';
import { endLeftRetypings } from '../services/retyping';
import { sweepFiles } from '../services/files';
import { hashPassword } from '../services/passwords';
import { pruneRequests } from '../services/requests';
import { workspaceSettings } from '../services/settings';
import { SystemClock, Workspace } from '../services/workspace';

let opening: Promise<Workspace> | null = null;

/** The server's one workspace, opened on first use; requests wait until it is complete. The folder is named by BRISK_DATA. */
export function useWorkspace(): Promise<Workspace> {
  return (opening ??= open());
}

/** Closes the workspace, if it was ever opened. */
export async function closeWorkspace(): Promise<void> {
  const closing = opening;
  opening = null;
  await (await closing?.catch(() => null))?.close();
}

/** The threads for long reading; none while the application is developed, where their file is not built: then it is done here. */
function threads(file: string, files: string): Pool | null {
  const entry = join(dirname(process.argv[1] ?? ''), 'work.mjs');
  return existsSync(entry) ? new Pool(entry, file, files) : null;
}

/** Where the database is: a server named by DATABASE_URL, else a file in the data folder. */
export const databaseIn = (folder: string): string => process.env.DATABASE_URL ?? `${folder}/brisk-acorn.sqlite`;

async function open(): Promise<Workspace> {
  const folder = process.env.BRISK_DATA ?? 'data';
  const where = databaseIn(folder);
  if (process.env.BRISK_DEMO) {
    if (isServer(where)) await prepareDemoOnServer(where, folder, process.env.BRISK_DEMO);
    else await prepareDemo(where, folder, process.env.BRISK_DEMO);
  }
  const ws = new Workspace(await openDatabase(where), new SystemClock(), `${folder}/files`, threads(where, `${folder}/files`));
  if (!isServer(where)) ws.beforeClose(await checkpointsAside(ws.db, where));
  ws.settingsChanged(await workspaceSettings(ws));
  await dropStagings(ws.db);
  await endLeftRetypings(ws);
  await pruneRequests(ws.db, ws.clock.now());
  keepInOrder(ws);
  const sheets = Number(process.env.BRISK_SCALE ?? 0);
  if (process.env.BRISK_DEMO && sheets > 0) await loadScale(ws, sheets);
  await ensureNewIndexes(ws);
  return ws;
}

/**
 * Loads the demo where there is nothing yet: into a file beside the one that counts, which takes its place when it is
 * complete. A start that is killed on the way leaves nothing that the next would take for a whole demo.
 */
async function prepareDemo(file: string, folder: string, demo: string): Promise<void> {
  const part = `${file}.part`;
  const drop = (name: string): void => {
    for (const end of ['', '-wal', '-shm', '-journal']) rmSync(name + end, { force: true });
  };
  drop(part);
  if (existsSync(file)) {
    const db = await openDatabase(file);
    const used = await hasAccounts(db);
    await closeDatabase(db);
    // without an account nobody has ever signed in: what a first start left behind
    if (used) return;
  }
  const loading = new Workspace(await openDatabase(part), new SystemClock(), `${folder}/files`);
  await loadDemo(loading, demo, hashPassword, demoSize());
  await loading.close();
  drop(file);
  renameSync(part, file);
}

// tests need some records of each kind, not all
const demoSize = (): typeof FULL_DEMO => (process.env.BRISK_DEMO_RECORDS === 'few' ? SMALL_DEMO : FULL_DEMO);

/** What says, in a database on a server, that the demo is being loaded. */
const LOADING = 'demo_loading';
/**
 * The same in a database on a server, which nobody can make anew from here: a load that was cut short is told, so that nobody takes a part
 * for the whole. Of processes that start beside each other the first loads, the others wait.
 */
async function prepareDemoOnServer(url: string, folder: string, demo: string): Promise<void> {
  await aloneOnServer(url, async () => {
    const loading = new Workspace(await openDatabase(url), new SystemClock(), `${folder}/files`);
    try {
      if ((await setting(loading.db, LOADING)) === true)
        throw new Error('Loading the demo into this database was cut short. Empty the database (or name another in DATABASE_URL), then start again.'); // prettier-ignore
      if (await hasAccounts(loading.db)) return;
      await setSetting(loading.db, LOADING, true);
      await loadDemo(loading, demo, hashPassword, demoSize());
      await setSetting(loading.db, LOADING, false);
    } finally {
      await loading.close();
    }
  });
}

const DAILY = 24 * 3_600_000;
/** Once at the start and once a day: files that no record holds are removed. What fails is told and tried again the next day. */
function keepInOrder(ws: Workspace): void {
  const sweep = (): void => void sweepFiles(ws).catch((e: unknown) => console.error('Files that no record holds could not be removed:', e));
  setTimeout(sweep, 60_000).unref();
  setInterval(sweep, DAILY).unref();
}
