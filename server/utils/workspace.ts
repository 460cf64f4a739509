import { openDatabase } from '../database/connection';
import { Workspace } from '../services/workspace';

let opening: Promise<Workspace> | null = null;

/** The server's one workspace, opened on first use. The file is named by BRISK_DATA. */
export function useWorkspace(): Promise<Workspace> {
  return (opening ??= openDatabase(`${process.env.BRISK_DATA ?? 'data'}/brisk-acorn.sqlite`).then((db) => new Workspace(db)));
}
