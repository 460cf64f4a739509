import type { Result } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import type { Overruled } from '../../core/evidence/habits.ts';
import { proposalKey } from '../../core/evidence/proposal.ts';
import { proposalsOf } from '../../core/evidence/proposals.ts';
import type { Proposal } from '../../core/evidence/proposal.ts';
import { conditionsHeld } from '../../core/evidence/rulesHeld.ts';
import { type LinesOf, type World, linesWorlds } from '../../core/evidence/world.ts';
import type { Plan } from '../../core/engine/plan.ts';
import type { Origin } from '../../core/model/origin.ts';
import type { Datum } from '../../core/values/types.ts';
import { allAccounts } from '../database/accounts';
import { savesOf } from '../database/history';
import type { ModelTable } from '../database/model';
import { recordsOf } from '../database/rows';
import { setSetting, setting } from '../database/settings';
import { reachedRows } from './evidence';
import { draftPlan, formOf, publishedOrNull } from './forms';
import { type JobHandle, UNWATCHED } from './jobs';
import { ManyEntries, TOGETHER, readRecords } from './manyEntries';
import { recordPages } from './parts';
import type { Workspace } from './workspace';

/* What the records of a form propose for it: looked for where nobody waits for it; what was refused stays refused. */

export type Proposals = Result<typeof contract.evidence.proposals>;
/** The most records that are looked through: the newest. */
const MOST_RECORDS = 100_000;
const MOST_SAVES = 200_000;
const MOST_LINES = 400_000;
/** Records that rules are asked about: the newest. */
const MOST_ASKED = 500;
const LEAST_ASKED = 20;
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
  const people = new Map((await allAccounts(ws.db)).map((a) => [a.id, a.person]));
  const lines = await linesIn(ws, plan, places);
  const world: World = {
    plan,
    fields: plan.own,
    ids: records.map((r) => r.row.id),
    days: records.map((r) => r.createdAt?.slice(0, 10) ?? null),
    // who brought a file in did not enter what stands in it
    makers: records.map((r) => (r.byForm ? (people.get(r.createdBy ?? 0) ?? null) : null)),
    lines,
    columns,
    byForm,
    rows: await reachedRows(ws, plan, [...table.columns, ...lines.flatMap((l) => l.table.columns)], 3),
  };
  const told = (what: string, share: number): void => job.at(0.3 + 0.5 * share, `looking for ${what}`);
  const proposals = proposalsOf(world, overruled, told);
  for (const own of linesWorlds(world)) {
    job.at(0.8, 'looking through the lines');
    proposals.push(...proposalsOf(own, []));
  }
  job.at(0.9, 'asking the rules');
  proposals.push(...(await unusedRules(ws, plan, records.map((r) => r.row.id)))); // prettier-ignore
  return { records: records.length, proposals, older: more };
}

/** The lines of records, by the places these have. */
async function linesIn(
  ws: Workspace,
  plan: Plan,
  places: ReadonlyMap<number, number>,
): Promise<(LinesOf & { readonly table: ModelTable })[]> {
  const found = [];
  for (const { key, definition, first, count } of plan.lines) {
    const table = await ws.modelTable(definition.table);
    const { records } = await recordsOf(ws.db, table, MOST_LINES);
    const rows = records.flatMap(({ row }) => {
      const parent = places.get(Number(row[definition.link]));
      return parent === undefined ? [] : [{ row, parent }];
    });
    found.push({
      key,
      table,
      fields: plan.fields.slice(first, first + count),
      parents: rows.map((r) => r.parent),
      columns: new Map(table.columns.map((c) => [c.key, rows.map((r) => r.row[c.key] ?? null)])),
    });
  }
  return found;
}

/** Rules whose condition holds in none of the newest records, as they stand now. */
async function unusedRules(ws: Workspace, plan: Plan, ids: readonly number[]): Promise<Proposal[]> {
  const rules = plan.form.rules.filter((r) => r.on && r.when !== null);
  const asked = ids.slice(-MOST_ASKED);
  if (!rules.length || asked.length < LEAST_ASKED) return [];
  const many = await ManyEntries.of(ws, plan, (entry) => conditionsHeld(entry));
  const held = new Set<string>();
  for await (const page of recordPages(ws, plan.form.table, { rows: asked })) {
    const records = await readRecords(ws, plan, page);
    for (let i = 0; i < records.length; i += TOGETHER)
      for (const one of await many.run(records.slice(i, i + TOGETHER))) for (const id of one?.outcome ?? []) held.add(id);
  }
  return rules.filter((r) => !held.has(r.id)).map((r): Proposal => ({ kind: 'unused', field: `@${r.id}`, formula: '', message: null, fits: asked.length, of: asked.length, today: null, exceptions: [] })); // prettier-ignore
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
