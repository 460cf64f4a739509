import { ensureIndex } from '../database/model';
import { dropStaging } from '../database/staging';
import type { Column } from '../../core/model/tables.ts';
import { placeImport } from '../services/imports';
import { ensureAllIndexes, fillSearchIndexes, publishDefinition } from '../services/publishing';
import { renameColumn, renameTable } from '../services/renaming';
import { changeHeld, valueHeld } from '../services/lists';
import { mergeRows, respellValues, undoRepair } from '../services/repairs';
import { splitTable, undoSplit } from '../services/splitting';
import { addColumn, changeColumnType, removeColumn } from '../services/structure';
import { removeTable } from '../services/tables';
import type { Workspace } from '../services/workspace';

/*
 * What makes tables others, at length where they are long: indexes, columns, whole tables. Each calls `Workspace.reshape` with its name here
 * and what it was given, which is plain data: it goes from thread to thread.
 */
const RESHAPES = {
  publishDefinition,
  ensureAllIndexes,
  fillSearchIndexes,
  ensureIndexOf: (ws: Workspace, table: string, columns: readonly Column[]) => ensureIndex(ws.db, table, columns),
  addColumn,
  removeColumn,
  changeColumnType,
  removeTable,
  renameColumn,
  renameTable,
  valueHeld,
  changeHeld,
  respellValues,
  mergeRows,
  undoRepair,
  splitTable,
  undoSplit,
  placeImport,
  dropStaging: (ws: Workspace, name: string) => dropStaging(ws.db, name),
};
export type Reshape = keyof typeof RESHAPES;

export interface ReshapeAsked {
  readonly name: Reshape;
  readonly given: readonly unknown[];
}
/** Does it where it is called. */
export const reshapeNow = (ws: Workspace, { name, given }: ReshapeAsked): Promise<unknown> =>
  (RESHAPES[name] as (ws: Workspace, ...given: readonly unknown[]) => Promise<unknown>)(ws, ...given);
