import type { Result } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import type { Overruled } from '../../core/evidence/habits.ts';
import { proposalKey } from '../../core/evidence/proposal.ts';
import { proposalsOf } from '../../core/evidence/proposals.ts';
import type { Proposal } from '../../core/evidence/proposal.ts';
import type { World } from '../../core/evidence/world.ts';
import type { Origin } from '../../core/model/origin.ts';
import type { Datum } from '../../core/values/types.ts';
import { savesOf } from '../database/history';
import { recordsOf } from '../database/rows';
import { setSetting, setting } from '../database/settings';
import { reachedRows } from './evidence';
import { draftPlan, formOf, publishedOrNull } from './forms';
import { type JobHandle, UNWATCHED } from './jobs';
import type { Workspace } from './workspace';

/* What the records of a form propose for it: looked for where nobody waits for it; what was refused stays refused. */

export type Proposals = Result<typeof contract.evidence.proposals>;
/** The most records that are looked through: the newest. */
const MOST_RECORDS = 100_000;
const MOST_SAVES = 200_000;
/** The most refusals kept of a form: the newest. */
const MOST_REFUSED = 1000;

const SET_BY_FORM: ReadonlySet<Origin['kind']> = new Set(['rule', 'move', 'filledUp', 'onlyOne', 'spread', 'calculation']);

interface Found {
  readonly records: number;
  readonly proposals: readonly Proposal[];
  readonly older: boolean;
}
export async function proposalsFor(ws: Workspace, form: string, job: JobHandle = UNWATCHED): Promise<Proposals> {
  const found = await ws.work.run('proposals', { form }, job);
  const refused = new Set(await refusedOf(ws, form));
  return { ...found, proposals: found.proposals.map((p) => ({ ...p, exceptions: [...p.exceptions], refused: refused.has(proposalKey(p)) })) }; // prettier-ignore
}

/** The looking, in a thread of its own. */
export async function findProposals(ws: Workspace, formKey: string, job: JobHandle): Promise<Found> {
  // a form that was never published is asked as it is drafted: its table may hold rows from elsewhere
  const plan = (await publishedOrNull(ws, formKey))?.plan ?? (await draftPlan(ws, formKey));
  const { form } = plan;
  const table = await ws.modelTable(form.table);
  job.at(0, 'reading the records');
  const { records, more } = await recordsOf(ws.db, table, MOST_RECORDS);
  const places = new Map(records.map((r, i) => [r.row.id, i]));
  const columns = new Map(table.columns.map((c) => [c.key, records.map((r) => r.row[c.key] ?? null)]));
  const overruled: Overruled[] = [];
  const byForm = new Set<string>();
  job.at(0.2, 'reading the history');
  for await (const page of savesOf(ws.db, { form: formKey, table: form.table, since: null, version: null }, MOST_SAVES))
    for (const { row, isNew, changes, gave, origins } of page) {
      for (const [column, kind] of Object.entries(origins)) if (SET_BY_FORM.has(kind)) byForm.add(column);
      const at = places.get(row);
      if (!isNew || at === undefined) continue;
      for (const column of Object.keys(gave ?? {})) overruled.push({ at, column, value: (changes[column]?.[1] ?? null) as Datum });
    }
  const world: World = {
    plan,
    ids: records.map((r) => r.row.id),
    days: records.map((r) => r.createdAt?.slice(0, 10) ?? null),
    columns,
    byForm,
    rows: await reachedRows(ws, plan, table.columns, 3),
  };
  const proposals = proposalsOf(world, overruled, (what, share) => job.at(0.3 + 0.7 * share, `looking for ${what}`));
  return { records: records.length, proposals, older: more };
}

const settingOf = (form: string): string => `refused ${form}`;
async function refusedOf(ws: Workspace, form: string): Promise<string[]> {
  const kept = await setting(ws.db, settingOf(form));
  return Array.isArray(kept) ? kept.filter((k): k is string => typeof k === 'string') : [];
}
/** Refuses a proposal for good, or takes it up again. */
export async function refuseProposal(ws: Workspace, form: string, proposal: string, refused: boolean): Promise<void> {
  await formOf(ws, form);
  const others = (await refusedOf(ws, form)).filter((k) => k !== proposal);
  await setSetting(ws.db, settingOf(form), refused ? [...others, proposal].slice(-MOST_REFUSED) : others);
}
