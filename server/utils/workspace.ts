import { openDatabase } from '../database/connection';
import { loadDemo } from '../demo/load';
import { loadScale } from '../demo/scale';
import { Workspace } from '../services/workspace';

let opening: Promise<Workspace> | null = null;

/** The server's one workspace, opened on first use; requests wait until it is complete. The folder is named by BRISK_DATA. */
export function useWorkspace(): Promise<Workspace> {
  return (opening ??= open());
}

async function open(): Promise<Workspace> {
  const ws = new Workspace(await openDatabase(`${process.env.BRISK_DATA ?? 'data'}/brisk-acorn.sqlite`));
  const demo = process.env.BRISK_DEMO;
  const sheets = Number(process.env.BRISK_SCALE ?? 0);
  if (demo) await loadDemo(ws, demo, hashPassword);
  if (demo && sheets > 0) await loadScale(ws, sheets);
  return ws;
}
