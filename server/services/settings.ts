import { type WorkspaceSettings, workspaceSchema } from '../../core/contract/people.ts';
import type { WorkCalendar } from '../../core/formula/functions/define.ts';
import type { Database } from '../database/connection';
import { rowsOf } from '../database/changes';
import { datesIn } from '../database/rows';
import { setSetting, setting } from '../database/settings';
import { Refused } from './errors';
import type { Workspace } from './workspace';

/* How a workspace is called, and how it counts and writes days. */

const KEY = 'workspace';
/** Zones that are offered. */
export const ZONES: readonly string[] = Intl.supportedValuesOf('timeZone');

export async function workspaceSettings(ws: Workspace, db: Database = ws.db): Promise<WorkspaceSettings> {
  // what an older version kept, or a hand spoiled, is no reason not to start
  const read = workspaceSchema.safeParse((await setting(db, KEY)) ?? {});
  return read.success ? read.data : workspaceSchema.parse({});
}
/** Changes the settings; a zone or a column of days off that is not there is refused. */
export async function changeSettings(ws: Workspace, settings: WorkspaceSettings, db: Database = ws.db): Promise<WorkspaceSettings> {
  if (settings.zone !== null && !isZone(settings.zone)) throw new Refused(422, 'values', `There is no time zone “${settings.zone}”.`, {});
  if (settings.holidays) {
    const { table, column } = settings.holidays;
    const found = (await ws.modelTables(db)).find((t) => t.key === table)?.columns.find((c) => c.key === column);
    if (found?.type !== 'date') throw new Refused(422, 'values', 'Days off must stand in a date column of a table.', {});
  }
  await setSetting(db, KEY, settings);
  ws.settingsChanged(settings);
  return settings;
}
export function isZone(zone: string): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone: zone });
    return true;
  } catch {
    return false;
  }
}

/** The most days off that are read. */
const MOST_DAYS = 5000;
/** The days that are worked, and the days off, as entries count them. */
export async function workCalendar(ws: Workspace): Promise<WorkCalendar> {
  const { workingDays, holidays } = await ws.kept.get('settings', ['workspace'], () => workspaceSettings(ws));
  const table = holidays && (await ws.modelTables()).find((t) => t.key === holidays.table);
  const column = table?.columns.find((c) => c.key === holidays?.column && c.type === 'date');
  const days =
    table && column
      ? await ws.kept.get(`days off in ${table.key} ${column.key}`, [rowsOf(table.key)], () => datesIn(ws.db, table.key, column.key, MOST_DAYS)) // prettier-ignore
      : [];
  return { workingDays: [...workingDays], holidays: days };
}
