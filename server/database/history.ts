import type { Origin } from '../../core/model/origin.ts';
import type { Datum } from '../../core/values/types.ts';
import type { Database } from './connection';
import type { RowStamp } from './rows';
import { insertMany } from './statement';

export interface HistoryEntry {
  readonly table: string;
  readonly row: number;
  readonly kind: 'created' | 'changed' | 'deleted';
  readonly stamp: RowStamp;
  readonly changes: Readonly<Record<string, readonly [Datum, Datum]>>;
  /** how each changed value came to be, by column, where that is known */
  readonly origins?: Readonly<Record<string, Origin['kind']>>;
  /** what fills would have given where a person decided otherwise, by column */
  readonly gave?: Readonly<Record<string, Datum>>;
  /** why, when it was not a save by hand: a sentence */
  readonly reason?: string;
}

/** What is stored of it, in the order of `INSERTED`. */
export type StoredHistory = readonly (string | number | null)[];
export const storedHistory = (entry: HistoryEntry): StoredHistory => [
  entry.table,
  entry.row,
  entry.kind,
  entry.stamp.at,
  entry.stamp.account,
  entry.stamp.form,
  entry.stamp.formVersion,
  JSON.stringify(entry.changes),
  entry.reason ?? null,
  JSON.stringify(entry.origins ?? {}),
  entry.gave ? JSON.stringify(entry.gave) : null,
];

export const addHistory = (db: Database, entry: HistoryEntry): Promise<void> => addHistories(db, [entry]);
/** Many at once. */
export const addHistories = (db: Database, entries: readonly HistoryEntry[]): Promise<void> =>
  addStoredHistories(db, entries.map(storedHistory));
export const addStoredHistories = (db: Database, entries: readonly StoredHistory[]): Promise<void> =>
  insertMany(db, 'history', INSERTED, entries);
const INSERTED = ['table_key', 'row_id', 'kind', 'at', 'account_id', 'form_key', 'form_version', 'changes', 'reason', 'origins', 'gave'] as const; // prettier-ignore

export interface HistoryLine {
  readonly id: number;
  readonly kind: HistoryEntry['kind'];
  readonly at: string;
  readonly account: number | null;
  readonly formVersion: number | null;
  readonly changes: HistoryEntry['changes'];
  readonly origins: Readonly<Record<string, Origin['kind']>>;
  readonly reason: string | null;
}

/** What happened to a row, newest first. */
export async function historyOf(db: Database, table: string, row: number, most = 200): Promise<HistoryLine[]> {
  const lines = (await db('history').where({ table_key: table, row_id: row }).orderBy('id', 'desc').limit(most)) as Record<
    string,
    unknown
  >[];
  return lines.map((l) => ({
    id: l.id as number,
    kind: l.kind as HistoryEntry['kind'],
    at: l.at as string,
    account: l.account_id as number | null,
    formVersion: l.form_version as number | null,
    changes: JSON.parse(l.changes as string) as HistoryEntry['changes'],
    origins: JSON.parse(l.origins as string) as HistoryLine['origins'],
    reason: l.reason as string | null,
  }));
}

/** What is written in one transaction stands together: no more lines than this before the last of them. */
const TOGETHER = 50_000;
/** What was done to rows of a table at one moment, with what the last line of that says. */
export async function historyAt(
  db: Database,
  table: string,
  kind: HistoryEntry['kind'],
  { id, at }: Pick<HistoryLine, 'id' | 'at'>,
): Promise<{ row: number; changes: HistoryEntry['changes'] }[]> {
  const lines = (await db('history')
    .where({ table_key: table, kind, at })
    .whereBetween('id', [id - TOGETHER, id])
    .orderBy('id')) as { row_id: number; changes: string }[];
  return lines.map((l) => ({ row: l.row_id, changes: JSON.parse(l.changes) as HistoryEntry['changes'] }));
}

