import { Aside } from '../database/aside';
import { openDatabase } from '../database/connection';
import { dropStagings } from '../database/model';
import { FULL_DEMO, SMALL_DEMO } from '../demo/enter';
import { loadDemo } from '../demo/load';
import { loadScale } from '../demo/scale';
import { Workspace, systemClock } from '../services/workspace';

let opening: Promise<Workspace> | null = null;

/** The server's one workspace, opened on first use; requests wait until it is complete. The folder is named by BRISK_DATA. */
export function useWorkspace(): Promise<Workspace> {
  return (opening ??= open());
}

async function open(): Promise<Workspace> {
  const folder = process.env.BRISK_DATA ?? 'data';
  const file = `${folder}/brisk-acorn.sqlite`;
  const ws = new Workspace(await openDatabase(file), systemClock, `${folder}/files`, new Aside(file));
  await dropStagings(ws.db);
  const demo = process.env.BRISK_DEMO;
  const sheets = Number(process.env.BRISK_SCALE ?? 0);
  // tests need some records of each kind, not all
  const size = process.env.BRISK_DEMO_RECORDS === 'few' ? SMALL_DEMO : FULL_DEMO;
  if (demo) await loadDemo(ws, demo, hashPassword, size);
  if (demo && sheets > 0) await loadScale(ws, sheets);
  return ws;
}
