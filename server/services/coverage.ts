import type { Result } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { type CascadeLevel, cascadesOf, nearDuplicates, standingParts } from '../../core/choices/coverage.ts';
import { isFolded } from '../../core/choices/order.ts';
import type { Plan } from '../../core/engine/plan.ts';
import { type SqlFragment, type SqlNames, conditionToSql } from '../../core/formula/sql.ts';
import { type CascadeRow, type Only, cascadeRows, levelSummary, spellings } from '../database/coverage';
import { namesFor } from '../database/names';
import { notFound } from './errors';
import { draftOf } from './forms';
import { type JobHandle, UNWATCHED } from './jobs';
import type { Workspace } from './workspace';

/** Tables up to this size are looked through for near duplicates. */
const SPELLING_LIMIT = 100_000;

export type CoverageAnswer = Result<typeof contract.forms.cascades.count>;
type CascadeAnswer = CoverageAnswer['cascades'][number];
type SpellingGroup = CoverageAnswer['spellings'][number];

async function draftPlan(ws: Workspace, form: string): Promise<Plan> {
  const { draft, revision } = await draftOf(ws, form);
  return ws.plan(`draft ${revision}`, draft);
}

/** What a level's list asks of every candidate, as SQL over an alias; null when it asks nothing that SQL can say. */
function standing(names: SqlNames, plan: Plan, level: CascadeLevel, alias = 'c'): SqlFragment | null {
  const narrowing = plan.fields[level.slot]?.choices?.narrowing;
  if (!narrowing) return null;
  const parts = standingParts(plan, level.slot).map((i) =>
    conditionToSql(narrowing.parts[i]!.syntax, narrowing.formula, narrowing.paramNumbers, names, alias),
  );
  const said = parts.filter((p) => p !== null);
  return said.length ? { sql: said.map((p) => `(${p.sql})`).join(' AND '), bindings: said.flatMap((p) => p.bindings) } : null;
}

/** Every cascade of a form's draft with its counts, and names that differ only in spelling. */
export const coverageOf = (ws: Workspace, form: string, job: JobHandle = UNWATCHED): Promise<CoverageAnswer> =>
  ws.work.run('coverage', { form }, job);

/** The counting itself, where nobody waits for it. */
export async function countCoverage(ws: Workspace, form: string, job: JobHandle): Promise<CoverageAnswer> {
  const plan = await draftPlan(ws, form);
  const cascades: CascadeAnswer[] = [];
  const chains = cascadesOf(plan);
  const levelCount = chains.reduce((n, chain) => n + chain.length, 0);
  let counted = 0;
  for (const chain of chains) {
    const levels: CascadeAnswer['levels'][number][] = [];
    for (const [i, level] of chain.entries()) {
      const above = chain[i - 1];
      job.at((counted++ / levelCount) * 0.9, `counting ${level.label}`);
      const summary = await levelSummary(ws.aside, {
        table: level.table,
        link: level.link,
        above: above?.table ?? null,
        condition: standing(namesFor(ws.db), plan, level),
        aboveCondition: above ? standing(namesFor(ws.db), plan, above, 'p') : null,
      });
      levels.push({ ...level, tableLabel: plan.tables.get(level.table)?.label ?? level.table, summary });
    }
    cascades.push({ levels });
  }
  job.at(0.9, 'looking for near spellings');
  return { cascades, ...(await spellingsOf(ws, plan)) };
}

async function spellingsOf(ws: Workspace, plan: Plan): Promise<Pick<CoverageAnswer, 'spellings' | 'notLooked'>> {
  const looked = new Map<string, { table: string; column: string; kind: 'rows' | 'values' }>();
  for (const { choices } of plan.fields) {
    if (!choices?.table) continue;
    const column = choices.values ?? (choices.source.kind === 'rows' ? choices.source.show : null);
    if (column) looked.set(`${choices.table} ${column}`, { table: choices.table, column, kind: choices.values ? 'values' : 'rows' });
  }
  const groups: SpellingGroup[] = [];
  const notLooked: string[] = [];
  for (const { table: key, column: columnKey, kind } of looked.values()) {
    const table = plan.tables.get(key);
    const column = table?.columns.find((c) => c.key === columnKey);
    if (!table || !column || !isFolded(column.type)) continue;
    if (table.rows > SPELLING_LIMIT) {
      notLooked.push(table.label);
      continue;
    }
    const found = nearDuplicates(await spellings(ws.aside, key, columnKey, kind === 'rows')).filter((g) => kind === 'rows' || g.length > 1);
    for (const spelled of found)
      groups.push({ table: key, tableLabel: table.label, column: columnKey, columnLabel: column.label, kind, spelled });
  }
  return { spellings: groups, notLooked };
}

export interface CascadeQuery {
  readonly cascade: number;
  readonly level: number;
  readonly parent: number | null;
  readonly only: Only;
  readonly offset: number;
  readonly limit: number;
}

/** What the database is asked for a level's rows and for their children's numbers. */
function askedOf(names: SqlNames, plan: Plan, chain: readonly CascadeLevel[], at: number) {
  const level = chain[at] as CascadeLevel;
  const below = chain[at + 1];
  const field = plan.fields[level.slot];
  const shown = field?.choices?.source.kind === 'rows' ? field.choices.source.show : null;
  return {
    own: { table: level.table, shown, link: level.link, condition: standing(names, plan, level) },
    below: below?.link ? { table: below.table, link: below.link, condition: standing(names, plan, below) } : null,
  };
}

/** Rows of one level of a cascade, under a row above or all, with their children counted. */
export async function cascadeLevelRows(ws: Workspace, form: string, query: CascadeQuery): Promise<{ rows: CascadeRow[]; total: number }> {
  const plan = await draftPlan(ws, form);
  const chain = cascadesOf(plan)[query.cascade];
  if (!chain?.[query.level]) throw notFound('This cascade');
  const { own, below } = askedOf(namesFor(ws.db), plan, chain, query.level);
  return cascadeRows(ws.aside, own, below, query);
}

/** Rows that a picture of a whole cascade has at most: more cannot be told apart, and levels below are told by their numbers. */
const MOST_DRAWN = 3000;

/** The levels of a cascade from the top, each with all its rows, as many levels as can be drawn. */
export async function cascadeWhole(ws: Workspace, form: string, cascade: number): Promise<{ levels: CascadeRow[][] }> {
  const plan = await draftPlan(ws, form);
  const chain = cascadesOf(plan)[cascade];
  if (!chain) throw notFound('This cascade');
  const levels: CascadeRow[][] = [];
  let left = MOST_DRAWN;
  for (const at of chain.keys()) {
    const { own, below } = askedOf(namesFor(ws.db), plan, chain, at);
    const { rows, total } = await cascadeRows(ws.aside, own, below, { parent: null, only: 'all', limit: left, offset: 0 });
    if (total > left) break;
    levels.push(rows);
    left -= total;
  }
  return { levels };
}
