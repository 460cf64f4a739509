import { type Entry } from '../../core/engine/entry.ts';
import { MOST_GATHERED, narrowingOfPick, pickOrder } from '../../core/engine/picks.ts';
import { wantsNeeded } from '../../core/engine/needed.ts';
import type { Plan } from '../../core/engine/plan.ts';
import { type Answer, type Answered, MAX_WANTS, type Want, batches } from '../../core/engine/wants.ts';
import type { Narrowing } from '../../core/choices/narrowing.ts';
import type { Env } from '../../core/formula/env.ts';
import { isDatum } from '../../core/formula/errors.ts';
import type { Formula } from '../../core/formula/formula.ts';
import { type Syntax, childrenOf } from '../../core/formula/syntax.ts';
import { byId } from '../../core/engine/cache.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import { accountOfPerson } from '../database/accounts';
import { type Asker, tableFor } from './owners';
import { nextNumber } from '../database/series';
import { lastOf, rowById, rowsByIds, usualIn } from '../database/rows';
import { type Asked, DistinctLookup, Lookup } from '../database/lookups';
import { READ_HERE } from '../database/reading';
import { FILES, isSeveral } from '../../core/model/tables.ts';
import { FeedFailure } from '../feeds/request';
import { Refused } from './errors';
import { Pace } from './pace';
import { feedItems } from './feeds';
import { fileRow } from './files';
import { isSearchIndexed, largeTable, readingOf } from './tables';
import type { Workspace } from './workspace';

/** At most this many rows in one page. */
const MAX_PAGE = 200;

/** What is asked of more than the database: numbers of series that others count on too, outside services. */
export interface Outside {
  readonly number: (series: string) => Promise<number>;
  /** The items of a feed; throws FeedFailure. */
  readonly items: (feed: string, params: Readonly<Record<string, Datum>>) => Promise<readonly Row[]>;
}
/** As it is where nothing is saved: the numbers that are next. */
export const outsideOf = (ws: Workspace): Outside => ({
  number: (series) => nextNumber(ws.db, series),
  items: (feed, params) => feedItems(ws, feed, params),
});

/** Answers wants straight from the database. `who` and the dates matter only for parts of conditions not asked in SQL. */
export async function answerWants(
  ws: Workspace,
  plan: Plan,
  wants: readonly Want[],
  who: Asker,
  outside: Partial<Outside> = {},
): Promise<Answered[]> {
  if (wants.length > MAX_WANTS) throw new Refused(413, 'tooMuch', `At most ${MAX_WANTS} questions can be asked at once.`, {});
  const rows: RelatedRows = new Map();
  const asking = { env: outsideEnv(ws, who, rows), rows, who, outside: { ...outsideOf(ws), ...outside } };
  return Promise.all(
    wants.map(async (want): Promise<Answered> => {
      try {
        return { want, answer: await answerOne(ws, plan, want, asking) };
      } catch (e) {
        if (e instanceof Refused) return { want, answer: { kind: 'failed', reason: e.message } };
        throw e;
      }
    }),
  );
}

/** Rows of small tables by table and id. */
export type RelatedRows = Map<string, Map<number, Row>>;

/** What a condition reads that is asked outside any entry: who asks, the dates, related rows. */
export function outsideEnv(ws: Workspace, { person: me, roles }: Asker, rows: RelatedRows): Env {
  const now = ws.clock.now();
  return {
    values: [],
    candidate: null,
    params: [],
    today: now.slice(0, 10),
    now,
    me,
    roles,
    mode: 'new',
    url: {},
    outer: null,
    parent: null,
    before: null,
    lines: () => [],
    item: () => null,
    row: (table, id) => rows.get(table)?.get(id) ?? null,
  };
}

/** Small tables whole, for parts of conditions that lead through links and are asked in memory. Read once a request. */
export async function readRelated(ws: Workspace, tables: Plan['tables'], rows: RelatedRows, who: Asker): Promise<void> {
  for (const table of tables.values()) {
    if (table.large || rows.has(table.key)) continue;
    rows.set(table.key, new Map(byId(await ws.wholeTable(await tableFor(ws, who, table.key)))));
  }
}

/** The row of the person who asks, however many people there are. */
export async function readPerson(ws: Workspace, me: number | null, rows: RelatedRows): Promise<void> {
  const people = rows.get('people') ?? new Map<number, Row>();
  if (me === null || people.has(me)) return;
  const found = await rowById(ws.db, await ws.modelTable('people'), me);
  if (found) rows.set('people', people.set(me, found.row));
}

/** Who asks, with what they read outside an entry. */
interface Asking {
  readonly env: Env;
  readonly rows: RelatedRows;
  readonly who: Asker;
  readonly outside: Outside;
}

