import { type Entry } from '../../core/engine/entry.ts';
import type { Plan } from '../../core/engine/plan.ts';
import type { Answer, Answered, Want } from '../../core/engine/wants.ts';
import type { Env } from '../../core/formula/env.ts';
import type { Row } from '../../core/values/types.ts';
import { allRows, rowById } from '../database/rows';
import { DistinctLookup, Lookup } from '../database/lookups';
import { hasSearchIndex } from '../database/searchIndex';
import { Refused } from './errors';
import { largeTable } from './tables';
import type { Workspace } from './workspace';

/** At most this many wants in one request, and rows in one page. */
export const MAX_WANTS = 200;
const MAX_PAGE = 200;

/** Answers wants straight from the database. `me` and the dates matter only for parts of conditions not asked in SQL. */
export async function answerWants(ws: Workspace, plan: Plan, wants: readonly Want[], me: number | null): Promise<Answered[]> {
  if (wants.length > MAX_WANTS) throw new Refused(413, 'tooMuch', `At most ${MAX_WANTS} questions can be asked at once.`, {});
  const rows = new Map<string, Map<number, Row>>();
  const now = ws.clock.now();
  const env: Env = {
    values: [],
    candidate: null,
    params: [],
    today: now.slice(0, 10),
    now,
    me,
    mode: 'new',
    url: {},
    row: (table, id) => rows.get(table)?.get(id) ?? null,
  };
  return Promise.all(
    wants.map(async (want): Promise<Answered> => {
      try {
        return { want, answer: await answerOne(ws, plan, want, env, rows) };
      } catch (e) {
        if (e instanceof Refused) return { want, answer: { kind: 'failed', reason: e.message } };
        throw e;
      }
    }),
  );
}

/** Small tables whole, for parts of conditions that lead through links and are asked in memory. Read once a request. */
async function readRelated(ws: Workspace, plan: Plan, rows: Map<string, Map<number, Row>>): Promise<void> {
  for (const table of plan.tables.values()) {
    if (table.large || rows.has(table.key)) continue;
    rows.set(table.key, new Map((await allRows(ws.db, table)).map((r) => [r.id, r])));
  }
}

async function answerOne(ws: Workspace, plan: Plan, want: Want, env: Env, rows: Map<string, Map<number, Row>>): Promise<Answer> {
  if (want.kind === 'table') {
    const table = await ws.modelTable(want.table);
    if (await largeTable(ws, want.table)) return { kind: 'failed', reason: `${table.label} has too many rows to be sent whole.` };
    return { kind: 'table', rows: await allRows(ws.db, table) };
  }
  if (want.kind === 'row') return { kind: 'row', row: (await rowById(ws.db, await ws.modelTable(want.table), want.id))?.row ?? null };
  const choices = plan.fields[plan.slots.get(want.field) ?? -1]?.choices;
  if (!choices?.table) throw new Refused(422, 'values', `“${want.field}” has no list of rows.`, {});
  if (want.params.length !== (choices.narrowing?.params.length ?? 0))
    throw new Refused(422, 'values', 'The list was narrowed differently meanwhile.', {});
  const table = await ws.modelTable(choices.table);
  const { values } = choices;
  const indexed = want.kind === 'page' && want.search !== '' && (await hasSearchIndex(ws.db, table.key));
  const lookup =
    values === null
      ? new Lookup(ws.db, table, choices, { ...env }, indexed)
      : new DistinctLookup(ws.db, table, choices, { ...env }, values, indexed);
  if (lookup.asksInMemory(want)) await readRelated(ws, plan, rows);
  switch (want.kind) {
    case 'count':
      return { kind: 'count', ...(await lookup.count(want)) };
    case 'offered':
      return { kind: 'offered', offered: await lookup.offered(want, want.value) };
    case 'page':
      return { kind: 'page', ...(await lookup.page(want, want.search, want.offset, Math.min(want.limit, MAX_PAGE))) };
    case 'funnel':
      return { kind: 'funnel', ...(await lookup.funnel(want)) };
  }
}

/** Answers an entry's wants until it has none; gives all answers, so that a screen need not ask again. */
export async function settleEntry(ws: Workspace, entry: Entry, me: number | null): Promise<Answered[]> {
  const all: Answered[] = [];
  for (let round = 0; entry.wants.length; round++) {
    // each round answers all there is to ask, so a form can need no more rounds than it has cells
    if (round > entry.plan.cells.length + 2) throw new Error('an entry keeps wanting the same');
    const answered = await answerWants(ws, entry.plan, entry.wants, me);
    entry.supply(answered);
    all.push(...answered);
  }
  return all;
}