/** How far back is looked for what somebody saved: a history of any length is not gone through. */
const LATELY = 20_000;
/** The records that somebody saved last with forms, each once, newest first. */
export async function savedLately(
  db: Database,
  account: number,
  most: number,
): Promise<{ form: string; table: string; row: number; at: string; isNew: boolean }[]> {
  const [newest] = (await db('history').max({ id: 'id' })) as { id: number | null }[];
  const lines = (await db('history')
    .select('form_key', 'table_key', 'row_id', 'at', 'kind')
    .where('id', '>', (newest?.id ?? 0) - LATELY)
    .where({ account_id: account })
    .whereNotNull('form_key')
    .whereIn('kind', ['created', 'changed'])
    .orderBy('id', 'desc')
    // a record saved again and again is one
    .limit(most * 20)) as { form_key: string; table_key: string; row_id: number; at: string; kind: string }[];
  const found = new Map<string, { form: string; table: string; row: number; at: string; isNew: boolean }>();
  for (const l of lines) {
    const key = `${l.form_key} ${l.table_key} ${l.row_id}`;
    const known = found.get(key);
    if (known) known.isNew ||= l.kind === 'created';
    else found.set(key, { form: l.form_key, table: l.table_key, row: l.row_id, at: l.at, isNew: l.kind === 'created' });
  }
  return [...found.values()].slice(0, most);
}

/** The records of some tables that were saved last with a reason that holds a text, each once, newest first. */
export async function savedWith(
  db: Database,
  tables: readonly string[],
  text: string,
  most: number,
): Promise<{ form: string; table: string; row: number; at: string; reason: string }[]> {
  const [newest] = (await db('history').max({ id: 'id' })) as { id: number | null }[];
  const lines = (await db('history')
    .select({ form: 'form_key', table: 'table_key', row: 'row_id', at: 'at', reason: 'reason' })
    .where('id', '>', (newest?.id ?? 0) - LATELY)
    .whereIn('table_key', [...tables])
    .whereNotNull('form_key')
    .whereRaw('instr(reason, ?) > 0', [text])
    .orderBy('id', 'desc')
    .limit(most * 4)) as { form: string; table: string; row: number; at: string; reason: string }[];
  const seen = new Set<string>();
  return lines.filter((l) => !seen.has(`${l.table} ${l.row}`) && seen.add(`${l.table} ${l.row}`)).slice(0, most);
}

/** A save of a record by a form, as it stands in the history. */
export interface SaveLine {
  readonly row: number;
  readonly isNew: boolean;
  readonly at: string;
  readonly version: number;
  readonly changes: HistoryEntry['changes'];
  readonly origins: HistoryLine['origins'];
  readonly gave: Readonly<Record<string, Datum>> | null;
}
/** How many lines are read in one statement. */
const PAGE = 2000;
/** The saves of a form’s records, page by page, oldest first: of the newest `most` lines those since a day, and by a version. */
export async function* savesOf(
  db: Database,
  asked: { readonly form: string; readonly table: string; readonly since: string | null; readonly version: number | null },
  most: number,
): AsyncGenerator<readonly SaveLine[]> {
  const all = () => {
    const q = db('history').where({ form_key: asked.form, table_key: asked.table }).whereIn('kind', ['created', 'changed']);
    if (asked.since !== null) void q.where('at', '>=', asked.since);
    if (asked.version !== null) void q.where('form_version', asked.version);
    return q;
  };
  const [first] = (await all().select('id').orderBy('id', 'desc').offset(most - 1).limit(1)) as { id: number }[]; // prettier-ignore
  let after = (first?.id ?? 1) - 1;
  for (;;) {
    const lines = (await all().where('id', '>', after).orderBy('id').limit(PAGE)) as (Record<string, string | null> & {
      id: number;
      row_id: number;
      form_version: number | null;
    })[];
    if (!lines.length) return;
    after = lines.at(-1)!.id;
    yield lines.map((l) => ({
      row: l.row_id,
      isNew: l.kind === 'created',
      at: l.at ?? '',
      version: l.form_version ?? 0,
      changes: JSON.parse(l.changes ?? '{}') as HistoryEntry['changes'],
      origins: JSON.parse(l.origins ?? '{}') as HistoryLine['origins'],
      gave: l.gave ? (JSON.parse(l.gave) as Record<string, Datum>) : null,
    }));
  }
}