async function answerOne(ws: Workspace, plan: Plan, want: Want, asking: Asking): Promise<Answer> {
  const { env, rows, who, outside } = asking;
  if (want.kind === 'table') {
    const table = await tableFor(ws, who, want.table);
    if (await largeTable(ws, want.table)) return { kind: 'failed', reason: `${table.label} has too many rows to be sent whole.` };
    return { kind: 'table', rows: await ws.wholeTable(table) };
  }
  if (want.kind === 'feed') {
    try {
      return { kind: 'items', items: await outside.items(want.feed, want.params) };
    } catch (e) {
      if (e instanceof FeedFailure) return { kind: 'failed', reason: e.message };
      throw e;
    }
  }
  if (want.kind === 'row' && want.table === FILES) return { kind: 'row', row: await fileRow(ws, want.id) };
  if (want.kind === 'row') return { kind: 'row', row: (await rowById(ws.db, await tableFor(ws, who, want.table), want.id))?.row ?? null };
  if (want.kind === 'picked') return pickedRows(ws, plan, want, asking);
  if (want.kind === 'last') return { kind: 'last', row: await lastRow(ws, plan, want, who) };
  if (want.kind === 'series') return { kind: 'number', next: await outside.number(want.series) };
  const choices = plan.fields[plan.slots.get(want.field) ?? -1]?.choices;
  if (!choices?.table) throw new Refused(422, 'values', `“${want.field}” has no list of rows.`, {});
  const asked = trusted(choices.narrowing, want, await withPeople(ws, choices.narrowing, plan, asking));
  const table = await tableFor(ws, who, choices.table);
  const { values } = choices;
  const searched = values === null ? choices.search : [values];
  const indexed = want.kind === 'page' && want.search !== '' && (await isSearchIndexed(ws, table.key, searched));
  const aside = want.kind === 'page' && (plan.tables.get(table.key)?.rows ?? 0) > READ_HERE ? ws.aside : null;
  const lookup =
    values === null
      ? new Lookup(ws.db, table, choices, { ...env }, indexed, columnsThere(plan), aside)
      : new DistinctLookup(ws.db, table, choices, { ...env }, values, indexed, columnsThere(plan), aside);
  if (lookup.asksInMemory(asked)) await readRelated(ws, plan.tables, rows, who);
  switch (want.kind) {
    case 'count':
      return { kind: 'count', ...(await lookup.count(asked)) };
    case 'offered':
      return { kind: 'offered', offered: await lookup.offered(asked, want.value) };
    case 'page':
      return { kind: 'page', ...(await lookup.page(asked, want.search, want.offset, Math.min(want.limit, MAX_PAGE))) };
    case 'funnel':
      return { kind: 'funnel', ...(await lookup.funnel(asked)) };
    case 'usual': {
      const ids = await usualIds(ws, plan, want.field, who);
      const offered = await Promise.all(ids.map((id) => lookup.offered(asked, id)));
      const rowsFound = await rowsByIds(ws.db, table, ids);
      const kept = ids.filter((_, i) => offered[i]).flatMap((id) => rowsFound.find((r) => r.id === id) ?? []);
      return { kind: 'usual', rows: kept.slice(0, MOST_USUAL) };
    }
  }
}

/** Whether a table has a column by now: a draft may name columns that are made when it is published. */
const columnsThere =
  (plan: Plan) =>
  (table: string, column: string): boolean =>
    column === 'id' || (plan.tables.get(table)?.columns.some((c) => c.key === column) ?? false);

/**
 * A question with what only the server can vouch for put right: what a condition asks of the person signed in and of the day
 * is computed here, and a part that waits for no field is not skipped, whatever was sent.
 */
function trusted(narrowing: Narrowing | null, asked: Asked, env: Env): Asked {
  const params = narrowing?.params ?? [];
  if (asked.params.length !== params.length) throw new Refused(422, 'values', 'The list was narrowed differently meanwhile.', {});
  const open = asked.open.filter((part) => (narrowing?.parts[part]?.drivers.length ?? 0) > 0);
  const skipped = new Set(open.flatMap((part) => narrowing?.parts[part]?.params ?? []));
  return {
    open,
    params: asked.params.map((given, i) => {
      const param = params[i];
      if (!param || skipped.has(i) || !ofPersonOrDay(param.syntax, (narrowing as Narrowing).formula)) return given;
      const own = param.run(env);
      return isDatum(own) ? own : given;
    }),
  };
}
/** Whether a part of a condition rests on nothing but who asks and when. */
function ofPersonOrDay(node: Syntax, formula: Formula): boolean {
  const source = formula.bindings.get(node)?.source;
  if (source) return source.kind === 'me';
  return node.kind !== 'name' && !formula.extras.has(node) && childrenOf(node).every((n) => ofPersonOrDay(n, formula));
}
/** The environment of a question, with the people there where the condition asks about the person signed in. */
async function withPeople(ws: Workspace, narrowing: Narrowing | null, plan: Plan, { env, rows, who }: Asking): Promise<Env> {
  const asksWho = [...(narrowing?.formula.bindings.values() ?? [])].some((b) => b.source.kind === 'me');
  if (asksWho && narrowing?.params.some((p) => p.syntax.kind === 'member')) {
    await readRelated(ws, plan.tables, rows, who);
    await readPerson(ws, env.me, rows);
  }
  return env;
}

