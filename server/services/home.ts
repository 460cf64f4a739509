import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import type { Plan } from '../../core/engine/plan.ts';
import { type Steps, startsFrom } from '../../core/form/steps.ts';
import { isOneOf } from '../../core/form/who.ts';
import type { Column } from '../../core/model/tables.ts';
import { mayBuild } from '../../core/values/roles.ts';
import type { Account } from '../database/accounts';
import { formRows } from '../database/forms';
import { savedLately, savedWith } from '../database/history';
import type { ModelTable } from '../database/model';
import { countSeen, countsBy, rowsByIds } from '../database/rows';
import { visibleColumns } from './access';
import { tableFor } from './owners';
import { Pace } from './pace';
import { lastRuns } from './rehearsals';
import { maySeeAll, plansFor, rightsOf } from './rights';
import { readingOf, rowTexts } from './tables';
import { SAVED_OVER } from './workedOut';
import type { Workspace } from './workspace';

/* The first screen: what waits for somebody, and what they saved lately. Nothing is told of records that they may not see. */

export type Home = Answer<typeof contract.home.read>;
const MOST_RECENT = 8;

export async function homeOf(ws: Workspace, account: Account): Promise<Home> {
  const waiting: Home['waiting'][number][] = [];
  const counts: Record<string, number> = {};
  const warning: string[] = [];
  const seen = new Map<string, { readonly label: string; readonly table: ModelTable }>();
  const pace = new Pace();
  for (const { form, plan } of await plansFor(ws, account)) {
    await pace.rest();
    const may = await rightsOf(ws, account, form.key);
    if (!may.includes('see')) continue;
    const table = await tableFor(ws, account, form.table);
    const shown = table.columns.find((c) => c.key === table.shown);
    // what a record is known by may be hidden from them: then it is a number
    const isTold = shown !== undefined && (await isVisible(ws, plan, account, shown));
    seen.set(form.key, { label: form.label, table: isTold ? table : { ...table, shown: null } });
    counts[form.key] = table.seen ? await countSeen(ws.db, table, await readingOf(ws, table)) : await ws.rowCount(table.key);
    // a warning may hold values that are not shown to everybody
    if (maySeeAll(account) || !plan.fields.some((f) => f.isPersonal)) warning.push(form.key);
    if (form.steps && may.includes('edit')) waiting.push(...(await waitingIn(ws, account, plan, table, form.steps)));
  }
  waiting.sort((a, b) => (a.since ?? '').localeCompare(b.since ?? ''));
  return {
    waiting,
    counts,
    warned: await warnedOf(ws, account, new Map([...seen].filter(([key]) => warning.includes(key)))),
    recent: await recentOf(ws, account, seen),
    ...(mayBuild(account.roles) ? await troublesOf(ws) : { rehearsals: [], feeds: [] }),
  };
}

/** What failed when it was run or asked last. */
async function troublesOf(ws: Workspace): Promise<Pick<Home, 'rehearsals' | 'feeds'>> {
  const [labels, feeds, runs] = [new Map((await formRows(ws.db)).map((f) => [f.key, f.label])), await ws.feeds(), await lastRuns(ws)];
  return {
    rehearsals: Object.entries(runs).flatMap(([form, run]) =>
      run.failed && labels.has(form) ? [{ form, label: labels.get(form)!, ...run }] : [],
    ),
    feeds: [...ws.feedTroubles].flatMap(([key, trouble]) => (feeds.has(key) ? [{ key, label: feeds.get(key)!.label, ...trouble }] : [])),
  };
}

async function warnedOf(ws: Workspace, account: Account, seen: Seen): Promise<Home['warned'][number][]> {
  const tables = [...new Set([...seen.values()].map((s) => s.table.key))];
  const lines = (await savedWith(ws.db, tables, SAVED_OVER, MOST_RECENT)).filter((l) => seen.get(l.form)?.table.key === l.table);
  const texts = await textsOf(ws, account, seen, lines);
  return lines.flatMap(({ form, row, at, reason }) => {
    const text = texts.get(`${form} ${row}`);
    const said =
      reason
        .split('\n')
        .find((l) => l.startsWith(SAVED_OVER))
        ?.slice(SAVED_OVER.length) ?? '';
    return text === undefined ? [] : [{ form, formLabel: seen.get(form)!.label, id: row, text, at, said }];
  });
}
type Seen = ReadonlyMap<string, { readonly label: string; readonly table: ModelTable }>;
/** What records are known by, by form and number; of those that are gone, or are not theirs any more, nothing. */
async function textsOf(
  ws: Workspace,
  account: Account,
  seen: Seen,
  lines: readonly { readonly form: string; readonly row: number }[],
): Promise<Map<string, string>> {
  const texts = new Map<string, string>();
  for (const form of new Set(lines.map((l) => l.form))) {
    const { table } = seen.get(form)!;
    const rows = await rowsByIds(ws.db, table, lines.filter((l) => l.form === form).map((l) => l.row)); // prettier-ignore
    for (const [id, text] of await rowTexts(ws, table, rows, { who: account })) texts.set(`${form} ${id}`, text);
  }
  return texts;
}

/** The steps of a form that somebody may move records on from, with how many stand there. */
async function waitingIn(ws: Workspace, account: Account, plan: Plan, table: ModelTable, steps: Steps): Promise<Home['waiting'][number][]> {
  const mine = steps.moves.filter((m) => isOneOf(m.who, account.roles, account.team));
  const from = steps.list.filter((s) => !s.ends && mine.some((m) => startsFrom(m, s.value)));
  const column = table.columns.find((c) => c.key === plan.form.fields[steps.field]?.column);
  if (!from.length || !column || !(await isVisible(ws, plan, account, column))) return [];
  const counts = await countsBy(ws.db, table, column, from.map((s) => s.value), await readingOf(ws, table)); // prettier-ignore
  return from.flatMap((step) => {
    const found = counts.get(step.value);
    const moves = mine.filter((m) => startsFrom(m, step.value)).map((m) => m.label);
    return found ? [{ form: plan.form.key, label: plan.form.label, step, records: found.records, since: found.since, moves }] : [];
  });
}
const isVisible = async (ws: Workspace, plan: Plan, account: Account, column: Column): Promise<boolean> =>
  (await visibleColumns(ws, plan, account, [column])).length > 0;

async function recentOf(ws: Workspace, account: Account, seen: Seen): Promise<Home['recent'][number][]> {
  const lately = (await savedLately(ws.db, account.id, MOST_RECENT * 2)).filter((l) => seen.get(l.form)?.table.key === l.table);
  const texts = await textsOf(ws, account, seen, lately);
  // what is gone, or is not theirs any more, has no text
  return lately
    .flatMap(({ form, row, at, isNew }) => {
      const text = texts.get(`${form} ${row}`);
      return text === undefined ? [] : [{ form, formLabel: seen.get(form)!.label, id: row, text, at, isNew }];
    })
    .slice(0, MOST_RECENT);
}