/** What PICK or GATHER finds in a large table, by SQL where that can say the condition. */
async function pickedRows(ws: Workspace, plan: Plan, want: Extract<Want, { kind: 'picked' }>, asking: Asking): Promise<Answer> {
  const { env, rows, who } = asking;
  const part = plan.picks[want.pick];
  const narrowing = part && narrowingOfPick(part);
  if (!part || !narrowing || want.params.length !== narrowing.params.length)
    throw new Refused(422, 'values', 'The formula was changed meanwhile.', {});
  const order = pickOrder(part, plan);
  const choices = { narrowing, sort: order ? [order] : [], search: [], descending: part.sort?.descending ?? false };
  const lookup = new Lookup(ws.db, await tableFor(ws, who, part.table), choices, { ...env }, false, columnsThere(plan));
  const asked = trusted(narrowing, { params: want.params, open: [] }, await withPeople(ws, narrowing, plan, asking));
  if (lookup.asksInMemory(asked)) await readRelated(ws, plan.tables, rows, who);
  return { kind: 'picked', ...(await lookup.page(asked, '', 0, part.many ? MOST_GATHERED + 1 : 1)) };
}

const accountOf = (ws: Workspace, { person }: Asker): Promise<number | null> =>
  ws.kept.get(`account of ${person}`, ['accounts'], () => accountOfPerson(ws.db, person));

/** The record of the form's table that this person saved last, of those with the value where a column is named. */
async function lastRow(ws: Workspace, plan: Plan, want: Extract<Want, { kind: 'last' }>, who: Asker): Promise<Row | null> {
  const table = await tableFor(ws, who, plan.form.table);
  const column = want.column === null ? null : (table.columns.find((c) => c.key === want.column) ?? null);
  if (want.column !== null && !column) return null;
  const account = await accountOf(ws, who);
  return account === null ? null : lastOf(ws.db, table, account, column && { column, value: want.value });
}

const MOST_USUAL = 6;

/** The rows a field's records hold: those this person chose last, or those all choose most, as its source says. */
async function usualIds(ws: Workspace, plan: Plan, path: string, who: Asker): Promise<number[]> {
  const field = plan.fields[plan.slots.get(path) ?? -1];
  const source = field?.definition.source;
  const column = field?.definition.column;
  if (!field || !column || source?.kind !== 'rows' || source.first === 'none' || isSeveral(field.definition.type)) return [];
  const lines = plan.lines.find((l) => l.group === field.group);
  const table = lines?.definition.table ?? plan.form.table;
  const account = source.first === 'recent' ? await accountOf(ws, who) : null;
  // whoever has no account has chosen nothing
  if (source.first === 'recent' && account === null) return [];
  const seen = await tableFor(ws, who, table);
  return usualIn(ws.db, seen, column, account, 4 * MOST_USUAL, await readingOf(ws, seen));
}

/** Which outside services an entry being settled here asks: none, or those without which it cannot be judged. */
export type FeedsAsked = 'none' | 'needed';

/**
 * Answers an entry's wants until it has none; gives all answers, so that a screen need not ask again. Outside services may
 * be slow: a screen that opens asks them itself, and a save asks only those that somebody's choice hangs on.
 */
export async function settleEntry(
  ws: Workspace,
  entry: Entry,
  who: Asker,
  feeds: FeedsAsked = 'none',
  outside?: Partial<Outside>,
): Promise<Answered[]> {
  const all: Answered[] = [];
  const pace = new Pace();
  const asked = (): readonly Want[] => (feeds === 'needed' ? wantsNeeded(entry) : entry.wants.filter((w) => w.kind !== 'feed'));
  for (let wants = asked(), round = 0; wants.length; wants = asked(), round++) {
    // each round answers all there is to ask, so a form can need no more rounds than it has cells
    if (round > entry.plan.cells.length + 2) throw new Error('an entry keeps wanting the same');
    const answered = (await Promise.all(batches(wants).map((w) => answerWants(ws, entry.plan, w, who, outside)))).flat();
    await pace.through(entry.supplyInSteps(answered));
    all.push(...answered);
  }
  return all;
}
